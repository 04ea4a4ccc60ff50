import type { Command } from 'commander'
import { affectedBy } from '../../core/change/affected.ts'
import { editKept } from '../../core/change/edit.ts'
import type { SetChange } from '../../core/file/edit/changes.ts'
import { type RecordSet, setAt, type Zone, type Zones } from '../../core/model/zones.ts'
import { bothWays, toAsciiName } from '../../core/names/idna.ts'
import { bare, foldName, isAtOrBelow, type Name } from '../../core/names/name.ts'
import { rdataText } from '../../core/records/rdata.ts'
import { typeText } from '../../core/records/types.ts'
import { check, INTERNAL_ERROR } from '../../core/rules/engine.ts'
import type { Finding, Surroundings } from '../../core/rules/rule.ts'
import { type BesideFile, putBeside } from '../../workspace/beside.ts'
import { folderOf, whileLocked } from '../../workspace/files.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, loadZones, shownPath, type ZoneFile, zoneNamed } from '../../workspace/workspace.ts'
import { agreedTo } from '../output/ask.ts'
import { findingJson, finding as showFinding } from '../output/findings.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { printable } from '../output/printable.ts'
import { needWorkspace, type SourceOptions } from './source.ts'

/** The options that every change has. */
export interface ChangeOptions extends SourceOptions {
  file?: string
  dryRun?: boolean
  force?: boolean
  json?: boolean
}

export interface Target {
  /** Where backups go. */
  folder: string
  files: ZoneFile[]
  bareFile: boolean
  /** What is known beyond the zones. */
  around: Surroundings
}

export interface Plan {
  changes: SetChange[]
  /** What to know of the change. */
  notes?: string[]
  /** Written just before the zone, and taken back where that fails. */
  beside?: BesideFile & { what: string }
}

/**
 * Changes sets of one zone: shows them before and after, checks the result, and writes it unless that adds an error. Exit status 1, and nothing written, where it does.
 * `loaded` are the zones as they were read first; where another writer came between, they are read again under the file's lock. `planOf` is asked then.
 */
export async function change(
  target: Target,
  loaded: Zones,
  zone: Zone,
  options: ChangeOptions,
  command: Command,
  planOf: (zones: Zones, zone: Zone) => SetChange[] | Plan,
): Promise<void> {
  render([await applyChange(target, loaded, zone, options, planOf)], options, command)
}

/** Makes the change, and returns what came of it; `render` shows it. */
export async function applyChange(
  target: Target,
  loaded: Zones,
  { index, name }: Zone,
  options: ChangeOptions,
  planOf: (zones: Zones, zone: Zone) => SetChange[] | Plan,
): Promise<Result> {
  const file = target.files[index]!
  return await whileLocked({ ...file, zone: name }, target.folder, async ({ octets, replace }) => {
    const zones =
      octets === file.octets
        ? loaded
        : loadZones(
            target.files.map((each) => (each === file ? { ...each, octets } : each)),
            options.includeAnywhere,
          )
    const zone = zones.zones[index]!
    const planned = planOf(zones, zone)
    const { changes, notes = [], beside }: Plan = Array.isArray(planned) ? { changes: planned } : planned
    const now = new Date()
    const about = affectedBy(zones, zone, changes)
    const findingsBefore = (await check(zones, { ...target.around, about })).findings
    const setsBefore = changes.map(({ owner, type }) => copyOf(setAt(zones, zone, owner, type)))
    const edited = editKept(zones, zone, changes, { now })
    if ('refused' in edited) throw new Trouble(`${file.file}: ${edited.refused}`)
    if (!options.force) await refuseShared(zones, index, edited.included, options)
    const found = newFindings(findingsBefore, (await check(zones, { ...target.around, about })).findings, changes)
    const refused = found.added.some((each) => each.severity === 'error') && !options.force
    const same = edited.included.length === 0 && Buffer.compare(edited.octets, octets) === 0
    const writes = !refused && !options.dryRun
    const takeBack = writes && beside ? putBeside(beside) : undefined
    let kept: string | undefined
    try {
      kept = !writes || same ? undefined : await replace(edited.octets, edited.included, now)
    } catch (error) {
      takeBack?.()
      throw error
    }
    if (refused) process.exitCode = found.added.some(({ rule }) => rule === INTERNAL_ERROR) ? 2 : 1
    // Whoever goes on with these zones has them as they are now.
    if (kept !== undefined) file.octets = edited.octets
    return {
      zone,
      sets: changes.map(({ owner, type }, i) => ({
        owner,
        type,
        before: setsBefore[i],
        after: setAt(zones, zone, owner, type),
      })),
      found,
      refused,
      same,
      kept,
      serial: edited.serial,
      dryRun: options.dryRun === true,
      force: options.force === true,
      file: file.file,
      included: edited.included.map((each) => each.file),
      bareFile: target.bareFile,
      notes,
      ...(beside ? { beside: { path: shownPath(beside.path), what: beside.what, written: writes } } : {}),
    }
  })
}

/** Shows what came of one change, or of several that belong together. */
export function render(results: readonly Result[], options: ChangeOptions, command: Command): void {
  const [first = {}, ...others] = results.map(document)
  if (options.json) printJson(others.length > 0 ? { ...first, also: others } : first)
  else {
    const page = new Page(command)
    results.forEach((result, i) => {
      if (i > 0) page.line()
      report(page, result, i === results.length - 1)
    })
    page.print()
  }
}

/** A set that stays as it is while the zones change. */
const copyOf = (set: RecordSet | undefined): RecordSet | undefined =>
  set && { ...set, data: set.data.map((data) => data.slice()) }

/** An included file that other kept zones include too: changing it changes them. The person is asked; without one, it is refused. */
async function refuseShared(
  zones: Zones,
  index: number,
  included: { file: string }[],
  options: ChangeOptions,
): Promise<void> {
  for (const { file } of included) {
    const others = new Set(
      zones.sources
        .filter((source) => source.file === file && source.zone !== index)
        .map((source) => bare(zones.zones[source.zone]!.name)),
    )
    if (others.size === 0) continue
    if (
      !options.json &&
      !options.dryRun &&
      (await agreedTo(
        printable(
          `The set stands in ${file}, which these zones include, too: ${[...others].join(', ')}. Change it for all of them?`,
        ),
      ))
    )
      continue
    throw new Trouble(
      `the set stands in ${file}, which ${[...others].join(', ')} include${others.size === 1 ? 's' : ''} too: the change would be theirs as well. Nothing was written; --force changes it for all of them`,
    )
  }
}

/** The zones that a call may change, and where backups go. */
export async function targetOf(options: ChangeOptions): Promise<Target> {
  if (options.file)
    return {
      folder: folderOf(options.file),
      files: bareFiles([options.file], options.zone),
      bareFile: true,
      around: {},
    }
  const workspace = await needWorkspace(options)
  return { ...workspace, bareFile: false }
}

/** The zone that an owner as typed is in: the deepest kept one that it ends in, else the stated or the only one. */
export function zoneFor(typed: string, zones: Zones, options: ChangeOptions): Zone {
  const ascii = toAsciiName(typed)
  if ('refused' in ascii) throw new Trouble(`${typed} is no domain name: ${ascii.refused}`)
  const owner = ascii.name
  const stated = options.zone && !options.file ? zoneNamed(zones, options.zone) : undefined
  const absolute = owner.endsWith('.') ? owner : `${owner}.`
  const ends = zones.zones
    .filter((each) => isAtOrBelow(absolute, each.name))
    .sort((a, b) => b.wire.length - a.wire.length)
  if (ends[0] && (!stated || stated === ends[0] || !isAtOrBelow(absolute, stated.name))) return ends[0]
  const names = zones.zones.map((each) => bare(each.name)).join(', ')
  if (owner.endsWith('.') && !stated) throw new Trouble(`${owner} is in no kept zone; kept: ${names}`)
  if (stated) return stated
  if (zones.zones.length === 1) return zones.zones[0]!
  throw new Trouble(
    `${owner} ends in no kept zone’s name, and there are several it could be relative to: state one with --zone (kept: ${names})`,
  )
}

/** What was typed, or trouble that says what is wrong with it. */
export function orTrouble<T>(value: T | { mistyped: string }): T {
  if (typeof value === 'object' && value !== null && 'mistyped' in value) throw new Trouble(value.mistyped)
  return value as T
}

interface Found {
  /** Findings that were not there before. */
  added: Finding[]
  /** What else there is to say of the names that were written. */
  standing: Finding[]
}

const keyOf = (finding: Finding): string => `${finding.rule} ${finding.owner} ${finding.type}`

function newFindings(before: Finding[], after: Finding[], changes: SetChange[]): Found {
  const then = new Map<string, number>()
  for (const finding of before) then.set(keyOf(finding), (then.get(keyOf(finding)) ?? 0) + 1)
  const owners = new Set(changes.map((change) => foldName(change.owner)))
  const found: Found = { added: [], standing: [] }
  for (const finding of after) {
    const left = then.get(keyOf(finding)) ?? 0
    if (left > 0) {
      then.set(keyOf(finding), left - 1)
      if (owners.has(finding.owner)) found.standing.push(finding)
    } else found.added.push(finding)
  }
  // What is wrong at the name that was written comes before what follows from it elsewhere.
  found.added.sort((a, b) => Number(owners.has(b.owner)) - Number(owners.has(a.owner)))
  return found
}

export interface Result {
  zone: Zone
  sets: { owner: Name; type: number; before?: RecordSet; after?: RecordSet }[]
  found: Found
  refused: boolean
  same: boolean
  dryRun: boolean
  force: boolean
  kept?: string
  /** Included files that change. */
  included: string[]
  serial?: { before: number; after: number }
  file: string
  bareFile: boolean
  notes: string[]
  beside?: { path: string; what: string; written: boolean }
}

const setJson = (set: RecordSet | undefined): object | null =>
  set ? { ttl: set.ttl, records: set.data.map((data) => rdataText(set.type, data)) } : null

function document({
  zone,
  sets,
  found,
  refused,
  same,
  kept,
  serial,
  dryRun,
  file,
  included,
  notes,
  beside,
}: Result): object {
  return {
    format: 1,
    zone: foldName(zone.name),
    file,
    included,
    written: kept !== undefined,
    refused,
    unchanged: same,
    dryRun,
    sets: sets.map(({ owner, type, before, after }) => ({
      owner: foldName(owner),
      type: typeText(type),
      before: setJson(before),
      after: setJson(after),
    })),
    serial: serial ?? null,
    kept: kept === undefined ? null : shownPath(kept),
    added: found.added.map(findingJson),
    findings: found.standing.map(findingJson),
    notes,
    beside: beside ?? null,
  }
}

function report(page: Page, result: Result, last: boolean): void {
  const { colour } = page
  const { zone, sets, found, refused, same, kept, serial, file } = result
  for (const { owner, type, before, after } of sets) {
    page.line(
      `${colour.bold(printable(`${bothWays(owner)} ${typeText(type)}`))}  ${colour.dim(printable([...result.included, file].join(', ')))}`,
    )
    side(page, 'before', type, before, colour.red)
    side(page, refused ? 'asked' : 'after', type, after, colour.green)
    page.line()
  }
  for (const each of found.added) showFinding(page, each)
  if (found.standing.length > 0) {
    page.text('There before, and still to be put right at this name:')
    page.line()
    for (const each of found.standing) showFinding(page, each)
  }
  for (const note of result.notes) page.text(note)
  if (result.beside?.written) page.text(`${result.beside.what}: ${result.beside.path}`)
  else if (result.beside)
    page.text(`${result.beside.path} was not written; what is made of it above is for show alone.`)
  if (result.notes.length > 0 || result.beside) page.line()
  const errors = found.added.filter((each) => each.severity === 'error').length
  if (refused)
    page.text(
      `Refused: the change would add ${counted(errors, 'error')}. Nothing was written; the lines above are those of the file as it would be. (--force writes it all the same.)`,
    )
  else if (same) page.text('Nothing to change: the file says so already.')
  else if (kept === undefined) page.text('A dry run: nothing was written.')
  else {
    if (errors > 0 && result.force) page.text(`Written although it adds ${counted(errors, 'error')}, as --force asked.`)
    page.text(
      `Written.${serial ? ` Serial ${serial.before} → ${serial.after}.` : ''} The file as it was is kept in ${shownPath(kept)}`,
    )
    if (last)
      page.text(
        `Next: let the server read the file anew, then: bramblefront confirm ${result.bareFile ? `${file} --at ADDRESS` : bare(zone.name)}`,
      )
  }
}

function side(
  page: Page,
  word: string,
  type: number,
  set: RecordSet | undefined,
  paint: (text: string) => string,
): void {
  const lead = `  ${page.colour.dim(word.padEnd(6))}  `
  if (!set) page.line(`${lead}(none)`)
  for (const [i, data] of (set?.data ?? []).entries())
    page.line((i === 0 ? lead : ' '.repeat(10)) + paint(printable(`${set?.ttl} ${rdataText(type, data)}`)))
}
