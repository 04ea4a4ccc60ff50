/** What a command works on: one bare file, or a zone of the workspace. */
import { existsSync } from 'node:fs'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { foldName, isAtOrBelow } from '../../core/names/name.ts'
import { statedZone } from '../../workspace/files.ts'
import { neededFiles } from '../../workspace/needed.ts'
import { Trouble } from '../../workspace/trouble.ts'
import {
  bareFiles,
  findWorkspace,
  loadZones,
  openWorkspace,
  type Workspace,
  zoneNamed,
} from '../../workspace/workspace.ts'

export interface SourceOptions {
  zone?: string
  workspace?: string
  view?: string
  includeAnywhere?: boolean
}

export interface Chosen {
  zones: Zones
  /** The zones that were asked for. */
  chosen: Zone[]
  /** A name inside a zone, where one was asked for: lower case, absolute. */
  name?: string
  workspace?: Workspace
}

/** The workspace that the call names or stands in, or trouble that says how to get one. */
export async function needWorkspace(
  options: SourceOptions,
  how: { allViews?: boolean; unviewed?: boolean } = {},
): Promise<Workspace> {
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (!folder)
    throw new Trouble(
      'no workspace here (no bramblefront.yaml): name a zone file, or create a workspace with: bramblefront init',
    )
  const workspace = await openWorkspace(folder, { view: options.view, ...how })
  if (workspace.files.length === 0) throw new Trouble(`the workspace ${folder} has no zones yet. ${waysIn()}`)
  return workspace
}

/** How a zone gets into a workspace: from a file, from its servers, or as a new one. */
export const WAYS_IN = [
  ['bramblefront adopt FILE', 'a zone file, or a table from a web form'],
  ['bramblefront adopt ZONE', 'from its name servers, by transfer or by asking; --sheet STYLE keeps it in a web form'],
  ['bramblefront init --zone ZONE --ns HOST', 'a new zone'],
]

/** The same in a sentence. */
export const waysIn = (): string => `Bring one in: ${WAYS_IN.map(([call, what]) => `${call} (${what})`).join('; or ')}`

/** Whether a word of the call is meant as a file: there is one, or it looks like one. Names of reverse zones may have slashes in them (RFC 2317 §4). */
export const isFileWord = (what: string): boolean =>
  existsSync(what) || (!/\.arpa\.?$/i.test(what) && (/[/\\]/.test(what) || /\.(?:zone|db|txt)$/i.test(what)))

/** The name in what people have at hand: of an address for mail the domain, of a URL the host. */
export function nameIn(what: string): string {
  if (existsSync(what)) return what
  const [, host] = /^[a-z][a-z0-9+.-]{1,12}:\/\/([^/:?#@\s]+)/i.exec(what) ?? []
  const [, domain] = /^[^@\s]+@([^@\s]+)$/.exec(what) ?? []
  return host ?? domain ?? what
}

/** Takes `what` as a file where there is one with that name, else as a zone of the workspace or a name in one. */
export async function choose(
  stated: string | undefined,
  options: SourceOptions,
  how: { unviewed?: boolean } = {},
): Promise<Chosen> {
  const what = stated === undefined ? undefined : nameIn(stated)
  if (what !== undefined && isFileWord(what)) {
    const zones = loadZones(bareFiles([what], options.zone), options.includeAnywhere)
    return { zones, chosen: zones.zones }
  }
  const workspace = await needWorkspace(options, how)
  const asked = what ?? options.zone
  const name = asked === undefined ? undefined : statedZone(asked)
  const files =
    name === undefined || options.includeAnywhere
      ? workspace.files
      : neededFiles(workspace, { words: [name, ...process.argv.slice(2)] })
  const zones = loadZones(files, options.includeAnywhere)
  if (name === undefined) return { zones, chosen: zones.zones, workspace }
  const inside = zones.zones
    .filter((zone) => isAtOrBelow(name, zone.name))
    .sort((a, b) => b.name.length - a.name.length)[0]
  if (!inside) return { zones, chosen: [zoneNamed(loadZones(workspace.files), name)], workspace }
  return {
    zones,
    chosen: [inside],
    workspace,
    name: foldName(name) === foldName(inside.name) ? undefined : foldName(name),
  }
}
