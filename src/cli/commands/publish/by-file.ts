/** Publishing as files in a folder that a name server reads. */
import { spawn } from 'node:child_process'
import { differences, type Sets, setsOf } from '../../../core/change/difference.ts'
import { editKept } from '../../../core/change/edit.ts'
import { advanceSerial, serialAfter, serialOf } from '../../../core/file/serial.ts'
import { bare } from '../../../core/names/name.ts'
import { sameOctets } from '../../../core/names/octets.ts'
import { TYPE } from '../../../core/records/types.ts'
import { soa } from '../../../core/records/views.ts'
import { Asker } from '../../../net/ask.ts'
import { ServerFinder } from '../../../net/authorities.ts'
import { isAgreed, rememberAgreed } from '../../../workspace/agreed.ts'
import { type DeliveredFile, deliver, deliveryFiles, isDelivered, presentAt } from '../../../workspace/deliver.ts'
import { noteDelivered } from '../../../workspace/seen.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { loadZones, shownPath, zoneNamed } from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import { CLOCK, today } from '../../clock.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import { printable } from '../../output/printable.ts'
import { stateBase, stateDelivered } from '../past.ts'
import { limitOf } from '../whom.ts'
import { type Job, type Outcome, outcomeOf, type Refusal } from './job.ts'

/** A command afterwards may take so long, in milliseconds. */
const AFTER_LIMIT = 60_000

export async function publishByFile(job: Job): Promise<Outcome> {
  const { past, delivery, options } = job
  if (delivery.by !== 'file') throw new Error('another delivery')
  if (options.only) throw new Trouble('--only is for deliveries by update: a file is delivered whole')
  const { folder, after } = delivery
  const { file, zones, zone } = past
  const files = deliveryFiles(folder, file, zones, zone)
  const own = files.at(-1)!
  const there = presentAt(own.path)
  const then = there && loadZones([{ ...file, file: own.path, octets: there }], options.includeAnywhere)
  const thenZone = then && zoneNamed(then, zone.name)
  const present: Sets = then ? setsOf(then, thenZone!) : new Map()
  const intended = setsOf(zones, zone)
  const serialThere = then && serialOf(then, thenZone!)
  const plan = { changes: differences(present, intended), foreign: [], conflicts: [] }
  const outcome = outcomeOf(`the folder ${shownPath(folder)}`, plan, serialThere)
  if (files.every(isDelivered)) {
    outcome.changes = []
    outcome.readBack = true
    if (!options.dryRun)
      await noteDelivered(past.folder, file, past.digest, { by: 'file', command: callText(), now: today() })
    return outcome
  }
  const others = there && othersIn(job, there, present)
  if (others && !options.overwrite) {
    outcome.refused = {
      rcode: null,
      why: `${shownPath(own.path)} was changed by somebody else: take over what is right (bramblefront diff ${bare(zone.name)} --with ${shownPath(own.path)}), or replace it with --overwrite`,
      ...others,
    }
    return outcome
  }
  if (options.dryRun || !(await job.agree(job, outcome))) return outcome
  if (after && !(await mayRun(job, after))) {
    outcome.refused = {
      rcode: null,
      why: `the command afterwards (${after.join(' ')}) was never agreed to on this machine, and --yes does not cover it: call this once at a terminal`,
    }
    return outcome
  }
  const serial = await nextSerial(job, serialThere)
  const whole = serial === undefined ? file.octets : renumbered(job, serial)
  const put = files.map((each): DeliveredFile => (each === own ? { ...each, octets: whole } : each))
  await noteDelivered(past.folder, file, past.digest, { by: 'file', serial, command: callText(), now: today() })
  deliver(put)
  outcome.sent = outcome.changes
  outcome.written = true
  outcome.serial.after = serial ?? serialOf(zones, zone)
  outcome.readBack = put.every(isDelivered)
  if (after) outcome.after = await ran(after, own.path, past.folder)
  return outcome
}

/** What somebody else changed in a delivered file: undefined where nothing is; the first record set, where it is one. */
function othersIn(
  { past, options }: Job,
  there: Uint8Array,
  present: Sets,
): Pick<Refusal, 'owner' | 'type' | 'expected' | 'now'> | undefined {
  const delivered = stateDelivered(past, options.includeAnywhere)
  if (delivered?.octets && sameOctets(delivered.octets, there)) return undefined
  const base = delivered ?? stateBase(past, options.includeAnywhere)
  if (base) {
    const [first] = differences(base.sets, present)
    if (first) return { owner: first.owner, type: first.type, expected: first.before, now: first.after }
    return delivered ? {} : undefined
  }
  // A first delivery removes nothing that was never known here.
  const [extra] = differences(present, setsOf(past.zones, past.zone)).filter(({ after }) => after === undefined)
  return extra && !options.removeExtra ? { owner: extra.owner, type: extra.type, now: extra.before } : undefined
}

/** The serial that is later than what is there and what the servers have; undefined where the file’s own is. */
async function nextSerial({ past, source, options }: Job, there: number | undefined): Promise<number | undefined> {
  const { zones, zone } = past
  const kept = serialOf(zones, zone)
  if (kept === undefined) return undefined
  const finder = new ServerFinder(zones, source.workspace!.servers, [])
  const { servers } = await finder.serversOf(zone)
  const limitMs = Math.min(limitOf(options), 2000)
  const askers = servers.map((server) => new Asker(server, CLOCK, { limitMs }))
  try {
    const answers = await Promise.all(askers.map((each) => each.ask(zone.name, TYPE.SOA, { recursion: false })))
    const theirs = answers.flatMap(({ message }) =>
      (message?.answers ?? []).filter(({ type }) => type === TYPE.SOA).map(({ data }) => soa(data).serial),
    )
    const others = [...theirs, ...(there === undefined ? [] : [there])].filter((each) => !serialAfter(kept, each))
    if (others.length === 0) return undefined
    const latest = others.reduce((last, each) => (serialAfter(each, last) ? each : last))
    return advanceSerial(latest, today())
  } finally {
    for (const each of askers) each.close()
  }
}

function renumbered({ past, options }: Job, serial: number): Uint8Array {
  const zones = loadZones([past.file], options.includeAnywhere)
  const edited = editKept(zones, zoneNamed(zones, past.zone.name), [], { serial })
  if ('refused' in edited) throw new Trouble(`${past.file.file}: ${edited.refused}`)
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
