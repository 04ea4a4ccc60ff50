/** Puts zones into the workspace: where each goes, and the commit. */
import { existsSync, readFileSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'
import type { FileBeside, SetPreview } from '../../../core/change/change-set.ts'
import { differingSets } from '../../../core/change/difference.ts'
import { zoneDigest } from '../../../core/change/digest.ts'
import { entrySets } from '../../../core/change/entry.ts'
import { inOnePiece } from '../../../core/file/forms.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { sameOctets } from '../../../core/names/octets.ts'
import { backupPath, sumOf } from '../../../workspace/backups.ts'
import { commit, type ZoneWrite } from '../../../workspace/commit.ts'
import { withZone } from '../../../workspace/settings.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import {
  CONFIG_FILE,
  isNamed,
  loadZones,
  shownPath,
  type Workspace,
  type ZoneFile,
} from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import { today } from '../../clock.ts'
import type { SourceOptions } from '../source.ts'
import type { Arrived } from './arrived.ts'

/** A zone that is taken over, and what its file includes: where each goes. */
export interface Adopted extends Arrived {
  copies: { to: string; octets: Uint8Array }[]
  /** It is in the workspace already, as it is here. */
  there: boolean
  /** The file of the workspace that it takes the place of, and what becomes another set by that. */
  replaced?: { file: ZoneFile; sets: SetPreview[]; digest: string }
  /** Where the whole is kept of which something was left out. */
  backup?: string
}

/** Where a zone that came in goes. */
export function placed(came: Arrived, folder: string, kept: Workspace, options: SourceOptions): Adopted {
  const { file, zones, given } = came
  const twin = kept.files.find((each) => foldName(each.zone) === foldName(file.zone) && each.view === options.view)
  const arrived = twin ? { ...came, notes: [...came.notes, ...stillSaid(twin, came)] } : came
  const home = dirname(resolve(file.file))
  const copies = zones.sources.map(({ file: from, octets }, i) => ({
    octets,
    to: join(
      folder,
      'zones',
      options.view?.replace(/[^\w.-]/g, '_') ?? '',
      i === 0 ? `${bare(foldName(file.zone)).replaceAll('/', '-')}.zone` : relative(home, resolve(from)),
    ),
  }))
  const outside = copies.findIndex(({ to }) => relative(join(folder, 'zones'), to).startsWith('..'))
  if (outside >= 0)
    throw new Trouble(
      `${zones.sources[outside]!.file} is outside the folder of ${given}, so it cannot be copied along; nothing was changed`,
    )
  const backup = arrived.whole && backupPath(folder, { ...file, view: options.view }, copies[0]!.to, today())
  const there = copies.every(({ to, octets }) => existsSync(to) && sameOctets(readFileSync(to), octets))
  if (twin && !(there && resolve(twin.file) === resolve(copies[0]!.to))) {
    if (copies.length > 1)
      throw new Trouble(
        `${bare(file.zone)} is already in your workspace, as ${twin.file}, and an export with included files cannot replace it; nothing was changed`,
      )
    const present = loadZones([twin], options.includeAnywhere)
    const sets = differingSets(present, present.zones[0]!, zones, zones.zones[0]!)
    const same = sameOctets(twin.octets, file.octets)
    const to = resolve(twin.file)
    const replaced = { file: twin, sets, digest: zoneDigest(present, present.zones[0]!) }
    return { ...arrived, copies: [{ ...copies[0]!, to }], there: same, replaced, backup }
  }
  const taken = there ? undefined : copies.find(({ to }) => existsSync(to))
  if (taken) throw new Trouble(`${shownPath(taken.to)} already exists; nothing was changed`)
  return { ...arrived, copies, there: there && twin !== undefined, backup }
}

/** What bramblefront.yaml says of a zone that is no longer so of what takes its place. */
function stillSaid(twin: ZoneFile, { by, complete, traits }: Arrived): string[] {
  if (by === 'file' || by === 'table') return []
  const stated = twin.complete !== false
  return [
    ...(stated === complete
      ? []
      : [
          `Edit ${CONFIG_FILE}: ${complete ? 'take “complete: false” out of' : 'add “complete: false” to'} the entry of this zone.`,
        ]),
    ...(traits.signed === undefined || twin.signed === traits.signed
      ? []
      : [`Edit ${CONFIG_FILE}: add “signed: ${traits.signed}” to the entry of this zone.`]),
  ]
}

/** Puts the files into the workspace, and names in bramblefront.yaml what no pattern there matches. */
export async function bringIn(folder: string, adopted: readonly Adopted[], view: string | undefined): Promise<void> {
  if (adopted.length === 0) return
  const config = join(folder, CONFIG_FILE)
  const before = readFileSync(config)
  let text = before.toString()
  for (const { file, copies, replaced, traits } of adopted) {
    if (replaced) continue
    const path = relative(folder, copies[0]!.to)
    const said = { ...(view === undefined ? {} : { view }), ...traits }
    if (Object.keys(said).length > 0) text = withZone(text, { zone: bare(foldName(file.zone)), file: path, ...said })
    else if (!(await isNamed(text, path))) text = withZone(text, path)
  }
  const beside: FileBeside[] = adopted.flatMap(({ copies, replaced }) =>
    (replaced ? [] : copies)
      .filter(({ to }) => !existsSync(to))
      .map(({ to, octets }) => ({ path: to, content: octets })),
  )
  for (const { whole, backup } of adopted) if (whole && backup) beside.push({ path: backup, content: whole })
  if (text !== before.toString()) beside.push({ path: config, content: text, before })
  const zones = adopted.map(
    ({ file, zones, copies, replaced, by, from, whole, backup }): ZoneWrite => ({
      zone: file.zone,
      view,
      files: replaced ? [{ file: replaced.file.file, before: replaced.file.octets, octets: file.octets }] : [],
      entry: {
        what: 'adopted',
        by,
        ...(from === undefined ? {} : { from }),
        ...(whole && backup ? { came: relative(folder, backup), cameSum: sumOf(whole) } : {}),
        ...(view === undefined ? {} : { view }),
        file: relative(folder, copies[0]!.to),
        serial: null,
        sets: entrySets(replaced?.sets ?? []),
        findings: { added: [], gone: [] },
        was: replaced?.digest,
        digest: zoneDigest(zones, zones.zones[0]!),
      },
      copy: copies[0]!.octets,
      whole: inOnePiece(zones, zones.zones[0]!),
    }),
  )
  const newZones = adopted.filter(({ replaced }) => !replaced).map(({ copies }) => copies[0]!.to)
  const writes = { zones, beside, newZones, command: callText(), now: today() }
  await commit({ root: folder, backups: folder, logged: true }, writes, async () => {
    throw new Trouble('files of the workspace were changed in the meantime; nothing was adopted: try again')
  })
}
