import type { Command } from 'commander'
import { type DataEntry, isDataEntry } from '../../../core/change/entry.ts'
import { typedName } from '../../../core/change/typed.ts'
import { type Entry, entriesOf } from '../../../core/history/states.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { jsonText } from '../../../core/printable.ts'
import { notAType } from '../../../core/records/host-types.ts'
import { parseType, typeText } from '../../../core/records/types.ts'
import { statedZone } from '../../../workspace/files.ts'
import { logBackwards } from '../../../workspace/log.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones, type ZoneFile } from '../../../workspace/workspace.ts'
import type { HistoryDocument } from '../../documents/history.ts'
import { includeOption, jsonOption, viewOption, workspaceOption } from '../../options.ts'
import { stream } from '../../output/stream.ts'
import { needWorkspace, type SourceOptions } from '../source.ts'
import { type Asked, asOne, type Shown, unnoted, whatIsAbout } from './entries.ts'
import { LISTED, printEntries } from './print.ts'
import { prune } from './prune.ts'

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
  printEntries(all(), asked, options, command)
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
