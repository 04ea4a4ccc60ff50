import type { Command } from 'commander'
import { entryParts } from '../../core/file/entry.ts'
import { FORMS, type Form, zoneInForm } from '../../core/file/forms.ts'
import { LineIndex } from '../../core/file/places.ts'
import { looksLikeKey, parseKey } from '../../core/mail/dkim/key.ts'
import { askingTerms, type BudgetNode, spfBudget } from '../../core/mail/spf/budget.ts'
import { MAX_LOOKUPS } from '../../core/mail/spf/check-host.ts'
import { readSpf } from '../../core/mail/spf/record.ts'
import { GENERATED, OUT_OF_ZONE, type Source, type Zone, type Zones } from '../../core/model/zones.ts'
import { bothWays } from '../../core/names/idna.ts'
import { bare, foldName, labelsOf } from '../../core/names/name.ts'
import { NONE } from '../../core/names/tree.ts'
import { TYPE, typeText } from '../../core/records/types.ts'
import { joined, mx, soa, srv } from '../../core/records/views.ts'
import { byPurpose, PURPOSES, type Purpose, type PurposedSet, whereItLeads } from '../../core/view/purpose.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { includeOption, jsonOption, liveOptions, workspaceOption, zoneOption } from '../options.ts'
import { counted, Page } from '../output/page.ts'
import { jsonText, printable } from '../output/printable.ts'
import { stream } from '../output/stream.ts'
import { table } from '../output/table.ts'
import { knownSpf, type LiveOptions, liveLookups } from './live.ts'
import { choose } from './source.ts'

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

interface Options extends LiveOptions {
  format?: Form
  json?: boolean
}

export const define = (command: Command): Command =>
  liveOptions(command)
    .option(
      '--format <format>',
      'zone (tidy, sorted), canonical (one absolute record a line), generic (RFC 3597), json, csv',
    )
    .argument('[what]', 'a zone file, or a zone of the workspace')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(show)

/** Shows zones by purpose, or in one of the forms for programs and name servers. */
async function show(what: string | undefined, options: Options, command: Command): Promise<void> {
  const form = options.json ? 'json' : options.format
  if (form !== undefined && !FORMS.includes(form))
    throw new Trouble(`--format ${form} is no form; there are: ${FORMS.join(', ')}`)
  const { zones, chosen } = await choose(what, options)
  if (form !== undefined) {
    sayWhatIsMissing(zones, chosen)
    if (form === 'json') await stream(jsonPieces(zones, chosen))
    else for (const zone of chosen) await stream(zoneInForm(zones, zone, form))
    return
  }
  const budgets = await budgetsOf(zones, chosen, options)
  const page = new Page(command)
  chosen.forEach((zone, i) => {
    if (i > 0) page.line()
    showZone(page, zones, zone, budgets)
  })
  page.print()
}

/** What each SPF record costs that leads to others, by its record. */
async function budgetsOf(zones: Zones, chosen: readonly Zone[], options: Options): Promise<Map<number, BudgetNode>> {
  const found: { record: number; name: string; text: string }[] = []
  for (const zone of chosen)
    for (const set of byPurpose(zones, zone))
      if (set.purpose === 'may send')
        for (const record of set.records) {
          const text = joined(zones.rdata(record))
          if (askingTerms(readSpf(text).record).some(({ name }) => name === 'include' || name === 'redirect'))
            found.push({ record, name: zones.tree.text(set.owner), text })
        }
  found.splice(MOST_TREES)
  const live = found.length === 0 ? undefined : await liveLookups(options)
  try {
    const known = await knownSpf(zones, live, (recordAt) => {
      for (const { name, text } of found) spfBudget(name, text, recordAt)
    })
    return new Map(found.map(({ record, name, text }) => [record, spfBudget(name, text, known)]))
  } finally {
    live?.close()
  }
}

/** So many trees are drawn; of a zone with more, the first ones. */
const MOST_TREES = 12

/** Deeper or longer trees say no more than that there is too much. */
const MOST_LINES = 40

/** The includes of a record as a tree: what each term costs with everything below it. */
function treeRows(budget: BudgetNode): string[][] {
  const rows: string[][] = []
  const walk = (node: BudgetNode, lead: string): void => {
    node.parts.forEach((part, i) => {
      const last = i === node.parts.length - 1
      if (rows.length < MOST_LINES)
        rows.push([
          `${part.total}${part.whole ? '' : '+'}`,
          `${lead}${last ? '└ ' : '├ '}${part.term}${part.note ? ` (${part.note})` : ''}`,
        ])
      if (rows.length < MOST_LINES) walk(part, `${lead}${last ? '  ' : '│ '}`)
    })
  }
  walk(budget, '')
  return rows.length === MOST_LINES ? [...rows, ['', '…']] : rows
}

function nameAbove(rows: string[][], at: number): string {
  let i = at - 1
  while (i > 0 && rows[i]![0] === '') i--
  return rows[i]![0]!
}

function serialOf(zones: Zones, zone: Zone): number | null {
  if (zone.soa === NONE) return null
  return soa(zones.rdata(zone.soa)).serial
}

/** What could not be read is not in these forms; whoever feeds them to a server must know. */
function sayWhatIsMissing(zones: Zones, chosen: Zone[]): void {
  const problems = zones.sources
    .filter((source) => chosen.includes(zones.zones[source.zone]!))
    .flatMap((source) => source.problems.filter((each) => !each.read))
  if (problems.length > 0)
    process.stderr.write(
      `bramblefront: ${counted(problems.length, 'entry', 'entries')} could not be read or stand${problems.length === 1 ? 's' : ''} outside the zone, and ${problems.length === 1 ? 'is' : 'are'} missing here: bramblefront check says why\n`,
    )
}

/** The document of `--json`, set by set. */
function* jsonPieces(zones: Zones, chosen: Zone[]): Generator<string> {
  const [only] = chosen.length === 1 ? chosen : []
  yield `{\n  "format": 1,\n  "zone": ${jsonText(only ? foldName(only.name) : null)},\n  "serial": ${only ? serialOf(zones, only) : null},\n  "sets": [`
  let first = true
  for (const zone of chosen)
    for (const set of setsOf(zones, zone)) {
      yield `${first ? '' : ','}\n    ${jsonText(only ? set : { zone: foldName(zone.name), ...set })}`
      first = false
    }
  yield `${first ? '' : '\n  '}]\n}\n`
}

/** The zone's sets in the order of their first records. */
function* setsOf(
  zones: Zones,
  zone: Zone,
): Generator<{ owner: string; type: string; ttl: number; records: string[]; line: number }> {
  const lines = new Map<Source, LineIndex>()
  const told = new Set<number>()
  for (let record = 0; record < zones.count; record++) {
    if (zones.zoneOfRecord(record) !== zone) continue
    const owner = zones.owner(record)
    const type = zones.type(record)
    const outside = (zones.flags(record) & OUT_OF_ZONE) !== 0
    if (!outside && told.has(owner * 65_536 + type)) continue
    const records = outside ? [record] : zones.records(owner, type, zone.index)
    // Most sets are one record; only the others come by again.
    if (records.length > 1) told.add(owner * 65_536 + type)
    const source = zones.source(record)
    let index = lines.get(source)
    if (!index) lines.set(source, (index = new LineIndex(source.octets)))
    const { line } = index.place(
      zones.flags(record) & GENERATED ? zones.start(record) : entryParts(zones, record).type[0],
    )
    yield {
      owner: foldName(zones.tree.text(owner)),
      type: typeText(type),
      ttl: zones.ttl(record),
      records: records.map((each) => zones.rdataText(each)),
      line,
    }
  }
}

function showZone(page: Page, zones: Zones, zone: Zone, budgets: ReadonlyMap<number, BudgetNode>): void {
  const { colour } = page
  const sets = byPurpose(zones, zone)
  const serial = serialOf(zones, zone)
  const problems = zones.sources
    .filter((source) => zones.zones[source.zone] === zone)
    .reduce((sum, source) => sum + source.problems.filter((each) => !each.read).length, 0)
  page.line(
    `${colour.bold(printable(bothWays(bare(zone.name))))}  ${colour.dim(printable(`${serial === null ? 'no SOA record' : `serial ${serial}`}, ${counted(sets.length, 'record set')}, ${zone.file}`))}`,
  )
  if (problems > 0)
    page.text(
      `${counted(problems, 'entry', 'entries')} of the file could not be read and ${problems === 1 ? 'is' : 'are'} missing here: bramblefront check says why.`,
    )
  const short = (name: string): string => bothWays(shorter(name))
  const top = foldName(zone.name)
  const shorter = (name: string): string => {
    const folded = foldName(name)
    if (folded === top) return bare(name)
    if (top === '.' || !folded.endsWith(`.${top}`)) return name
    const relative = name.slice(0, -top.length - 1)
    // With the zone's name in it twice, the short form would look like the name that was meant.
    return `.${foldName(relative)}.`.endsWith(`.${top}`) ? name : relative
  }
  for (const purpose of PURPOSES) {
    const here = sets.filter((set) => set.purpose === purpose)
    if (here.length === 0) continue
    page.line()
    page.line(colour.bold(HEADINGS[purpose]))
    const rows = here.flatMap((set) => rowsOf(zones, set, short))
    // A name is said once for all that stands at it.
    for (let i = rows.length - 1; i > 0; i--)
      if (rows[i]![0] !== '' && rows[i]![0] === nameAbove(rows, i)) rows[i]![0] = ''
    table(page, rows, '  ', (cell, column) => (column === 0 ? colour.cyan(cell) : cell))
    for (const set of here)
      for (const record of set.records) {
        const budget = budgets.get(record)
        if (!budget) continue
        const sum = `${budget.whole ? '' : 'at least '}${budget.total} of ${MAX_LOOKUPS}`
        page.line()
        page.line(
          printable(`  Lookups that ${short(zones.tree.text(set.owner))} costs receivers: `) +
            (budget.total > MAX_LOOKUPS ? colour.bold(colour.red(sum)) : colour.bold(sum)),
        )
        table(page, treeRows(budget), '    ')
      }
  }
}

function soaRow(
  [primary = '', mailbox = '', , refresh, retry, expire, minimum]: string[],
  short: (name: string) => string,
): string[] {
  return [
    `primary ${short(primary)}`,
    `mailbox ${short(mailbox)}; refresh ${refresh}, retry ${retry}, expire ${expire}, denials kept ${minimum}`,
  ]
}

/** "imaps over tcp" of `_imaps._tcp.…`. */
function serviceText(labels: string[]): string | undefined {
  const at = labels[1]?.startsWith('_') ? 0 : labels[2]?.startsWith('_') ? 1 : -1
  if (at < 0 || !labels[at]!.startsWith('_')) return undefined
  return `${at === 1 ? `${labels[0]}, ` : ''}${labels[at]!.slice(1)} over ${labels[at + 1]!.slice(1)}`
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
        return data[2] === 0
          ? ['takes no mail (null MX)', '']
          : [`${mx(data).preference} ${target(record)}`, leads(record)]
      case 'services':
        return [
          `${target(record)} port ${srv(data).port}`,
          `priority ${srv(data).priority}, weight ${srv(data).weight}; ${leads(record)}`,
        ]
      case 'may send':
      case 'proofs and other texts':
        return [joined(zones.rdata(record))]
      case 'signs mail':
        return [
          set.type === TYPE.TXT ? keyRow(joined(zones.rdata(record))) : `alias of ${target(record)} (${leads(record)})`,
        ]
      case 'mail policy':
        return [set.type === TYPE.TXT ? joined(zones.rdata(record)) : `alias of ${target(record)} (${leads(record)})`]
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

/** What a key is; its base64 says nothing to people. A text that is no key stands as it is. */
function keyRow(text: string): string {
  if (!looksLikeKey(text)) return text
  const { record, problems } = parseKey(text)
  if (record.key?.length === 0) return 'revoked (p= is empty)'
  if (!record.key || problems.some(({ kind }) => kind === 'syntax' || kind.startsWith('key-un'))) return text
  const kind = record.type === 'rsa' ? 'RSA' : record.type === 'ed25519' ? 'Ed25519' : record.type
  return `${kind} key${record.bits ? `, ${record.bits} bits` : ''}${record.testing ? '; still on trial (t=y)' : ''}`
}

function serviceOwner(owner: string): string {
  const labels = labelsOf(owner)
  const service = serviceText(labels)
  const rest = labels.slice(labels[1]?.startsWith('_') ? 2 : 3).join('.')
  return service ? `${service}${rest ? ` for ${rest}` : ''}` : owner
}
