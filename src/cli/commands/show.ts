import type { Command } from 'commander'
import { serialOf } from '../../core/file/serial.ts'
import { askingTerms, type BudgetNode, spfBudget } from '../../core/mail/spf/budget.ts'
import { MAX_LOOKUPS } from '../../core/mail/spf/check-host.ts'
import { readSpf } from '../../core/mail/spf/record.ts'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { bothWays } from '../../core/names/idna.ts'
import { bare, foldName, type Name, relativeName } from '../../core/names/name.ts'
import { u16At } from '../../core/names/octets.ts'
import { printable } from '../../core/printable.ts'
import { TYPE, typeText } from '../../core/records/types.ts'
import { joined } from '../../core/records/views.ts'
import { shortened } from '../../core/shortened.ts'
import { byPurpose, PURPOSE_TITLES, PURPOSES, type PurposedSet } from '../../core/view/purpose.ts'
import { RecordView, serviceName, whereItLeads } from '../../core/view/record-set.ts'
import type { AskedSource } from '../../net/lookup.ts'
import { formatOf, printSets } from '../formats/index.ts'
import { includeOption, jsonOption, liveOptions, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { counted, Page } from '../output/page.ts'
import { table } from '../output/table.ts'
import { printNote } from '../output/terminal.ts'
import { verbosity } from '../verbosity.ts'
import { addressesOutside, askedSource, knownSpf, type LiveOptions } from './live.ts'
import { choose } from './source.ts'

interface Options extends LiveOptions {
  format?: string
  json?: boolean
}

export const define = (command: Command): Command =>
  liveOptions(command)
    .option(
      '--format <format>',
      'zone (tidy, sorted), canonical (one absolute record per line), generic (RFC 3597), json, csv',
    )
    .argument('[what]', 'a zone file, or a zone of the workspace')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(show)

/** Shows zones by purpose, or in one of the forms for programs and name servers. */
async function show(what: string | undefined, options: Options, command: Command): Promise<void> {
  const format = formatOf(options, 'sets')
  const { zones, chosen } = await choose(what, options)
  if (format !== 'text') {
    sayWhatIsMissing(zones, chosen)
    await printSets(format, { zones, chosen })
    return
  }
  const page = new Page(command)
  if (what === undefined && options.zone === undefined && chosen.length > MANY && !verbosity.verbose) {
    overview(page, zones, chosen)
    page.print()
    return
  }
  const live = await askedSource(options)
  try {
    const known: Known = {
      budgets: await budgetsOf(zones, chosen, live),
      outside: await addressesOutside(zones, chosen, live),
    }
    chosen.forEach((zone, i) => {
      if (i > 0) page.line()
      showZone(page, zones, zone, known)
    })
  } finally {
    live?.close()
  }
  page.print()
}

/** More zones than this are shown as a table, a line each. */
const MANY = 8

function overview(page: Page, zones: Zones, chosen: readonly Zone[]): void {
  const { colour } = page
  const rows = chosen.map((zone): string[] => {
    const purposes = new Set(byPurpose(zones, zone).map(({ purpose }) => purpose))
    const serial = serialOf(zones, zone)
    return [
      bothWays(bare(zone.name)) + (zone.view === undefined ? '' : ` (${zone.view})`),
      serial === undefined ? 'no SOA record' : String(serial),
      String(setCount(zones, zone)),
      [
        purposes.has('receives mail') && 'mail',
        purposes.has('services') && 'services',
        purposes.has('delegated') && 'delegations',
      ]
        .filter(Boolean)
        .join(', '),
    ]
  })
  table(page, [['zone', 'serial', 'record sets', 'has'], ...rows], '', (cell, column, row) =>
    row === 0 ? colour.dim(cell) : column === 0 ? colour.bold(cell) : cell,
  )
  page.line()
  page.text(`${chosen.length} zones. One in full: bramblefront show ZONE`)
}

const setCount = (zones: Zones, zone: Zone): number =>
  new Set(byPurpose(zones, zone).map(({ owner, type }) => `${owner} ${type}`)).size

/** What each SPF record costs that leads to others, by its record. */
async function budgetsOf(
  zones: Zones,
  chosen: readonly Zone[],
  live: AskedSource | undefined,
): Promise<Map<number, BudgetNode>> {
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
  if (found.length === 0) return new Map()
  const known = await knownSpf(zones, live, (recordAt) => {
    for (const { name, text } of found) spfBudget(name, text, recordAt)
  })
  return new Map(found.map(({ record, name, text }) => [record, spfBudget(name, text, known)]))
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

/** What could not be read is not in these forms; whoever feeds them to a server must know. */
function sayWhatIsMissing(zones: Zones, chosen: Zone[]): void {
  const problems = zones.sources
    .filter((source) => chosen.includes(zones.zones[source.zone]!))
    .flatMap((source) => source.problems.filter((each) => !each.read))
  if (problems.length > 0)
    printNote(
      `bramblefront: ${counted(problems.length, 'entry', 'entries')} could not be read or ${problems.length === 1 ? 'is' : 'are'} outside the zone, and ${problems.length === 1 ? 'is' : 'are'} missing here. Why: bramblefront check\n`,
    )
}

/** What is known beyond the zones. */
interface Known {
  budgets: ReadonlyMap<number, BudgetNode>
  /** Of targets outside your zones. */
  outside: ReadonlyMap<Name, string>
}

function showZone(page: Page, zones: Zones, zone: Zone, known: Known): void {
  const { colour } = page
  const sets = byPurpose(zones, zone)
  const serial = serialOf(zones, zone)
  const problems = zones.sources
    .filter((source) => zones.zones[source.zone] === zone)
    .reduce((sum, source) => sum + source.problems.filter((each) => !each.read).length, 0)
  const name = printable(bothWays(bare(zone.name)))
  const about = `${serial === null ? 'no SOA record' : `serial ${serial}`}, ${counted(setCount(zones, zone), 'record set')}, ${zone.file}`
  const isLong = name.length + about.length + 2 > page.width
  page.line(`${colour.bold(name)}${isLong ? '' : `  ${colour.dim(printable(about))}`}`)
  if (isLong) page.text(about, '  ', '  ', colour.dim)
  if (problems > 0)
    page.text(
      `${counted(problems, 'entry', 'entries')} of the file could not be read and ${problems === 1 ? 'is' : 'are'} missing here. Why: bramblefront check`,
    )
  const short = (name: string): string => bothWays(relativeName(name, zone.name, bare(zone.name)))
  for (const purpose of PURPOSES) {
    const here = sets.filter((set) => set.purpose === purpose)
    if (here.length === 0) continue
    page.line()
    page.line(colour.bold(PURPOSE_TITLES[purpose]))
    const rows = here.flatMap((set) => rowsOf(zones, set, short, known))
    // A name is said once for all that stands at it.
    for (let i = rows.length - 1; i > 0; i--)
      if (rows[i]![0] !== '' && rows[i]![0] === nameAbove(rows, i)) rows[i]![0] = ''
    table(page, rows, '  ', (cell, column) => (column === 0 ? colour.cyan(cell) : cell))
    for (const set of here)
      for (const record of set.records) {
        const budget = known.budgets.get(record)
        if (!budget) continue
        const isOne = set.records.filter((each) => known.budgets.has(each)).length === 1
        const start = `  SPF lookups for ${short(zones.tree.text(set.owner))}`
        const room = Math.max(8, page.width - start.length - ', by …:'.length)
        const head = printable(`${start}${isOne ? '' : `, by ${shortened(joined(zones.rdata(record)), room)}`}:`)
        const sum = `${budget.whole ? '' : 'at least '}${budget.total} of ${MAX_LOOKUPS}`
        const painted = budget.total > MAX_LOOKUPS ? colour.bold(colour.red(sum)) : colour.bold(sum)
        page.line()
        if (head.length + sum.length < page.width) page.line(`${head} ${painted}`)
        else {
          page.line(head)
          page.line(`    ${painted}`)
        }
        table(page, treeRows(budget), '    ')
      }
  }
}

/** The rows of one set: owner, what it says, and where that leads. */
function rowsOf(zones: Zones, set: PurposedSet, short: (name: string) => string, { outside }: Known): string[][] {
  const owner = short(zones.tree.text(set.owner))
  const rows = inOrderOfUse(zones, set).map((record) => rowOf(zones, set, record, short, outside))
  const width = Math.max(...rows.map((row) => row.length))
  const named = set.purpose === 'services' ? serviceName(owner) : owner
  return rows.map((row, i) => [i === 0 ? named : '', ...row, ...Array<string>(width - row.length).fill('')])
}

/** The records of a set as they are used: mail exchangers by preference, services by priority (RFC 5321 §5.1, RFC 2782). */
function inOrderOfUse(zones: Zones, { type, records }: PurposedSet): number[] {
  if (type !== TYPE.MX && type !== TYPE.SRV) return records
  const first = (record: number): number => u16At(zones.rdata(record), 0)
  return [...records].sort((a, b) => first(a) - first(b))
}

function rowOf(
  zones: Zones,
  { purpose, type }: PurposedSet,
  record: number,
  short: (name: string) => string,
  outside: ReadonlyMap<Name, string>,
): string[] {
  const view = new RecordView(type, zones.rdata(record))
  const field = (label: string): string => view.field(label)
  const target = view.target === undefined ? '' : short(view.target)
  const asked = view.target === undefined ? undefined : outside.get(foldName(view.target))
  const leads = asked === undefined ? whereItLeads(zones, zones.target(record)) : `outside your zones: ${asked}`
  if (view.meaning !== undefined) return purpose === 'receives mail' ? [view.meaning, ''] : [view.meaning]
  switch (type) {
    case TYPE.MX:
      return [`${field('preference')} ${target}`, leads]
    case TYPE.SRV:
      return [`${target} port ${field('port')}`, `priority ${field('priority')}, weight ${field('weight')}; ${leads}`]
    case TYPE.TXT:
      return [joined(view.data)]
    case TYPE.CNAME:
      return purpose === 'aliases' ? [target, leads] : [`CNAME ${target} (${leads})`]
    case TYPE.NS:
      return [`name server ${target}`, leads]
    case TYPE.SOA: {
      const timers = ['refresh', 'retry', 'expire', 'minimum'].map((label) => `${label} ${field(label)}`)
      return [`MNAME ${short(field('MNAME'))}`, `RNAME ${short(field('RNAME'))}; ${timers.join(', ')}`]
    }
    case TYPE.A:
    case TYPE.AAAA:
      return [view.value]
    default:
      return [`${typeText(type)} ${view.value}`]
  }
}
