/** From what a command proposes to what is written: previewed, asked where that must be, and committed. */
import { relative, resolve } from 'node:path'
import type { Command } from 'commander'
import type { ChangeSet, FileBeside, Preview, ZonePreview } from '../../../core/change/change-set.ts'
import { entrySets } from '../../../core/change/entry.ts'
import { leftBehind, takesExchangersAway } from '../../../core/change/mail/left-behind.ts'
import { preview, sharing } from '../../../core/change/preview.ts'
import { type InStep, joinedParts } from '../../../core/change/reverse.ts'
import { tiesOf } from '../../../core/change/ties.ts'
import type { SetChange } from '../../../core/file/edit/changes.ts'
import { inOnePiece } from '../../../core/file/forms.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { foldName, type Name } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import type { Finding } from '../../../core/rules/rule.ts'
import { type ChangeEntry, commit, type Place, type Writes } from '../../../workspace/commit.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { loadZones, rootOf, zoneNamed } from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import { today } from '../../clock.ts'
import { agreedTo } from '../../output/ask.ts'
import { type Outcome, report } from './report.ts'
import { type ChangeOptions, type Target, targetNamed, targetOf } from './target.ts'

/** What shall change in one zone, with what is to be known of it and what goes with it. */
export interface ZoneWish {
  changes: SetChange[]
  notes?: readonly string[]
  beside?: readonly FileBeside[]
}

/** The change set of one zone, with what goes with it in others (`inStep`), to be made anew where the zones turn out to be others by then. */
export const ofZone =
  (
    zone: Zone,
    wishOf: (zones: Zones, zone: Zone) => ZoneWish | SetChange[],
    inStep?: (zones: Zones, zone: Zone, changes: readonly SetChange[]) => InStep,
  ) =>
  (zones: Zones): ChangeSet => {
    const at = zoneNamed(zones, zone.name)
    const wish = wishOf(zones, at)
    const { changes, notes = [], beside }: ZoneWish = Array.isArray(wish) ? { changes: wish } : wish
    const more = inStep?.(zones, at, changes)
    const own = { zone: at, sets: changes, notes: [...notes, ...(more?.notes ?? [])] }
    return { parts: joinedParts([own, ...(more?.parts ?? [])]), beside }
  }

/** How a change is agreed to and told of, where that is not as for `write`. */
export interface Manner {
  /** Asked before anything is written; false: nothing is. */
  agree?(outcome: Outcome): Promise<boolean>
  tell?(outcome: Outcome): void
  /** What the log calls it. */
  what?: 'restored'
}

/**
 * Shows sets before and after, checks the result, and writes it unless that adds an error. Exit status 1, and nothing written, where it does.
 * `loaded` are the zones as they were read first. Where another writer came between, they are read again under the lock, and `propose` is asked again.
 */
export async function change(
  target: Target,
  loaded: Zones,
  options: ChangeOptions,
  command: Command,
  propose: (zones: Zones) => ChangeSet,
  { agree, what, tell = (outcome) => report(outcome, options, command) }: Manner = {},
): Promise<void> {
  const now = today()
  let agreed: readonly string[] = []
  const attempt = async (at: Target, zones: Zones, mayAsk: boolean): Promise<Outcome & { writes?: Writes }> => {
    const changeSet = await withLeftBehind(zones, propose(zones))
    const whole = new Map(changeSet.parts.map(({ zone }) => [zone, inOnePiece(zones, zone)]))
    const reload = (instead: ReadonlyMap<string, Uint8Array>): Zones =>
      loadZones(at.files, options.includeAnywhere, undefined, instead)
    const made = await preview(zones, changeSet, { now, around: at.around, digests: !at.bareFile, reload })
    if ('refused' in made) throw new Trouble(made.refused)
    // What is written may speak of zones that were not needed before.
    const wider = at.wider?.(
      made.zones.map(({ zone }) => zone.name),
      () => made.zones.flatMap(({ zone }) => tiesOf(zones, zone)),
    )
    if (wider) return attempt(wider, loadZones(wider.files, options.includeAnywhere), mayAsk)
    if (!options.force) agreed = await sharedAgreed(zones, made, mayAsk ? options : { json: true }, agreed)
    const refused = made.findings.added.some(isError) && !options.force
    const changes = made.zones.some(({ files }) => files.length > 0) || (changeSet.beside ?? []).length > 0
    return {
      target: at,
      changeSet,
      preview: made,
      refused,
      writes:
        refused || options.dryRun || !changes
          ? undefined
          : writesOf(at.folder, made, now, { beside: changeSet.beside, what, whole }),
    }
  }
  let outcome = await attempt(target, loaded, true)
  if (outcome.writes && (agree === undefined || (await agree(outcome))))
    outcome.committed = await commit(placeOf(target), outcome.writes, async () => {
      const again = { ...options, dryRun: true }
      const fresh = await (target.wider ? targetNamed(again) : targetOf(again))
      outcome = await attempt(fresh, loadZones(fresh.files, options.includeAnywhere), false)
      return outcome.writes
    })
  tell(outcome)
}

/** With a note where a provider’s mail exchangers go, and its senders stay. The list of public suffixes is large: it is loaded where that may be. */
async function withLeftBehind(zones: Zones, changeSet: ChangeSet): Promise<ChangeSet> {
  if (!changeSet.parts.some(({ zone, sets }) => takesExchangersAway(zones, zone, sets))) return changeSet
  const { organizationalDomain } = await import('../../../core/names/public-suffix.ts')
  const organizationOf = (name: Name): Name => foldName(organizationalDomain(name))
  return {
    ...changeSet,
    parts: changeSet.parts.map((part) => {
      const notes = leftBehind(zones, part.zone, part.sets, organizationOf)
      return notes.length === 0 ? part : { ...part, notes: [...(part.notes ?? []), ...notes] }
    }),
  }
}

const isError = ({ severity }: Finding): boolean => severity === 'error'

/** Where a change is written. */
export const placeOf = ({ folder, files, bareFile }: Pick<Target, 'folder' | 'files' | 'bareFile'>): Place => ({
  root: bareFile ? rootOf(files[0]!.file) : folder,
  backups: folder,
  logged: !bareFile,
})

/** What a change puts on the disk. `folder` is that of the workspace, where there is one. */
export function writesOf(
  folder: string | undefined,
  { zones, findings }: Preview,
  now: Date,
  {
    beside = [],
    what = 'change',
    whole,
  }: {
    beside?: readonly FileBeside[]
    what?: 'change' | 'restored'
    /** Zones whose files include others, as they were: in one piece. */
    whole?: ReadonlyMap<Zone, Uint8Array | undefined>
  } = {},
): Writes {
  return {
    zones: zones
      .filter(({ files }) => files.length > 0)
      .map((each) => ({
        zone: each.zone.name,
        view: each.zone.view,
        files: each.files,
        entry: entryOf(folder ?? '', each, findings, what),
        whole: whole?.get(each.zone),
      })),
    beside,
    command: callText(),
    now,
  }
}

/** What the log says of a change of a zone. */
function entryOf(
  folder: string,
  { zone, sets, serial, was, digest }: ZonePreview,
  { added, gone }: Preview['findings'],
  what: 'change' | 'restored',
): ChangeEntry {
  const ofZone = (findings: readonly Finding[]): ChangeEntry['findings']['added'] =>
    findings
      .filter((finding) => foldName(finding.zone) === foldName(zone.name))
      .map(({ rule, severity, owner, type }) => ({ rule, severity, owner, type }))
  return {
    what,
    ...(zone.view === undefined ? {} : { view: zone.view }),
    file: relative(resolve(folder), resolve(zone.file)),
    serial: serial ?? null,
    sets: entrySets(sets),
    findings: { added: ofZone(added), gone: ofZone(gone) },
    was,
    digest,
  }
}

/** Included files that other zones include too: changing one changes them. The person is asked; without one, it is refused. Returns those that were agreed to. */
async function sharedAgreed(
  zones: Zones,
  { zones: previews }: Preview,
  { json, dryRun }: ChangeOptions,
  agreed: readonly string[],
): Promise<string[]> {
  const now: string[] = []
  for (const { zone, files } of previews)
    for (const { file } of files) {
      const others = sharing(zones, file, zone)
      if (others.length === 0) continue
      const known = `${file} ${others.join(' ')}`
      const question = `This record set is in ${file}, which these zones include, too: ${others.join(', ')}. Change it for all of them?`
      if (agreed.includes(known) || (!json && !dryRun && (await agreedTo(printable(question))))) {
        now.push(known)
        continue
      }
      throw new Trouble(
        `the record set is in ${file}, which ${others.join(', ')} include${others.length === 1 ? 's' : ''}, too, so the change would affect them as well. Nothing was written; --force changes it for all of them`,
      )
    }
  return now
}
