/** What a call of check is about, and running the rules over it. */
import { existsSync } from 'node:fs'
import { basename, join, relative, resolve } from 'node:path'
import { zoneDigest } from '../../core/change/digest.ts'
import { loweredSets } from '../../core/change/lowered.ts'
import { serialAfter, serialOf } from '../../core/file/serial.ts'
import { entriesOf, type Published } from '../../core/history/states.ts'
import type { Zones } from '../../core/model/zones.ts'
import { foldName, isAtOrBelow, type Name } from '../../core/names/name.ts'
import { isRefused } from '../../core/result.ts'
import { type Examined, examine } from '../../core/rules/engine.ts'
import type { Surroundings } from '../../core/rules/rule.ts'
import { joinedResults } from '../../core/rules/select.ts'
import { readCopy } from '../../workspace/backups.ts'
import { statedZone } from '../../workspace/files.ts'
import { readLog } from '../../workspace/log.ts'
import { nearest } from '../../workspace/nearest.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, loadZones, shownPath, viewsOf, type ZoneFile } from '../../workspace/workspace.ts'
import { today } from '../clock.ts'
import type { LiveOptions } from './live.ts'
import { isFileWord, nameIn, needWorkspace } from './source.ts'

export interface CheckOptions extends LiveOptions {
  json?: boolean
  format?: string
  all?: boolean
  severity?: string
  failOn?: string
  only?: string[]
  except?: string[]
  withWorkspace?: boolean
  published?: string
  fix?: boolean
  yes?: boolean
}

/** From so many octets on, there may be so many findings that their texts are packed. */
const LARGE = 1 << 20

/** From so many files on, reading them is shown as it goes. */
const MANY = 500

/** What a call checks: the files, which of them it is about, and what is known beyond them. */
export interface Checked {
  files: ZoneFile[]
  /** The files that the call is about; undefined: all. */
  asked?: Set<string>
  names: Name[]
  around: Surroundings
  /** Where backups go; undefined for bare files, whose copies go beside them. */
  folder?: string
  /** Some file of the workspace was left out: it was not checked. */
  partly?: boolean
  /** The lines of the workspace’s log. */
  log?: readonly unknown[]
}

/** Sorts out what the call names: zone files that there are, and names in kept zones. */
export async function checkedBy(stated: readonly string[], options: CheckOptions): Promise<Checked> {
  const what = stated.map(nameIn)
  const paths = what.filter(isFileWord)
  const names = what.filter((each) => !paths.includes(each)).map((each) => foldName(statedZone(each)))
  if (paths.length > 0 && !options.withWorkspace) {
    const files = bareFiles(paths, options.zone)
    refuseUnkept(names, files)
    return { files, names, around: {} }
  }
  const workspace = await needWorkspace(options, options.view === undefined ? { allViews: true } : {})
  refuseUnkept(names, workspace.files)
  const kept = new Map(paths.length === 0 ? [] : workspace.files.map((each) => [resolve(each.file), each]))
  const asked = new Set<string>()
  const files = [...workspace.files]
  for (const path of paths) {
    const known = kept.get(resolve(path))
    if (known) asked.add(known.file)
    else {
      // A file that is not of the workspace takes the place of the kept zone with its name.
      const file = bareFiles([path], options.zone)[0]!
      const at = files.findIndex((each) => foldName(each.zone) === foldName(file.zone))
      if (at < 0) files.push(file)
      else files[at] = { ...files[at]!, file: file.file, octets: file.octets }
      asked.add(file.file)
    }
  }
  const log = readLog(workspace.folder)
  return {
    files,
    asked: asked.size > 0 ? asked : undefined,
    names,
    around: { ...workspace.around, lowered: loweredSets(log) },
    log,
    folder: workspace.folder,
    partly: workspace.unnamed.length > 0,
  }
}

function refuseUnkept(names: readonly Name[], files: readonly ZoneFile[]): void {
  for (const name of names)
    if (!files.some(({ zone }) => isAtOrBelow(name, zone)))
      throw new Trouble(
        `${name.replace(/\.$/, '')} is neither a file here nor a name in your zones; ${nearest(
          name.replace(/\.$/, ''),
          files.map(({ zone }) => foldName(zone).replace(/\.$/, '')),
          'your zones',
        )}`,
      )
}

/** Runs the rules once for each view, and joins what they find. The zones are those of the first run. `instead` holds other octets for included files. */
export async function runViews(
  checked: Checked,
  options: CheckOptions,
  instead?: ReadonlyMap<string, Uint8Array>,
): Promise<{ zones: Zones; result: Examined }> {
  const { files, around } = checked
  const progress =
    files.length < MANY ? undefined : await (await import('../output/progress.ts')).progressBar('reading', MANY)
  progress?.expect(files.length)
  const runs: { zones: Zones; result: Examined }[] = []
  const octets = files.reduce((sum, file) => sum + file.octets.length, 0)
  const packing = octets < LARGE ? undefined : (await import('./packing.ts')).PACKING
  for (const view of viewsOf(files)) {
    const zones = loadZones(view, options.includeAnywhere, progress && (() => progress.increment()), instead)
    runs.push({
      zones,
      result: await examine(zones, {
        ...around,
        now: today(),
        published: publishedOf(view, options) ?? lastPublishedOf(checked, view, zones),
        packing,
      }),
    })
  }
  progress?.stop()
  return { zones: runs[0]!.zones, result: joinedResults(runs.map(({ result }) => result)) }
}

/** Of the zones whose serial is not later than that of what was last published, by the log, and whose data are others: what was. */
function lastPublishedOf({ folder, log = [] }: Checked, files: readonly ZoneFile[], zones: Zones): Zones | undefined {
  if (folder === undefined) return undefined
  const last = new Map<string, Published>()
  for (const entry of entriesOf(log))
    if (entry.what === 'published' && entry.backup !== undefined) last.set(`${entry.zone} ${entry.view}`, entry)
  const there = files.flatMap((file, i): ZoneFile[] => {
    const entry = last.get(`${foldName(file.zone)} ${file.view}`)
    const serial = entry && serialOf(zones, zones.zones[i]!)
    if (!entry || serial === undefined || entry.serial === null || serialAfter(serial, entry.serial)) return []
    if (entry.digest === zoneDigest(zones, zones.zones[i]!)) return []
    const octets = readCopy(join(folder, entry.backup!), entry.sum)
    return isRefused(octets) ? [] : [{ ...file, octets, file: join(folder, entry.backup!) }]
  })
  return there.length === 0 ? undefined : loadZones(there)
}

/** The zones as they were published: files of the same names in the folder that the call states. */
function publishedOf(files: readonly ZoneFile[], options: CheckOptions): Zones | undefined {
  const { published } = options
  if (published === undefined) return undefined
  if (!existsSync(published)) throw new Trouble(`--published ${published}: no such folder`)
  const there = files.flatMap((file) => {
    const path = [join(published, relative(process.cwd(), file.file)), join(published, basename(file.file))].find(
      existsSync,
    )
    return path === undefined
      ? []
      : [{ ...file, octets: bareFiles([path], file.zone)[0]!.octets, file: shownPath(resolve(path)) }]
  })
  if (there.length === 0) throw new Trouble(`--published ${published}: contains none of the zone files`)
  return loadZones(there, options.includeAnywhere)
}
