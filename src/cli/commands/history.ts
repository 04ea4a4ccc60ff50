/** What was done to zones and seen of them, newest first. */
import { statSync } from 'node:fs'
import type { Command } from 'commander'
import { zoneDigest } from '../../core/change/digest.ts'
import { type DataEntry, type EntrySet, type EntrySide, isDataEntry } from '../../core/change/entry.ts'
import { typedName } from '../../core/change/typed.ts'
import { type Entry, entriesOf } from '../../core/history/states.ts'
import { bare, foldName, type Name } from '../../core/names/name.ts'
import { jsonText, printable } from '../../core/printable.ts'
import { notAType } from '../../core/records/host-types.ts'
import { parseType, typeText } from '../../core/records/types.ts'
import { folded } from '../../core/view/fold.ts'
import { statedZone } from '../../workspace/files.ts'
import { editSince } from '../../workspace/hand-edits.ts'
import { logBackwards } from '../../workspace/log.ts'
import { nearest } from '../../workspace/nearest.ts'
import { orTrouble, Trouble } from '../../workspace/trouble.ts'
import { loadZones, type Workspace, type ZoneFile } from '../../workspace/workspace.ts'
import { viewText } from '../call.ts'
import type { HistoryDocument } from '../documents/history.ts'
import { includeOption, jsonOption, viewOption, workspaceOption } from '../options.ts'
import { counted, Page } from '../output/page.ts'
import { stream } from '../output/stream.ts'
import { verbosity } from '../verbosity.ts'
import { prune } from './prune.ts'
import { needWorkspace, type SourceOptions } from './source.ts'

export const define = (command: Command): Command =>
  command
    .argument('[zone]', 'a zone of the workspace (default: all)')
    .argument('[name]', 'only this name of it; @ is the apex')
    .argument('[type]', 'only its record set of this type')
    .option('--all', `list every entry, and not the newest ${LISTED} alone`)
    .option('--prune', 'remove the backups that backups: in bramblefront.yaml lets go (asks first)')
    .option('--yes', 'with --prune: remove them without asking')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(history)

interface HistoryOptions extends SourceOptions {
  all?: boolean
  prune?: boolean
  yes?: boolean
  json?: boolean
}

/** So many entries are listed. */
const LISTED = 40

type Shown = HistoryDocument['entries'][number]

/** What is asked for: everything, a zone, a name or a set of it. */
interface Asked {
  zone?: Name
  owner?: Name
  type?: string
}

async function history(
  zoneWord: string | undefined,
  nameWord: string | undefined,
  typeWord: string | undefined,
  options: HistoryOptions,
  command: Command,
): Promise<void> {
  const workspace = await needWorkspace(options, { allViews: options.view === undefined })
  const zone = zoneWord === undefined ? undefined : foldName(statedZone(zoneWord))
  const files = zone === undefined ? workspace.files : workspace.files.filter((each) => foldName(each.zone) === zone)
  const backwards = function* (): Generator<Entry> {
    for (const line of logBackwards(workspace.folder, zone)) yield* entriesOf([line], zone, options.view)
  }
  if (zone !== undefined && files.length === 0 && backwards().next().done)
    throw new Trouble(
      `${bare(zone)} is not one of your zones, and has no history; ${nearest(
        bare(zone),
        workspace.files.map((each) => bare(foldName(each.zone))),
        'your zones',
      )}`,
    )
  if (options.prune) return prune(workspace, files, options, command)
  const asked: Asked = {
    zone,
    owner: zone && nameWord !== undefined ? ownerOf(nameWord, zone) : undefined,
    type: typeOf(typeWord),
  }
  const last = newestOf(files, backwards)
  const fresh = files.flatMap((file) => unnoted(workspace, file, last.get(file), options))
  // One at a time, newest first: a log may be longer than memory has room for.
  const all = function* (): Generator<Shown> {
    yield* fresh
    yield* asOne(backwards())
  }
  if (options.json) return stream(documentOf(whatIsAbout(all(), asked)))
  show(all(), asked, options, command)
}

/** The newest entry of each zone that gave it its data. */
function newestOf(files: readonly ZoneFile[], backwards: () => Iterable<Entry>): Map<ZoneFile, DataEntry> {
  const wanted = new Map(files.map((file) => [`${foldName(file.zone)} ${file.view ?? ''}`, file]))
  const found = new Map<ZoneFile, DataEntry>()
  for (const entry of backwards()) {
    if (wanted.size === 0) break
    const key = `${foldName(entry.zone)} ${entry.view ?? ''}`
    const file = wanted.get(key)
    if (!file || !isDataEntry(entry)) continue
    found.set(file, entry)
    wanted.delete(key)
  }
  return found
}

/** The document, entry by entry. */
function* documentOf(entries: Iterable<Shown>): Generator<string> {
  const empty: HistoryDocument = { format: 1, entries: [] }
  const [head = '', foot = ''] = jsonText(empty, 2).split('[]')
  yield `${head}[`
  let separator = ''
  for (const entry of entries) {
    yield `${separator}\n${jsonText(entry, 2).replace(/^/gm, '    ')}`
    separator = ','
  }
  yield `${separator === '' ? '' : '\n  '}]${foot}\n`
}

function ownerOf(word: string, zone: Name): Name {
  const zones = loadZones([{ zone, file: '', octets: new Uint8Array() }])
  return foldName(orTrouble(typedName(word, zones.zones[0]!, zones.zones)))
}

function typeOf(word: string | undefined): string | undefined {
  const type = word === undefined ? undefined : parseType(word)
  if (word !== undefined && type === undefined) throw new Trouble(notAType(word))
  return type === undefined ? undefined : typeText(type)
}

/** What was edited by hand and has no entry yet. `last`: the newest one that the zone has. */
function unnoted({ folder }: Workspace, file: ZoneFile, last: DataEntry | undefined, options: HistoryOptions): Shown[] {
  if (!last) return []
  const zones = loadZones([file], options.includeAnywhere)
  const digest = zoneDigest(zones, zones.zones[0]!)
  if (digest === last.digest) return []
  const edit = editSince(folder, last, file, digest)
  return [
    {
      ...NOTHING,
      id: null,
      at: new Date(statSync(file.file).mtimeMs).toISOString(),
      zone: foldName(file.zone),
      view: file.view ?? null,
      what: 'edited',
      serial: edit.serial,
      sets: edit.sets,
    },
  ]
}

const NOTHING = {
  command: null,
  serial: null,
  backup: null,
  by: null,
  sets: [],
  seen: [],
  counts: {},
  vantages: [],
  open: [],
}

/** Entries as they are shown; the messages of one publishing are one. */
function* asOne(entries: Iterable<Entry>): Generator<Shown> {
  let last: { run: string | undefined; shown: Shown } | undefined
  for (const entry of entries) {
    const run = entry.what === 'published' ? entry.run : undefined
    const shown = entryShown(entry)
    if (
      last &&
      run !== undefined &&
      last.run === run &&
      last.shown.zone === shown.zone &&
      last.shown.view === shown.view
    ) {
      const { shown: later } = last
      last = {
        run,
        shown: {
          ...later,
          seen: later.seen.length === 0 ? [] : [...shown.seen, ...later.seen],
          serial: serialOver(shown.serial, later.serial),
        },
      }
      continue
    }
    if (last) yield last.shown
    last = { run, shown }
  }
  if (last) yield last.shown
}

/** From the first serial of several entries to the last one. */
const serialOver = (first: Shown['serial'], last: Shown['serial']): Shown['serial'] =>
  first === null || last === null ? (last ?? first) : { before: first.before, after: last.after }

function* whatIsAbout(entries: Iterable<Shown>, asked: Asked): Generator<Shown> {
  for (const each of entries) yield* about(each, asked)
}

function entryShown(entry: Entry): Shown {
  const { id = null, at, zone, view = null, what } = entry
  const common = { ...NOTHING, id, at, zone, view, what }
  if (isDataEntry(entry)) {
    const { command, serial, sets, backup } = entry
    // What a command wrote as it was is no change.
    const changed = sets.filter(({ before, after }) => JSON.stringify(before) !== JSON.stringify(after))
    return {
      ...common,
      command: (what === 'edited' ? undefined : command) ?? null,
      serial: serial ?? null,
      sets: changed,
      backup: backup ?? null,
    }
  }
  if (entry.what === 'published')
    return {
      ...common,
      backup: entry.backup ?? null,
      by: entry.by,
      command: entry.command ?? null,
      serial: serialShown(entry.serial),
      seen: entry.sets.map(([owner, type]) => ({ owner, type })),
    }
  return {
    ...common,
    serial: serialShown(entry.serial),
    counts: entry.counts,
    vantages: entry.vantages,
    open: entry.open.map(({ owner, type, status, verdicts }) => ({
      owner,
      type,
      status,
      verdicts: Object.entries(verdicts).map(([vantage, verdict]) => ({ vantage, verdict })),
    })),
  }
}

const serialShown = (serial: number | null): Shown['serial'] =>
  serial === null ? null : { before: serial, after: serial }

/** What of an entry is about what is asked for; nothing where it is not about it at all. */
function about(entry: Shown, { owner, type }: Asked): Shown[] {
  if (owner === undefined) return [entry]
  const isMeant = (set: { owner: Name; type: string }): boolean =>
    foldName(set.owner) === owner && (type === undefined || set.type === type)
  const own = {
    ...entry,
    sets: entry.sets.filter(isMeant),
    seen: entry.seen.filter(isMeant),
    open: entry.open.filter(isMeant),
  }
  const isAbout = entry.what === 'confirmation' || entry.what === 'adopted' || own.sets.length + own.seen.length > 0
  return isAbout ? [own] : []
}

function show(entries: Iterable<Shown>, asked: Asked, options: HistoryOptions, command: Command): void {
  const page = new Page(command)
  const { colour } = page
  const what =
    asked.owner === undefined
      ? asked.zone === undefined
        ? 'all zones'
        : bare(asked.zone)
      : [bare(asked.owner), asked.type].filter(Boolean).join(' ')
  const most = options.all || verbosity.verbose ? Number.POSITIVE_INFINITY : LISTED
  const listed: Shown[] = []
  const way = new WayBack(asked)
  let count = 0
  for (const whole of entries) {
    const [entry] = about(whole, asked)
    way.take(whole, entry)
    if (!entry) continue
    count++
    if (listed.length < most) listed.push(entry)
  }
  if (count === 0) {
    page.text(`${what}: no history yet. It begins with the next change or confirmation.`)
    page.print()
    return
  }
  page.line(
    `${colour.bold(printable(what))}  ${colour.dim(`${counted(count, 'entry', 'entries')}, newest first; times in UTC`)}`,
  )
  for (const entry of listed) {
    page.line()
    head(page, entry, asked)
    details(page, entry, asked)
  }
  page.line()
  if (listed.length < count)
    page.text(`${counted(count - listed.length, 'older entry', 'older entries')} not shown: use --all.`)
  if (way.said !== undefined) page.text(way.said)
  page.print()
}

/** How to bring back what an entry took away: found while entries are gone through, newest first. */
class WayBack {
  said: string | undefined
  private readonly asked: Asked
  /** The newest entry that took something away, where what stood before it is known by an older one only. */
  private byHand: Shown | undefined

  constructor(asked: Asked) {
    this.asked = asked
  }

  /** `own`: what of the entry is about what is asked for. An edit by hand has no backup from before: the newest older entry, whatever it is about, still had it. */
  take(entry: Shown, own: Shown | undefined): void {
    if (this.said !== undefined) return
    const isData = entry.what !== 'published' && entry.what !== 'confirmation'
    const isSame = this.byHand?.zone === entry.zone && this.byHand.view === entry.view
    if (this.byHand && isData && isSame) this.said = this.textOf(entry, `--as-of ${entry.at}`)
    else if (!this.byHand && isData && own && this.tookAway(own)) {
      if (entry.what === 'edited') this.byHand = entry
      else if (entry.backup !== null && entry.what !== 'adopted')
        this.said = this.textOf(entry, `--from ${shortId(entry.id!)}`)
    }
  }

  /** Whether something of what is asked for stood before it, and was another thing behind it. */
  private tookAway({ sets }: Shown): boolean {
    return this.asked.owner === undefined || sets.some(({ before }) => before !== null)
  }

  private textOf({ zone, view }: Shown, option: string): string {
    const { owner, type } = this.asked
    const of =
      owner === undefined
        ? bare(this.asked.zone ?? zone)
        : `${bare(this.asked.zone!)} ${bare(owner)}.${type ? ` ${type}` : ''}`
    const what = this.byHand ? 'the edit by hand' : 'an entry'
    return `To bring back the state before ${what}: bramblefront restore ${of} ${option}${viewText(view)}`
  }
}

const shortId = (id: string): string => id.slice(id.lastIndexOf('-') + 1)

const WORDS: Record<Shown['what'], string> = {
  change: 'changed',
  edited: 'edited by hand',
  restored: 'restored',
  adopted: 'adopted',
  published: 'published',
  confirmation: 'confirmed',
}

function head(page: Page, { id, at, zone, view, what, serial, open }: Shown, asked: Asked): void {
  const { colour } = page
  const name = id === null ? '(new) ' : shortId(id).padEnd(6)
  const word = what === 'confirmation' && open.length > 0 ? 'asked' : WORDS[what]
  const rest = [
    asked.zone === undefined ? bare(zone) : '',
    view === null ? '' : `view ${view}`,
    serial === null
      ? ''
      : serial.before === serial.after
        ? `serial ${serial.after}`
        : `serial ${serial.before} → ${serial.after}`,
  ].filter((each) => each !== '')
  page.line(
    `${colour.dim(at.slice(0, 16).replace('T', ' '))}  ${colour.cyan(name)}  ${colour.bold(word)}${rest.length > 0 ? `  ${printable(rest.join(', '))}` : ''}`,
  )
}

/** So many sets of an entry are listed. */
const SETS = 12

function details(page: Page, entry: Shown, asked: Asked): void {
  const { colour } = page
  const [indent, deeper] = ['    ', '        ']
  if (entry.command !== null) page.text(`bramblefront ${entry.command}`, deeper, indent, colour.dim)
  const sets = verbosity.verbose ? entry.sets : entry.sets.slice(0, SETS)
  for (const set of sets)
    for (const line of setLines(set, asked)) page.text(line, deeper, indent + ' '.repeat(line.search(/\S/)))
  if (sets.length < entry.sets.length)
    page.text(`and ${counted(entry.sets.length - sets.length, 'more record set')}`, deeper, indent)
  if (entry.what === 'published') page.text(publishedText(entry), deeper, indent)
  if (entry.what !== 'confirmation') return
  if (asked.owner === undefined)
    page.text(
      `${Object.entries(entry.counts)
        .filter(([, count]) => count > 0)
        .map(([word, count]) => `${count} ${word}`)
        .join(', ')}; asked: ${entry.vantages.join(', ')}`,
      deeper,
      indent,
    )
  else if (entry.open.length === 0) page.text(`as intended at ${entry.vantages.join(', ')}`, deeper, indent)
  for (const { owner, type, status, verdicts } of entry.open.slice(0, SETS))
    page.text(
      `${bare(owner)} ${type} ${status}: ${verdicts.map(({ vantage, verdict }) => `${vantage} ${verdict}`).join(', ')}`,
      deeper,
      indent,
    )
}

function publishedText({ by, seen }: Shown): string {
  const names = seen.map(({ owner, type }) => `${bare(owner)} ${type}`)
  const which =
    seen.length === 0 ? 'the whole zone' : seen.length <= 3 ? names.join(', ') : counted(seen.length, 'record set')
  if (by === 'update') return `delivered by dynamic update: ${which}`
  if (by === 'file') return `delivered as a file: ${which}`
  return seen.length === 0 ? `all servers have ${which}` : `all servers have ${which} for the first time`
}

/** A set before and after: in a line, or both sides where it was asked for. */
function setLines({ owner, type, before, after }: EntrySet | Shown['sets'][number], asked: Asked): string[] {
  const sideText = (side: EntrySide | Shown['sets'][number]['before']): string =>
    side === null ? '(none)' : `${side.ttl} ${folded([...side.records]).join(' | ')}`
  const word = before === null ? 'added' : after === null ? 'removed' : 'changed'
  const name = `${word} ${bare(owner)} ${type}`
  if (asked.owner === undefined && before !== null && after !== null && before.ttl === after.ttl) {
    const gone = before.records.filter((each) => !after.records.includes(each))
    const come = after.records.filter((each) => !before.records.includes(each))
    if (gone.length + come.length > 0)
      return [
        `${name}:`,
        ...folded(gone).map((each) => `  removed ${each}`),
        ...folded(come).map((each) => `  added ${each}`),
      ]
  }
  return before === null || after === null
    ? [`${name}: ${sideText(before ?? after)}`]
    : [`${name}:`, `  before ${sideText(before)}`, `  after  ${sideText(after)}`]
}
