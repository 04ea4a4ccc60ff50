/** What a change is about: its options, the zones that it may change, the one that an owner is in. */
import { dirname } from 'node:path'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { toAsciiName } from '../../../core/names/idna.ts'
import { bare, foldName, isAtOrBelow } from '../../../core/names/name.ts'
import type { Surroundings } from '../../../core/rules/rule.ts'
import { finishUnfinished } from '../../../workspace/commit.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { notices, Trouble } from '../../../workspace/trouble.ts'
import { bareFiles, findWorkspace, rootOf, type ZoneFile, zoneNamed } from '../../../workspace/workspace.ts'
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
  files: ZoneFile[]
  bareFile: boolean
  /** What is known beyond the zones. */
  around: Surroundings
}

/** The zones that a call may change, and where backups go. */
export async function targetOf(options: ChangeOptions): Promise<Target> {
  if (options.file) {
    await finished(rootOf(options.file), options)
    return {
      folder: dirname(options.file),
      files: bareFiles([options.file], options.zone),
      bareFile: true,
      around: {},
    }
  }
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (folder) await finished(folder, options)
  const workspace = await needWorkspace(options)
  return { ...workspace, bareFile: false }
}

/** Finishes first what an earlier call left undone; a dry run writes nothing, and reads around it. */
export async function finished(root: string, { dryRun }: { dryRun?: boolean }): Promise<void> {
  const journal = dryRun ? undefined : await finishUnfinished(root)
  if (journal) notices.add(`The change of ${journal.at} (${journal.command}) had been interrupted. It is complete now.`)
}

/** The zone that an owner as typed is in: the deepest kept one that it ends in, else the stated or the only one. */
export function zoneFor(typed: string, zones: Zones, options: ChangeOptions): Zone {
  const ascii = toAsciiName(typed)
  if ('refused' in ascii) throw new Trouble(`${typed} is not a valid domain name: ${ascii.refused}`)
  const owner = ascii.name
  const stated = options.zone && !options.file ? zoneNamed(zones, options.zone) : undefined
  const absolute = owner.endsWith('.') ? owner : `${owner}.`
  const ends = zones.zones
    .filter((each) => isAtOrBelow(absolute, each.name))
    .sort((a, b) => b.wire.length - a.wire.length)
  if (ends[0] && (!stated || stated === ends[0] || !isAtOrBelow(absolute, stated.name))) return ends[0]
  const known = zones.zones.map((each) => bare(foldName(each.name)))
  if (owner.endsWith('.') && !stated)
    throw new Trouble(`${owner} is not in any of your zones; ${nearest(bare(foldName(owner)), known, 'your zones')}`)
  if (stated) return stated
  if (zones.zones.length === 1) return zones.zones[0]!
  throw new Trouble(
    `${owner} does not end in the name of one of your zones, and could be relative to several: choose one with --zone; ${nearest(owner, known, 'your zones')}`,
  )
}
