/** Publishing as files in a folder that a name server reads. */
import { spawn } from 'node:child_process'
import { relative, resolve } from 'node:path'
import { differences, type Sets, setsOf } from '../../../core/change/difference.ts'
import { editKept } from '../../../core/change/edit.ts'
import { advanceSerial, serialAfter, serialOf } from '../../../core/file/serial.ts'
import { bare } from '../../../core/names/name.ts'
import { sameOctets } from '../../../core/names/octets.ts'
import { soa } from '../../../core/records/views.ts'
import { ServerFinder } from '../../../net/authorities.ts'
import { isAgreed, rememberAgreed } from '../../../workspace/agreed.ts'
import { type ChangeEntry, commit } from '../../../workspace/commit.ts'
import { type DeliveredFile, deliver, deliveryFiles, isDelivered, presentAt } from '../../../workspace/deliver.ts'
import { noteDelivered } from '../../../workspace/seen.ts'
import type { KeptState } from '../../../workspace/states.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { loadZones, shownPath, zoneNamed } from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import { today } from '../../clock.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import { printable } from '../../output/printable.ts'
import { stateBase, stateDelivered } from '../past.ts'
import { soaAt } from '../servers.ts'
import { limitOf } from '../whom.ts'
import { type Job, type Outcome, outcomeOf, type Refusal } from './job.ts'

/** A command afterwards may take so long, in milliseconds. */
const AFTER_LIMIT = 60_000

export async function publishByFile(job: Job): Promise<Outcome> {
  const { delivery, options, past } = job
  if (delivery.by !== 'file') throw new Error('another delivery')
  if (options.only) throw new Trouble('--only is for deliveries by update: a file is delivered whole')
  const { folder, after } = delivery
  const { file, zones, zone } = past
  const files = deliveryFiles(folder, file, zones, zone)
  const own = files.at(-1)!
  const there = presentAt(own.path)
  const { sets, serial } = there ? statesOf(job, own.path, there) : NOTHING
  const plan = { changes: differences(sets, setsOf(zones, zone)), foreign: [], conflicts: [] }
  const outcome = outcomeOf(`the folder ${shownPath(folder)}`, plan, serial)
  const last = stateDelivered(past, delivery.label, options.includeAnywhere)
  const isThere = files.every(isDelivered)
  // A call that was cut short has delivered it, and not said so; then the command afterwards was not run either.
  const isDone = isThere && (after === undefined || (last?.octets !== undefined && sameOctets(last.octets, own.octets)))
  const others = !isThere && there ? othersIn(job, last, there, sets) : undefined
  if (others && !options.overwrite) {
    outcome.refused = {
      rcode: null,
      why: `${shownPath(own.path)} ${others.why}. Take over what is right (bramblefront diff ${bare(zone.name)} --with ${shownPath(own.path)}), or replace the file with --overwrite`,
      ...others.set,
    }
    return outcome
  }
  if (!isDone && (options.dryRun || !(await job.agree(job, outcome)))) return outcome
  if (!isDone && after && !(await mayRun(job, after))) {
    outcome.refused = {
      rcode: null,
      why: `the command afterwards (${after.join(' ')}) was never agreed to on this machine, and --yes does not cover it: call this once at a terminal`,
    }
    return outcome
  }
  const put = isThere ? files : await delivered(job, folder, files, serial)
  const now = put.at(-1)!.octets
  outcome.readBack = put.every(isDelivered)
  outcome.written = !isThere
  outcome.sent = isThere ? [] : outcome.changes
  outcome.serial.after = statesOf(job, own.path, now).serial
  if (after && !isDone) outcome.after = await ran(after, own.path, past.folder)
  const isWell = outcome.readBack && (outcome.after === undefined || outcome.after.status === 0)
  if (isWell && !options.dryRun)
    await noteDelivered(past.folder, { ...file, octets: now }, past.digest, {
      by: 'file',
      delivery: delivery.label,
      command: callText(),
      now: today(),
    })
  return outcome
}

const NOTHING: { sets: Sets; serial?: number } = { sets: new Map() }

/** What octets say, as the zone’s own file in the folder. */
function statesOf({ past, options }: Job, path: string, octets: Uint8Array): { sets: Sets; serial?: number } {
  const zones = loadZones([{ ...past.file, file: path, octets }], options.includeAnywhere)
  const zone = zoneNamed(zones, past.zone.name)
  return { sets: setsOf(zones, zone), serial: serialOf(zones, zone) }
}

/** Advances the serial in the kept file, where the delivered one or a server has it already, and delivers what there is then. Returns that. */
async function delivered(
  job: Job,
  folder: string,
  files: readonly DeliveredFile[],
  there: number | undefined,
): Promise<DeliveredFile[]> {
  const serial = await nextSerial(job, there)
  const octets = serial === undefined ? undefined : await renumbered(job, serial)
  const put = files.map((each, i) => (octets && i === files.length - 1 ? { ...each, octets } : each))
  await deliver(folder, put)
  return put
}

/** What somebody else changed in a delivered file: undefined where nothing is; the first record set, where it is one. */
function othersIn(
  { past, delivery, options }: Job,
  last: KeptState | undefined,
  there: Uint8Array,
  present: Sets,
): { why: string; set?: Pick<Refusal, 'owner' | 'type' | 'expected' | 'now'> } | undefined {
  if (last?.octets && sameOctets(last.octets, there)) return undefined
  const base = last ?? stateBase(past, delivery.label, options.includeAnywhere)
  if (base) {
    const [first] = differences(base.sets, present)
    const why = 'was changed by somebody else'
    if (first) return { why, set: { owner: first.owner, type: first.type, expected: first.before, now: first.after } }
    return last ? { why } : undefined
  }
  // A first delivery removes nothing that was never known here.
  const [extra] = differences(present, setsOf(past.zones, past.zone)).filter(({ after }) => after === undefined)
  if (!extra || options.removeExtra) return undefined
  return {
    why: 'holds record sets that were never known here (--remove-extra removes them)',
    set: { owner: extra.owner, type: extra.type, now: extra.before },
  }
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
  const writes = { zones: [{ zone, view, files, entry }], beside: [], command: callText(), now: today() }
  await commit({ root: folder, backups: folder, logged: true }, writes, async () => {
    throw new Trouble(`${file.file} was changed in the meantime; nothing was delivered: call again`)
  })
  return edited.octets
}

/** Whether the command afterwards may be run: agreed to here before, in these very words, or now. */
async function mayRun({ past, delivery }: Job, after: readonly string[]): Promise<boolean> {
  if (isAgreed(past.folder, delivery.label, after)) return true
  if (!canAsk()) return false
  const question = `Run this after each delivery of ${delivery.label}, from now on without asking: ${after.join(' ')} PATH?`
  if (!(await agreedTo(printable(question)))) return false
  rememberAgreed(past.folder, delivery.label, after)
  return true
}

/** Runs a command with the delivered path as its last word, without a shell. */
function ran(after: readonly string[], path: string, folder: string): Promise<{ status: number | null; said: string }> {
  return new Promise((resolve) => {
    const [program, ...args] = after
    const child = spawn(program!, [...args, path], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'pipe'],
      timeout: AFTER_LIMIT,
    })
    let said = ''
    const hear = (text: string): void => void (said = (said + text).slice(-2000))
    child.stdout.setEncoding('utf8').on('data', hear)
    child.stderr.setEncoding('utf8').on('data', hear)
    child.on('error', (error) => resolve({ status: 127, said: String(error.message) }))
    child.on('close', (status) => resolve({ status, said: said.trim() }))
  })
}
