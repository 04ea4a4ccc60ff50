/** Puts what is intended in place, without undoing what others did. */
import type { Command } from 'commander'
import { typedName } from '../../../core/change/typed.ts'
import type { Zone } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { check } from '../../../core/rules/engine.ts'
import { readBase } from '../../../workspace/bases.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { withheld } from '../../../workspace/deliveries.ts'
import { readLog } from '../../../workspace/log.ts'
import { notices, orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { fileOf, findWorkspace, type Workspace, type ZoneFile, zoneNamed } from '../../../workspace/workspace.ts'
import type { PublishSeveral } from '../../documents/publish.ts'
import { collect, includeOption, jsonOption, viewOption, workspaceOption } from '../../options.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { finished } from '../change/target.ts'
import { pastOf } from '../past.ts'
import { type Chosen, choose, needWorkspace } from '../source.ts'
import { limitOf } from '../whom.ts'
import { Servers } from './at-servers.ts'
import { type Job, type Outcome, outcomeOf, type PublishOptions, publishJson, statusOf } from './job.ts'
import { printOutcome, printPlan, printSummary } from './told.ts'
import { formText, type Group, mustFit, primaryOf, workOf } from './work.ts'

export const define = (command: Command): Command =>
  command
    .argument('[zone]', 'a zone of the workspace (default: all that have a delivery)')
    .option('--to <delivery>', 'only by this delivery of bramblefront.yaml')
    .option('--only <name>', 'only the record sets of this name (repeatable)', collect)
    .option('--remove-extra', 'also remove what is there and was never known here')
    .option('--dry-run', 'show what would be sent, but send nothing')
    .option('--yes', 'send without asking')
    .option('--force', 'publish even if the intended data has errors, or is not known whole')
    .option('--overwrite', 'replace record sets that somebody else changed, too')
    .option('--timeout <seconds>', 'seconds to wait for each server', '5')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(publish)

async function publish(stated: string | undefined, options: PublishOptions, command: Command): Promise<void> {
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (folder !== undefined) await finished(folder, options)
  const whole = await needWorkspace(options, { allViews: true })
  const work = workOf(stated, whole, options)
  const servers = new Servers(limitOf(options))
  const all: Done[] = []
  let isOpen = false
  try {
    for (const group of work.groups) all.push(...(await publishGroup(group, whole, stated, servers, options, command)))
    await runAfterwards(all, options, command)
    const catalogs = await publishCatalogs(all, servers, options, command)
    await runAfterwards(catalogs.done, options, command)
    all.push(...catalogs.done)
    isOpen = catalogs.isOpen
  } finally {
    servers.close()
  }
  if (!options.json) for (const { job, outcome, isAwaited } of all) if (isAwaited) printOutcome(command, job, outcome)
  const statuses = all.map(({ outcome }) => statusOf(outcome, options.dryRun))
  process.exitCode = isOpen || statuses.includes(1) ? 1 : statuses.includes(3) ? 3 : 0
  if (options.json) {
    const parts = all.map(({ job, outcome }) => publishJson(job, outcome))
    const several: PublishSeveral = { format: 1, deliveries: parts }
    return printJson(parts.length === 1 && stated !== undefined ? parts[0]! : several)
  }
  if (stated === undefined && all.length > 1) printSummary(command, all, options.dryRun)
  if (work.atForms.length > 0) {
    const page = new Page(command)
    page.text(`Not published: ${work.atForms.join(', ')}, ${formText(work.atForms)}`)
    page.print()
  }
}

interface Done {
  job: Job
  outcome: Outcome
  /** It is told of once the command afterwards has been run. */
  isAwaited?: boolean
}

async function publishGroup(
  group: Group,
  workspace: Workspace,
  stated: string | undefined,
  servers: Servers,
  options: PublishOptions,
  command: Command,
): Promise<Done[]> {
  const within: PublishOptions = { ...options, view: group.view ?? options.view }
  const isShared = group.view === undefined && options.view === undefined
  const source = await choose(stated, within, {
    unviewed: isShared && workspace.files.some(({ view }) => view !== undefined),
  })
  const errors = options.force ? undefined : await errorsOf(source)
  await mustFit(group, workspace)
  const lines = stated === undefined ? readLog(workspace.folder) : undefined
  const jobs: { zone: Zone; deliveries: Delivery[] }[] = []
  for (const zone of source.chosen) {
    if (!group.zones.has(zone.file)) continue
    const wrong = errors?.get(foldName(zone.name))
    if (wrong !== undefined && stated !== undefined) throw new Trouble(wrong, 1)
    jobs.push({ zone, deliveries: group.zones.get(zone.file) ?? [await primaryOf(source, zone, options)] })
  }
  const entries = lines && byZone(lines)
  const all: Done[] = []
  const make = (zone: Zone, delivery: Delivery, at: Chosen): Job => {
    const file = fileOf(at.workspace!, zone.name)!
    const own = entries && at === source ? (entries.get(foldName(zone.name)) ?? []) : undefined
    const past = pastOf(workspace.folder, file, at.zones, at === source ? zone : zoneNamed(at.zones, zone.name), own)
    const only = options.only?.map((name) => foldName(orTrouble(typedName(name, zone, [zone]))))
    return {
      source: at,
      past,
      delivery,
      options: within,
      ...baseIn(workspace.folder, file, delivery, stated !== undefined),
      servers,
      only,
      isWanted: ({ owner }) => only === undefined || only.includes(foldName(owner)),
      agree: async (job, outcome) => agree(job, outcome, command),
    }
  }
  const first = jobs.map(({ zone, deliveries }) => deliveries.map((delivery) => make(zone, delivery, source)))
  // All serials are asked for side by side.
  for (const job of first.flat())
    if (job.stored?.settled && job.delivery.by === 'update')
      void servers.serialOf(job.delivery.server, job.past.zone.name)
  for (const [i, ofZone] of first.entries()) {
    let isChanged = false
    for (const made of ofZone) {
      // The one before may have given the kept file another serial.
      const { zone } = jobs[i]!
      const job = isChanged ? make(zone, made.delivery, await choose(bare(zone.name), within)) : made
      const done = await publishOne(job, errors?.get(foldName(zone.name)), stated === undefined, command)
      isChanged ||= done.outcome.serial.after !== done.outcome.serial.before || done.outcome.written
      all.push(done)
    }
  }
  return all
}

/** The base of a delivery. One that is damaged keeps this zone from being published, and not the others. */
function baseIn(
  folder: string,
  file: ZoneFile,
  { label }: Delivery,
  isStated: boolean,
): Pick<Job, 'stored' | 'damaged'> {
  try {
    return { stored: readBase(folder, { zone: file.zone, view: file.view, delivery: label }, file.at) }
  } catch (error) {
    if (isStated || !(error instanceof Trouble)) throw error
    return { damaged: error.message }
  }
}

/** Lines of the log by their zones. */
function byZone(lines: readonly unknown[]): Map<Name, unknown[]> {
  const found = new Map<Name, unknown[]>()
  for (const line of lines) {
    const zone = (line as { zone?: unknown } | null)?.zone
    if (typeof zone !== 'string') continue
    const own = found.get(zone)
    if (own) own.push(line)
    else found.set(zone, [line])
  }
  return found
}

async function agree(job: Job, outcome: Outcome, command: Command): Promise<boolean> {
  const { options, past } = job
  if (!options.json) printPlan(command, job, outcome)
  if (options.yes === true) return true
  if (options.json || !canAsk()) return false
  const zone = bare(past.zone.name)
  const question =
    outcome.changes.length > 0
      ? `Publish ${counted(outcome.changes.length, 'record set')} of ${zone}?`
      : outcome.isTextOnly
        ? `Deliver the files of ${zone}?`
        : `${zone} is in place already. Run the command afterwards?`
  return agreedTo(printable(question))
}

/** The catalog zones of the deliveries, brought in step with what was delivered: last, so that no server looks for a zone that is not there yet. */
async function publishCatalogs(
  done: readonly Done[],
  servers: Servers,
  options: PublishOptions,
  command: Command,
): Promise<{ done: Done[]; isOpen: boolean }> {
  const deliveries = [...new Set(done.map(({ job }) => job.delivery))].filter(({ catalog }) => catalog !== undefined)
  let isOpen = false
  if (deliveries.length === 0 || options.only) return { done: [], isOpen }
  const { bringInStep } = await import('./catalogs.ts')
  const all: Done[] = []
  for (const delivery of deliveries) {
    const isInStep = await bringInStep(delivery, done, options, command)
    if (!isInStep && !options.dryRun) {
      notices.add(
        `the catalog zone ${bare(delivery.catalog!)} of the delivery ${delivery.label} was not brought in step, and not delivered; --yes does it without asking`,
      )
      isOpen = true
      continue
    }
    const workspace = await needWorkspace(options, { allViews: true })
    const file = workspace.files.find(({ zone }) => foldName(zone) === delivery.catalog)
    if (!file) continue
    const group: Group = { view: file.view, zones: new Map([[file.file, [delivery]]]) }
    all.push(...(await publishGroup(group, workspace, bare(foldName(file.zone)), servers, options, command)))
  }
  return { done: all, isOpen }
}

/** By one delivery. `wrong`: why nothing of the zone is to be published. */
async function publishOne(job: Job, wrong: string | undefined, isOneOfMany: boolean, command: Command): Promise<Done> {
  const { options, past, delivery } = job
  const why =
    wrong ??
    job.damaged ??
    withheld({ name: past.zone.name, view: past.file.view, audience: past.file.audience }, delivery)
  let outcome = why === undefined ? await by(job) : { ...outcomeOf(delivery.label), refused: { rcode: null, why } }
  const mayAsk = !options.json && !options.dryRun && !options.yes
  if (outcome.conflicts.length > 0 && mayAsk && canAsk()) {
    const { decided } = await import('./conflicts.ts')
    const again = await decided(job, outcome, command)
    if (again) outcome = await by(again)
  }
  if (options.json) return { job, outcome }
  const isToBeSent = outcome.changes.length > 0 || outcome.isTextOnly === true
  if (options.dryRun && isToBeSent && outcome.conflicts.length === 0) printPlan(command, job, outcome)
  if (outcome.afterwards) return { job, outcome, isAwaited: true }
  const isQuiet = isOneOfMany && !isToBeSent && statusOf(outcome) === 0
  if (isQuiet) return { job, outcome }
  printOutcome(command, job, outcome)
  if (isOneOfMany) {
    const page = new Page(command)
    page.line()
    page.print()
  }
  return { job, outcome }
}

async function by(job: Job): Promise<Outcome> {
  if (job.delivery.by === 'file') return (await import('./by-file.ts')).publishByFile(job)
  return (await import('./by-update.ts')).publishByUpdate(job)
}

/** The command afterwards of each delivery, once for all zones that it delivered. */
async function runAfterwards(all: readonly Done[], options: PublishOptions, command: Command): Promise<void> {
  const waiting = all.filter(({ outcome }) => outcome.afterwards !== undefined)
  if (waiting.length === 0) return
  const { runAfter } = await import('./after.ts')
  const { whileInterruptible } = await import('./interruption.ts')
  for (const label of new Set(waiting.map(({ job }) => job.delivery.label))) {
    const own = waiting.filter(({ job }) => job.delivery.label === label)
    const { delivery, past } = own[0]!.job
    const after = (delivery as Extract<Delivery, { by: 'file' }>).after!
    if (!options.json) {
      const page = new Page(command)
      page.text(
        `Running: ${after.join(' ')} ${own.length === 1 ? own[0]!.outcome.afterwards!.path : `and ${own.length} paths`}`,
      )
      page.print()
    }
    const says = `${counted(own.length, 'zone')} of the delivery ${label} are in place; the command afterwards did not end, so the next call runs it again.`
    const ran = await whileInterruptible(
      () => says,
      () =>
        runAfter(
          after,
          own.map(({ outcome }) => outcome.afterwards!.path),
          past.folder,
        ),
    )
    for (const { outcome } of own) await outcome.afterwards!.finish(ran)
  }
}

/** Why zones are not published: nothing is that has an error, unless that is wanted. By their names. */
async function errorsOf({ zones, workspace }: Chosen): Promise<Map<Name, string>> {
  const { findings } = await check(zones, workspace!.around)
  const byZone = new Map<Name, string[]>()
  for (const { severity, zone, rule } of findings) {
    if (severity !== 'error') continue
    const rules = byZone.get(foldName(zone))
    if (rules) rules.push(rule)
    else byZone.set(foldName(zone), [rule])
  }
  const says = (zone: Name, rules: readonly string[]): string => {
    const codes = [...new Set(rules)].slice(0, 5).join(', ')
    return `${bare(zone)} has ${counted(rules.length, 'error')} (${codes}): nothing was published. See bramblefront check ${bare(zone)}; --force publishes it all the same`
  }
  return new Map([...byZone].map(([zone, rules]) => [zone, says(zone, rules)]))
}
