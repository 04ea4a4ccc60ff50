/** Publishing as files in a folder that a name server reads. */
import { basename, relative, resolve } from 'node:path'
import { differences, type Sets, setsOf, soaOf } from '../../../core/change/difference.ts'
import { editKept } from '../../../core/change/edit.ts'
import { inOnePiece } from '../../../core/file/forms.ts'
import { advanceSerial, serialAfter, serialOf } from '../../../core/file/serial.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { sameOctets } from '../../../core/names/octets.ts'
import { soa } from '../../../core/records/views.ts'
import { ServerFinder } from '../../../net/authorities.ts'
import { sumOf } from '../../../workspace/backups.ts'
import { writeBase } from '../../../workspace/bases.ts'
import { type ChangeEntry, commit } from '../../../workspace/commit.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { type DeliveredFile, deliver, deliveryFiles, isDelivered } from '../../../workspace/deliver.ts'
import { presentAt } from '../../../workspace/files.ts'
import { recordDelivered } from '../../../workspace/seen.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { loadZones, shownPath, zoneNamed } from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import { today } from '../../clock.ts'
import { soaAt } from '../servers.ts'
import { limitOf } from '../whom.ts'
import { mayRun, programOf } from './after.ts'
import { baseNotes, baseOf, baseRef, type Job, type Outcome, outcomeOf, type Refusal } from './job.ts'

type ByFile = Extract<Delivery, { by: 'file' }>

export async function publishByFile(job: Job): Promise<Outcome> {
  const { delivery, options, past } = job
  if (delivery.by !== 'file') throw new Error('another delivery')
  if (options.only) throw new Trouble('--only is for deliveries by update: a file is delivered whole')
  const { folder, after } = delivery
  const { file, zones, zone } = past
  const files = deliveryFiles(folder, file, zones, zone)
  const own = files.at(-1)!
  const there = presentAt(own.path)
  const { sets, serial } = there ? statesOf(job, files, there) : NOTHING
  const plan = { changes: differences(sets, setsOf(zones, zone)), foreign: [], conflicts: [] }
  const outcome = outcomeOf(`the folder ${shownPath(folder)}`, plan, serial)
  outcome.compared = new Set([...sets.keys(), ...setsOf(zones, zone).keys()]).size
  const isThere = files.every(isDelivered)
  outcome.isTextOnly = !isThere && plan.changes.length === 0
  // A call that was cut short has delivered it, and not said so; then the command afterwards was not run either.
  const isDone = isThere && (after === undefined || files.every((each) => isKnown(job, each)))
  const others = isThere ? undefined : othersIn(job, files, sets)
  if (others && !options.overwrite) {
    outcome.refused = { rcode: null, why: `${others.why}. ${othersFix(job, others.path)}`, ...others.set }
    return outcome
  }
  const lost = zone.complete === false && !isDone && !options.force ? incompleteText(job, outcome) : undefined
  if (lost !== undefined) {
    outcome.refused = { rcode: null, why: lost }
    return outcome
  }
  const program = after && !isDone ? programOf(after, past.folder) : undefined
  if (program && 'missing' in program) {
    outcome.refused = {
      rcode: null,
      why: `${program.missing}; nothing was delivered. Correct after: of ${delivery.label}`,
    }
    return outcome
  }
  if (!isDone && (options.dryRun || !(await job.agree(job, outcome)))) return outcome
  if (program && !(await mayRun(past.folder, delivery.label, after!, program))) {
    outcome.refused = {
      rcode: null,
      why: `the command afterwards (${after!.join(' ')}) was not confirmed on this machine in its present form, and --yes does not cover that: run this once at a terminal`,
    }
    return outcome
  }
  const put = isThere ? files : await delivered(job, delivery, files, serial)
  const now = put.at(-1)!.octets
  outcome.readBack = put.every(isDelivered)
  outcome.written = !isThere
  outcome.sent = isThere ? [] : outcome.changes
  outcome.serial.after = statesOf(job, put, now).serial
  const finish = async (): Promise<void> => {
    const isWell = outcome.readBack && (outcome.after === undefined || outcome.after.status === 0)
    if (isWell && !options.dryRun) await recordPut(job, delivery, put)
  }
  if (!after || isDone) await finish()
  else
    outcome.afterwards = {
      path: own.path,
      async finish(ran) {
        outcome.after = ran
        await finish()
      },
    }
  return outcome
}

const NOTHING: { sets: Sets; serial?: number } = { sets: new Map() }

/** The folder has it all now: that is the base. */
async function recordPut(job: Job, delivery: ByFile, put: readonly DeliveredFile[]): Promise<void> {
  const { past, options } = job
  const file = { ...past.file, octets: put.at(-1)!.octets }
  const zones = loadZones([file], options.includeAnywhere)
  const zone = zoneNamed(zones, past.zone.name)
  const base = { sets: setsOf(zones, zone), soa: soaOf(zones, zone) }
  const what = {
    by: 'file' as const,
    delivery: delivery.label,
    entries: past.entries,
    base,
    notes: baseNotes(job, { files: sumsOf(delivery.folder, put) }),
    command: callText(),
    now: today(),
  }
  await recordDelivered(past.folder, file, past.digest, what, options.includeAnywhere)
}

const sumsOf = (folder: string, files: readonly DeliveredFile[]): Record<string, string> =>
  Object.fromEntries(files.map(({ path, octets }) => [relative(folder, path), sumOf(octets)]))

/** Whether a file holds just what this delivery is known to have put there. */
function isKnown({ stored, delivery }: Job, { path }: DeliveredFile): boolean {
  const there = presentAt(path)
  if (!there || delivery.by !== 'file') return false
  return stored?.files?.[relative(delivery.folder, path)] === sumOf(there)
}

/** What octets say, as the zone’s own file in the folder, with the files that it includes there. */
function statesOf(
  { past, options }: Job,
  files: readonly DeliveredFile[],
  octets: Uint8Array,
): { sets: Sets; serial?: number } {
  const zones = loadZones([{ ...past.file, file: files.at(-1)!.path, octets }], options.includeAnywhere)
  const zone = zoneNamed(zones, past.zone.name)
  return { sets: setsOf(zones, zone), serial: serialOf(zones, zone) }
}

/** Advances the serial in the kept file, where the delivered one or a server has it already, and delivers what there is then. Returns that. */
async function delivered(
  job: Job,
  delivery: ByFile,
  files: readonly DeliveredFile[],
  there: number | undefined,
): Promise<DeliveredFile[]> {
  const { stored } = job
  const serial = await nextSerial(job, there)
  const octets = serial === undefined ? undefined : await renumbered(job, serial)
  const put = files.map((each, i) => (octets && i === files.length - 1 ? { ...each, octets } : each))
  // Noted before: files that a call which is cut short leaves there are ours.
  const notes = baseNotes(job, { files: stored?.files, sentFiles: sumsOf(delivery.folder, put) })
  const base = stored?.base ?? baseOf(job, { sets: new Map() }) ?? { sets: new Map() }
  await writeBase(job.past.folder, baseRef(job), base, notes, { command: callText(), now: today() })
  await deliver(delivery.folder, put)
  return put
}

interface Others {
  path: string
  why: string
  set?: Pick<Refusal, 'owner' | 'type' | 'expected' | 'now'>
}

const othersFix = ({ past }: Job, path: string): string =>
  `Take over what is right (bramblefront diff ${bare(past.zone.name)} --with ${shownPath(path)}), or replace the file with --overwrite`

/** What somebody else put or changed in the folder: undefined where nothing is; the first record set, where it is one. */
function othersIn(job: Job, files: readonly DeliveredFile[], present: Sets): Others | undefined {
  const { past, delivery, options, stored } = job
  const own = files.at(-1)!
  const ours = (path: string): (string | undefined)[] => {
    const name = relative((delivery as ByFile).folder, path)
    return [stored?.files?.[name], stored?.sentFiles?.[name]]
  }
  const odd = files.find((each) => {
    const there = presentAt(each.path)
    return there && !sameOctets(there, each.octets) && !ours(each.path).includes(sumOf(there))
  })
  if (!odd) return undefined
  const path = odd.path
  if (odd !== own && !ours(path).some((sum) => sum !== undefined))
    return { path, why: `${shownPath(path)} exists already, and this delivery did not put it there` }
  const base = baseOf(job, { sets: present })
  const changed = `${shownPath(path)} was changed by somebody else`
  if (base) {
    const [first] = differences(base.sets, present)
    if (first)
      return {
        path,
        why: changed,
        set: { owner: first.owner, type: first.type, expected: first.before, now: first.after },
      }
    return stored?.files ? { path, why: changed } : undefined
  }
  // A first delivery removes nothing that was never known here.
  const [extra] = differences(present, setsOf(past.zones, past.zone)).filter(({ after }) => after === undefined)
  if (!extra || options.removeExtra) return undefined
  return {
    path,
    why: `${shownPath(path)} holds record sets that were never known here (--remove-extra removes them)`,
    set: { owner: extra.owner, type: extra.type, now: extra.before },
  }
}

/** Why a zone that is not known whole is not delivered as one. */
function incompleteText({ past }: Job, { changes }: Outcome): string {
  const lost = changes.filter(({ after }) => !after).map(({ owner }) => bare(owner))
  const known = lost.length > 0 ? ` (${[...new Set(lost)].slice(0, 5).join(', ')} among them)` : ''
  return `${bare(past.zone.name)} is marked as incomplete (complete: false in bramblefront.yaml): a server that loads the delivered file would lose every name that is not in it${known}. Bring in what is missing, then take out “complete: false”; --force delivers it all the same`
}

/** The serial that is later than what is there and what the servers have; undefined where the file’s own is. */
async function nextSerial({ past, source, options }: Job, there: number | undefined): Promise<number | undefined> {
  const { zones, zone } = past
  const kept = serialOf(zones, zone)
  if (kept === undefined) return undefined
  const finder = new ServerFinder(zones, source.workspace!.servers, [])
  const { servers } = await finder.serversOf(zone)
  const limitMs = Math.min(limitOf(options), 2000)
  const answers = await Promise.all(servers.map((server) => soaAt(server, zone.name, limitMs)))
  const theirs = answers.flatMap((set) => (set ? [soa(set.data[0]!).serial] : []))
  const others = [...theirs, ...(there === undefined ? [] : [there])].filter((each) => !serialAfter(kept, each))
  if (others.length === 0) return undefined
  const latest = others.reduce((last, each) => (serialAfter(each, last) ? each : last))
  return advanceSerial(latest, today())
}

/** Gives the kept file another serial, which is a change like any other. */
async function renumbered({ past, options }: Job, serial: number): Promise<Uint8Array> {
  const { file, folder, digest } = past
  const zones = loadZones([file], options.includeAnywhere)
  const edited = editKept(zones, zoneNamed(zones, past.zone.name), [], { serial })
  if ('refused' in edited) throw new Trouble(`${file.file}: ${edited.refused}`)
  const { zone, view } = file
  const files = [{ file: file.file, before: file.octets, octets: edited.octets }]
  const entry: ChangeEntry = {
    what: 'change',
    ...(view === undefined ? {} : { view }),
    file: relative(folder, resolve(file.file)),
    serial: edited.serial ?? null,
    sets: [],
    findings: { added: [], gone: [] },
    was: digest,
    digest,
  }
  const whole = inOnePiece(past.zones, past.zone)
  const writes = { zones: [{ zone, view, files, entry, whole }], beside: [], command: callText(), now: today() }
  await commit({ root: folder, backups: folder, logged: true }, writes, async () => {
    throw new Trouble(`${file.file} was changed in the meantime; nothing was delivered: call again`)
  })
  return edited.octets
}

/** Trouble where two zones of a delivery would take each other’s place in its folder. */
export function mustNotCollide(
  delivery: ByFile,
  files: readonly { zone: string; file: string; view?: string }[],
): void {
  const places = new Map<string, (typeof files)[number]>()
  for (const each of files) {
    const name = basename(each.file)
    const other = places.get(name)
    if (other && resolve(other.file) !== resolve(each.file))
      throw new Trouble(
        `${other.file} (${bare(foldName(other.zone))}) and ${each.file} (${bare(foldName(each.zone))}) would both be ${name} in the folder of the delivery ${delivery.label}: nothing was delivered. Rename one of them, or give each a delivery with a folder of its own`,
      )
    places.set(name, each)
  }
}
