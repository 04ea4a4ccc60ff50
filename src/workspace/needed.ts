/** Which files of a workspace a command about some zones needs. */
import { resolve } from 'node:path'
import { type Tie, tiesOf } from '../core/change/ties.ts'
import { parseAddress } from '../core/names/address.ts'
import { toAsciiName } from '../core/names/idna.ts'
import { foldName, type Name } from '../core/names/name.ts'
import { reverseName } from '../core/names/reverse.ts'
import { zoneOf } from './files.ts'
import { stampOf } from './journal.ts'
import { loadZones, type Workspace, type ZoneFile } from './workspace.ts'
import { LEAST_FILES, writeIndex } from './zone-index.ts'

/** A file that was changed a moment ago can be changed again without looking different, in milliseconds. */
const SETTLED_AFTER = 2000

/** What a command is about. */
export interface About {
  /** Words of the call: zones that they name are needed, and what these lead to. */
  words: readonly string[]
  /** Zones that change: whoever speaks of names in them is needed, too. */
  changed?: readonly Name[]
  /** Other names that are spoken of. */
  names?: readonly Name[]
}

/** The files that a command needs. All of them where there are few, or no zone is named. */
export function neededFiles(workspace: Workspace, { words, changed = [], names = [] }: About): ZoneFile[] {
  if (workspace.files.length < LEAST_FILES) return workspace.files
  let world = NEIGHBOURS.get(workspace.files)
  if (!world) NEIGHBOURS.set(workspace.files, (world = new Neighbours(workspace, tiesOfAll(workspace))))
  const roots = world.named(words)
  return roots.length === 0 ? workspace.files : world.around(roots, world.named(changed), world.named(names))
}
const NEIGHBOURS = new WeakMap<readonly ZoneFile[], Neighbours>()

/** The ties of every zone; what was not known of them is found out and kept. */
function tiesOfAll({ folder, files, index }: Workspace): Map<ZoneFile, readonly Tie[]> {
  const stamps = new Map<string, string | undefined>()
  const stampAt = (path: string): string | undefined => {
    if (!stamps.has(path)) stamps.set(path, stampOf(path))
    return stamps.get(path)
  }
  let isNew = false
  const found = new Map<ZoneFile, readonly Tie[]>()
  for (const file of files) {
    const { path = '', stamp } = file.indexed ?? {}
    const known = index.get(path)
    const isSame = known !== undefined && known.stamp === stamp
    if (isSame && known.ties && Object.entries(known.included ?? {}).every(([at, was]) => stampAt(at) === was)) {
      found.set(file, known.ties)
      continue
    }
    const { ties, included } = lookedAt(file)
    found.set(file, ties)
    const parts = included.map((each) => [resolve(each), stampAt(resolve(each))] as const)
    const isSettled = [stamp, ...parts.map((part) => part[1])].every((each) => each !== undefined && isOld(each))
    if (!isSettled || stamp === undefined || (included.length === 0 && hasInclude(file.octets))) continue
    const ofParts = Object.fromEntries(parts) as Record<string, string>
    const zone = zoneOf(file.file, file.octets)
    index.set(path, {
      stamp,
      zone: typeof zone === 'string' ? zone : null,
      ties,
      ...(parts.length > 0 ? { included: ofParts } : {}),
    })
    isNew = true
  }
  if (isNew) writeIndex(folder, index)
  return found
}

function lookedAt(file: ZoneFile): { ties: Tie[]; included: string[] } {
  const zones = loadZones([file])
  return { ties: tiesOf(zones, zones.zones[0]!), included: zones.sources.slice(1).map((source) => source.file) }
}

const isOld = (stamp: string): boolean => Date.now() - Number(stamp.split(' ')[1]) >= SETTLED_AFTER
/** Includes that could not be read may be there the next time. */
const hasInclude = (octets: Uint8Array): boolean => /\$include/i.test(Buffer.from(octets).toString('latin1'))

/** The zones of a workspace, and which of them belong together. */
class Neighbours {
  private readonly byZone = new Map<Name, ZoneFile[]>()
  private readonly files: readonly ZoneFile[]
  private readonly ties: ReadonlyMap<ZoneFile, readonly Tie[]>

  constructor({ files, around }: Workspace, ties: ReadonlyMap<ZoneFile, readonly Tie[]>) {
    this.files = files
    for (const file of files) {
      const name = foldName(file.zone)
      this.byZone.set(name, [...(this.byZone.get(name) ?? []), file])
    }
    // What follows a name is tied to it.
    const all = new Map(ties)
    for (const { owner, target } of around.follows ?? [])
      for (const file of this.deepest(absolute(owner))) all.set(file, [...(all.get(file) ?? []), absolute(target)])
    this.ties = all
  }

  /** The files of the zones that names among these words are in. */
  named(words: readonly string[]): ZoneFile[] {
    const names = words
      .flatMap((word) => [...word.split(/[\s=:,;@"]+/), ...word.split(/[\s=:,;@"/]+/), word])
      .flatMap(meant)
    return [...new Set(names.flatMap((name) => this.deepest(absolute(name))))]
  }

  /** The files of `roots` and of the zones below them, of `others`, of what speaks of `changed`; of what all of these lead to and what shares a key with them, and of the zones above; in the order of all. */
  around(roots: readonly ZoneFile[], changed: readonly ZoneFile[], others: readonly ZoneFile[]): ZoneFile[] {
    const needed = new Set<ZoneFile>([...roots, ...others, ...this.pointingAt(changed)])
    for (const file of this.files) if (this.above(file.zone).some((each) => roots.includes(each))) needed.add(file)
    const keys = this.byKey()
    const add = (file: ZoneFile): void => void needed.add(file)
    // What is added is looked at in its turn.
    for (const file of needed) {
      this.above(file.zone).forEach(add)
      for (const tie of this.ties.get(file) ?? [])
        (tie.startsWith('#') ? (keys.get(tie) ?? []) : this.deepest(tie)).forEach(add)
    }
    return this.files.filter((file) => needed.has(file))
  }

  /** Zones that speak of names in these, and those that speak of them in turn. */
  private pointingAt(changed: readonly ZoneFile[]): ReadonlySet<ZoneFile> {
    const found = new Set(changed)
    const ends = changed.map(({ zone }) => foldName(zone))
    const isNear = (tie: Tie): boolean => ends.some((end) => tie.endsWith(end))
    // Hardly ever does anybody speak of a zone: the others need not be looked up then.
    if (!this.files.some((file) => !found.has(file) && this.ties.get(file)!.some(isNear))) return found
    const pointing = new Map<ZoneFile, ZoneFile[]>()
    for (const file of this.files)
      for (const tie of this.ties.get(file) ?? [])
        for (const at of this.deepest(tie)) {
          const there = pointing.get(at)
          if (there) there.push(file)
          else pointing.set(at, [file])
        }
    for (const file of found) for (const each of pointing.get(file) ?? []) found.add(each)
    return found
  }

  private byKey(): Map<Tie, ZoneFile[]> {
    const found = new Map<Tie, ZoneFile[]>()
    for (const [file, ties] of this.ties)
      for (const tie of ties) if (tie.startsWith('#')) found.set(tie, [...(found.get(tie) ?? []), file])
    return found
  }

  /** The files of the zone that a name is in. */
  private deepest(name: Name): readonly ZoneFile[] {
    for (let at = 0; at < name.length; at = afterDot(name, at)) {
      const files = this.byZone.get(name.slice(at))
      if (files) return files
    }
    return []
  }

  /** The files of all zones above a zone. */
  private above(zone: Name): ZoneFile[] {
    const name = foldName(zone)
    const found: ZoneFile[] = []
    for (let at = afterDot(name, 0); at < name.length; at = afterDot(name, at))
      found.push(...(this.byZone.get(name.slice(at)) ?? []))
    return found
  }
}

/** The name that a word is, if it may be one; of an address, its reverse name. */
function meant(word: string): Name[] {
  const address = parseAddress(word)
  if (address) return [reverseName(address)]
  const ascii = toAsciiName(word)
  return word === '' || 'refused' in ascii ? [] : [ascii.name]
}

const absolute = (name: string): Name => foldName(name.endsWith('.') ? name : `${name}.`)

/** Where the labels behind the next dot begin. */
function afterDot(name: string, from: number): number {
  const dot = name.indexOf('.', from)
  return dot < 0 ? name.length : dot + 1
}
