import type { Command } from 'commander'
import { bare, foldName, labelsOf } from '../../core/names/name.ts'
import { u16At, u32At } from '../../core/names/octets.ts'
import { NONE } from '../../core/names/tree.ts'
import { TYPE, typeText } from '../../core/records/types.ts'
import { entryParts } from '../../core/zone/entry.ts'
import { LineIndex } from '../../core/zone/places.ts'
import { byPurpose, joinedText, PURPOSES, type Purpose, type PurposedSet, whereItLeads } from '../../core/zone/purpose.ts'
import type { Zone, Zones } from '../../core/zone/zones.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { printable } from '../output/printable.ts'
import { table } from '../output/table.ts'
import { choose, type SourceOptions } from './source.ts'

const HEADINGS: Record<Purpose, string> = {
  'receives mail': 'Receives mail',
  'may send': 'May send mail as the domain (SPF)',
  'signs mail': 'Signs mail (DKIM)',
  'mail policy': 'Policy for mail that fails, and reports',
  services: 'Services',
  aliases: 'Aliases',
  hosts: 'Hosts',
  'proofs and other texts': 'Proofs of ownership and other texts',
  'name servers': 'Name servers',
  delegated: 'Delegated to other servers',
  'reverse names': 'Names of addresses',
  other: 'Other records',
}

/** Shows zones by purpose, or their sets as JSON. */
export async function show(what: string | undefined, options: SourceOptions & { json?: boolean }, command: Command): Promise<void> {
  const { zones, chosen } = await choose(what, options)
  if (options.json) {
    const documents = chosen.map((zone) => zoneJson(zones, zone))
    printJson(
      documents.length === 1
        ? { format: 1, ...documents[0] }
        : { format: 1, zone: null, serial: null, sets: documents.flatMap((each) => each.sets.map((set) => ({ zone: each.zone, ...set }))) },
    )
    return
  }
  const page = new Page(command)
  chosen.forEach((zone, i) => {
    if (i > 0) page.line()
    showZone(page, zones, zone)
  })
  page.print()
}

function nameAbove(rows: string[][], at: number): string {
  let i = at - 1
  while (i > 0 && rows[i][0] === '') i--
  return rows[i][0]
}

function serialOf(zones: Zones, zone: Zone): number | null {
  if (zone.soa === NONE) return null
  const data = zones.rdata(zone.soa)
  return u32At(data, data.length - 20)
}

function zoneJson(zones: Zones, zone: Zone) {
  const lines = new Map(zones.sources.filter((source) => zones.zones[source.zone] === zone).map((source) => [source, new LineIndex(source.octets)]))
  const sets = new Map<string, { owner: string; type: string; ttl: number; records: string[]; line: number }>()
  for (let record = 0; record < zones.count; record++) {
    if (zones.zoneOfRecord(record) !== zone) continue
    const owner = foldName(zones.tree.text(zones.owner(record)))
    const type = typeText(zones.type(record))
    const key = `${owner} ${type}`
    const set = sets.get(key)
    if (set) set.records.push(zones.rdataText(record))
    else {
      const line = lines.get(zones.source(record))!.place(entryParts(zones, record).type[0]).line
      sets.set(key, { owner, type, ttl: zones.ttl(record), records: [zones.rdataText(record)], line })
    }
  }
  return { zone: foldName(zone.name), serial: serialOf(zones, zone), sets: [...sets.values()] }
}

function showZone(page: Page, zones: Zones, zone: Zone): void {
  const { colour } = page
  const sets = byPurpose(zones, zone)
  const serial = serialOf(zones, zone)
  const problems = zones.sources.filter((source) => zones.zones[source.zone] === zone).reduce((sum, source) => sum + source.problems.length, 0)
  page.line(
    `${colour.bold(printable(bare(zone.name)))}  ${colour.dim(printable(`${serial === null ? 'no SOA record' : `serial ${serial}`}, ${counted(sets.length, 'record set')}, ${zone.file}`))}`,
  )
  if (problems > 0)
    page.text(
      `${counted(problems, 'entry', 'entries')} of the file could not be read and ${problems === 1 ? 'is' : 'are'} missing here: bramblefront check says why.`,
    )
  const short = (name: string): string =>
    foldName(name) === foldName(zone.name)
      ? bare(name)
      : foldName(name).endsWith(`.${foldName(zone.name)}`) && zone.name !== '.'
        ? name.slice(0, -zone.name.length - 1)
        : name
  for (const purpose of PURPOSES) {
    const here = sets.filter((set) => set.purpose === purpose)
    if (here.length === 0) continue
    page.line()
    page.line(colour.bold(HEADINGS[purpose]))
    const rows = here.flatMap((set) => rowsOf(zones, set, short))
    // A name is said once for all that stands at it.
    for (let i = rows.length - 1; i > 0; i--) if (rows[i][0] !== '' && rows[i][0] === nameAbove(rows, i)) rows[i][0] = ''
    table(page, rows, '  ', (cell, column) => (column === 0 ? colour.cyan(cell) : cell))
  }
}

function soaRow([primary, mailbox, , refresh, retry, expire, minimum]: string[], short: (name: string) => string): string[] {
  return [`primary ${short(primary)}`, `mailbox ${short(mailbox)}; refresh ${refresh}, retry ${retry}, expire ${expire}, denials kept ${minimum}`]
}

/** "imaps over tcp" of `_imaps._tcp.…`. */
function serviceText(labels: string[]): string | undefined {
  const at = labels[1]?.startsWith('_') ? 0 : labels[2]?.startsWith('_') ? 1 : -1
  if (at < 0 || !labels[at].startsWith('_')) return undefined
  return `${at === 1 ? `${labels[0]}, ` : ''}${labels[at].slice(1)} over ${labels[at + 1].slice(1)}`
}

/** The rows of one set: owner, what it says, and where that leads. */
function rowsOf(zones: Zones, set: PurposedSet, short: (name: string) => string): string[][] {
  const owner = short(zones.tree.text(set.owner))
  const leads = (record: number): string => whereItLeads(zones, zones.target(record))
  const target = (record: number): string => short(zones.tree.text(zones.target(record)))
  const rows = set.records.map((record): string[] => {
    const data = zones.rdata(record)
    switch (set.purpose) {
      case 'receives mail':
        return data[2] === 0 ? ['takes no mail (null MX)', ''] : [`${u16At(data, 0)} ${target(record)}`, leads(record)]
      case 'services':
        return [`${target(record)} port ${u16At(data, 4)}`, `priority ${u16At(data, 0)}, weight ${u16At(data, 2)}; ${leads(record)}`]
      case 'may send':
      case 'proofs and other texts':
        return [joinedText(zones, record)]
      case 'signs mail':
      case 'mail policy':
        return [set.type === TYPE.TXT ? joinedText(zones, record) : `alias of ${target(record)} (${leads(record)})`]
      case 'aliases':
        return [target(record), leads(record)]
      case 'name servers':
      case 'delegated':
        return set.type === TYPE.NS
          ? [`server ${target(record)}`, leads(record)]
          : set.type === TYPE.SOA
            ? soaRow(zones.rdataText(record).split(' '), short)
            : [`${typeText(set.type)} ${zones.rdataText(record)}`, '']
      case 'hosts':
        return [zones.rdataText(record)]
      default:
        return [`${typeText(set.type)} ${zones.rdataText(record)}`]
    }
  })
  const width = Math.max(...rows.map((row) => row.length))
  const named = set.purpose === 'services' ? serviceOwner(owner) : owner
  return rows.map((row, i) => [i === 0 ? named : '', ...row, ...Array<string>(width - row.length).fill('')])
}

function serviceOwner(owner: string): string {
  const labels = labelsOf(owner)
  const service = serviceText(labels)
  const rest = labels.slice(labels[1]?.startsWith('_') ? 2 : 3).join('.')
  return service ? `${service}${rest ? ` for ${rest}` : ''}` : owner
}
