/** What a change is about: its options, the zones that it may change, the one that an owner is in. */
import { dirname } from 'node:path'
import { ownerAsTyped } from '../../../core/change/as-typed.ts'
import type { ServerEntry } from '../../../core/confirm/vantage.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { parseAddress } from '../../../core/names/address.ts'
import { toAsciiName } from '../../../core/names/idna.ts'
import { bare, foldName, isAtOrBelow, labelsOf, type Name, nameToWire } from '../../../core/names/name.ts'
import type { Surroundings } from '../../../core/rules/rule.ts'
import { finishUnfinished } from '../../../workspace/commit.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { type About, neededFiles } from '../../../workspace/needed.ts'
import { notices, Trouble } from '../../../workspace/trouble.ts'
import {
  bareFiles,
  findWorkspace,
  rootOf,
  type Workspace,
  type ZoneFile,
  zoneNamed,
} from '../../../workspace/workspace.ts'
import { agreedTo } from '../../output/ask.ts'
import { needWorkspace, type SourceOptions } from '../source.ts'

/** The options that every change has. */
export interface ChangeOptions extends SourceOptions {
  file?: string
  dryRun?: boolean
  force?: boolean
  json?: boolean
}

export interface Target {
  /** Of the workspace; of a bare file, the one that it is in. */
  folder: string
  /** Those that are needed. */
  files: ZoneFile[]
  /** The names of all zones. */
  known: readonly Name[]
  /** With the files that are needed, too, since these zones change, and speak of these names; undefined where there are no more. */
  wider?(changed: readonly Name[], names: () => readonly string[]): Target | undefined
  bareFile: boolean
  /** How zones get to their servers; of a workspace. */
  deliveries?: readonly Delivery[]
  /** Name servers whose addresses are stated; of a workspace. */
  servers?: readonly ServerEntry[]
  /** How many days a step of a DMARC policy must have been published before the next; of a workspace. */
  stepDays?: number
  /** What is known beyond the zones. */
  around: Surroundings
}

/** The zones that a call may change, and where backups go. */
export async function targetOf(options: ChangeOptions): Promise<Target> {
  if (options.file) {
    await finished(rootOf(options.file), options)
    const files = bareFiles([options.file], options.zone)
    return { folder: dirname(options.file), files, known: files.map(({ zone }) => zone), bareFile: true, around: {} }
  }
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (folder) await finished(folder, options)
  const workspace = await needWorkspace(options)
  return { ...workspace, known: workspace.files.map(({ zone }) => zone), bareFile: false }
}

/** The same for a call that names all zones that it is about: of many, those that matter for these. */
export async function targetNamed(options: ChangeOptions): Promise<Target> {
  const target = await targetOf(options)
  if (target.bareFile || options.includeAnywhere) return target
  const all = target as Target & Workspace
  const needing = (about: About): Target => {
    const files = neededFiles(all, about)
    return {
      ...target,
      files,
      wider(changed, names) {
        // Finding the names of a large zone out takes longer than reading it.
        if (files.length === all.files.length) return undefined
        const next = needing({
          words: about.words,
          changed: [...(about.changed ?? []), ...changed],
          names: [...(about.names ?? []), ...names()],
        })
        return next.files.length > files.length ? next : undefined
      },
    }
  }
  return needing({ words: process.argv.slice(2) })
}

/** Finishes first what an earlier call left undone; a dry run writes nothing, and reads around it. */
export async function finished(root: string, { dryRun }: { dryRun?: boolean }): Promise<void> {
  const journal = dryRun ? undefined : await finishUnfinished(root)
  if (journal) notices.add(`The change of ${journal.at} (${journal.command}) had been interrupted. It is complete now.`)
}

/** The zone that an owner as typed is in: the deepest of yours that it ends in, else the stated or the only one. A name of several labels that ends in none may be a misspelled zone: that is asked. */
export async function zoneFor(
  typed: string,
  zones: Zones,
  options: ChangeOptions,
  all: readonly Name[] = zones.zones.map(({ name }) => name),
): Promise<Zone> {
  const ascii = toAsciiName(ownerAsTyped(typed))
  if ('refused' in ascii) throw new Trouble(`${typed} is not a valid domain name: ${ascii.refused}`)
  const owner = ascii.name
  const stated = options.zone && !options.file ? zoneNamed(zones, options.zone) : undefined
  const absolute = owner.endsWith('.') ? owner : `${owner}.`
  const ends = zones.zones
    .filter((each) => isAtOrBelow(absolute, each.name))
    .sort((a, b) => b.wire.length - a.wire.length)
  if (ends[0] && (!stated || stated === ends[0] || !isAtOrBelow(absolute, stated.name))) return ends[0]
  const known = all.map((each) => bare(foldName(each)))
  const named = owner === ascii.name && parseAddress(typed) ? `${typed} (${bare(owner)})` : owner
  if (owner.endsWith('.') && !stated)
    throw new Trouble(`${named} is not in any of your zones; ${nearest(bare(foldName(owner)), known, 'your zones')}`)
  if (stated) return stated
  if (all.length > 1)
    throw new Trouble(
      `${owner} does not end in the name of one of your zones, and could be relative to several: choose one with --zone; ${nearest(owner, known, 'your zones')}`,
    )
  const [only] = zones.zones
  await relativeIsMeant(owner, only!, zones)
  return only!
}

/** A relative owner of several labels is everyday (api.dev), and so is a misspelled zone: a person is asked which it is. */
async function relativeIsMeant(owner: string, zone: Zone, zones: Zones): Promise<void> {
  const labels = labelsOf(owner)
  if (labels.length < 2 || labels.some((label) => label.startsWith('_') || label === '*')) return
  // Below a name that is there, or at it, it is relative beyond doubt.
  const isThere = (name: Name): boolean => {
    const id = zones.tree.findWire(nameToWire(name) as Uint8Array)
    return id >= 0 && zones.exists(id)
  }
  if (labels.some((_, i) => isThere(`${labels.slice(i).join('.')}.${zone.name}`))) return
  const whole = `${labels.join('.')}.${bare(zone.name)}`
  if (await agreedTo(`${owner} is not in ${bare(zone.name)}. Is the new name ${whole} meant?`)) return
  throw new Trouble(
    `${owner} does not end in ${bare(zone.name)}. Write the name that is meant in full: ${whole} for a new name in your zone; for the zone itself: ${bare(zone.name)}`,
  )
}
