/** Puts what is intended in place, without undoing what others did. */
import type { Command } from 'commander'
import { typedName } from '../../../core/change/typed.ts'
import type { Zone } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { NONE } from '../../../core/names/tree.ts'
import { TYPE } from '../../../core/records/types.ts'
import { check } from '../../../core/rules/engine.ts'
import { RecordView } from '../../../core/view/record-set.ts'
import { Asker } from '../../../net/ask.ts'
import { ServerFinder } from '../../../net/authorities.ts'
import { systemVantages } from '../../../net/system.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { deliveriesFor } from '../../../workspace/deliveries.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { fileOf, zoneNamed } from '../../../workspace/workspace.ts'
import { CLOCK } from '../../clock.ts'
import type { PublishSeveral } from '../../documents/publish.ts'
import { collect, includeOption, jsonOption, viewOption, workspaceOption } from '../../options.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { printable } from '../../output/printable.ts'
import { finished } from '../change/target.ts'
import { pastOf } from '../past.ts'
import { type Chosen, choose } from '../source.ts'
import { limitOf } from '../whom.ts'
import { type Job, type Outcome, outcomeOf, type PublishOptions, publishJson, statusOf } from './job.ts'
import { shown, told } from './told.ts'

export const define = (command: Command): Command =>
  command
    .argument('[zone]', 'a zone of the workspace (default: all that have a delivery)')
    .option('--to <delivery>', 'only by this delivery of bramblefront.yaml')
    .option('--only <name>', 'only the record sets of this name (repeatable)', collect)
    .option('--remove-extra', 'also remove what is there and was never known here')
    .option('--dry-run', 'show what would be sent, but send nothing')
    .option('--yes', 'send without asking')
    .option('--force', 'publish even if the intended data has errors')
    .option('--overwrite', 'replace record sets that somebody else changed, too')
    .option('--timeout <seconds>', 'how long to wait for an answer', '5')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(publish)

async function publish(stated: string | undefined, options: PublishOptions, command: Command): Promise<void> {
  const source = await choose(stated, options)
  const { workspace } = source
  if (!workspace) throw new Trouble('publish needs a workspace: nothing is remembered of a bare file')
  if (source.name !== undefined)
    throw new Trouble(
      `${bare(source.name)} is not a zone: bramblefront publish ${bare(source.chosen[0]!.name)} --only ${bare(source.name)}`,
    )
  await finished(workspace.folder, options)
  const chosen =
    stated === undefined
      ? source.chosen.filter((zone) => deliveriesFor(zone.name, workspace.deliveries, options.to).length > 0)
      : source.chosen
  const hosted = chosen.filter((zone) => zone.hosted).map(({ name }) => bare(name))
  const atForms = `kept at a web form (sheet: in bramblefront.yaml): bramblefront sheet ${hosted.length === 1 ? hosted[0] : 'ZONE'} --changes`
  if (stated !== undefined && hosted.length > 0) throw new Trouble(`${hosted[0]} is ${atForms}`)
  if (chosen.length === 0)
    throw new Trouble(
      'no zone of the workspace has a delivery; add one to bramblefront.yaml: deliveries: [{label: LABEL, zones: ["*"], by: file, folder: FOLDER}]',
    )
  const errors = options.force ? undefined : await errorsOf(source)
  const all: Done[] = []
  for (const zone of chosen) {
    if (zone.hosted) continue
    const wrong = errors?.get(foldName(zone.name))
    if (wrong !== undefined && stated !== undefined) throw new Trouble(wrong, 1)
    if (all.length > 0 && !options.json) {
      const page = new Page(command)
      page.line()
      page.print()
    }
    all.push(...(await publishZone(source, zone, wrong, options, command)))
  }
  const statuses = all.map(({ outcome }) => statusOf(outcome, options.dryRun))
  process.exitCode = statuses.includes(1) ? 1 : statuses.includes(3) ? 3 : 0
  if (options.json) {
    const parts = all.map(({ job, outcome }) => publishJson(job, outcome))
    const several: PublishSeveral = { format: 1, deliveries: parts }
    printJson(parts.length === 1 && stated !== undefined ? parts[0]! : several)
  } else if (hosted.length > 0) {
    const page = new Page(command)
    page.text(`Not published: ${hosted.join(', ')}, ${atForms}`)
    page.print()
  }
}

interface Done {
  job: Job
  outcome: Outcome
}

/** By each of its deliveries. `wrong`: why nothing of it is to be published. */
async function publishZone(
  source: Chosen,
  zone: Zone,
  wrong: string | undefined,
  options: PublishOptions,
  command: Command,
): Promise<Done[]> {
  const { folder } = source.workspace!
  const only = options.only?.map((name) => foldName(orTrouble(typedName(name, zone, [zone]))))
  const isAsking = !options.json && canAsk()
  const all: Done[] = []
  let at = source
  for (const delivery of await meant(source, zone, options)) {
    // The one before may have given the kept file another serial.
    if (all.length > 0) at = await choose(bare(zone.name), options)
    const job: Job = {
      source: at,
      past: pastOf(folder, fileOf(at.workspace!, zone.name)!, at.zones, zoneNamed(at.zones, zone.name)),
      delivery,
      options,
      isWanted: ({ owner }) => only === undefined || only.includes(foldName(owner)),
      async agree(job, outcome) {
        if (!options.json) shown(command, job, outcome)
        const question = `Publish ${counted(outcome.changes.length, 'record set')} of ${bare(zone.name)}?`
        return options.yes === true || (isAsking && agreedTo(printable(question)))
      },
    }
    const outcome =
      wrong === undefined ? await by(job) : { ...outcomeOf(delivery.label), refused: { rcode: null, why: wrong } }
    if (options.dryRun && !options.json && outcome.changes.length > 0 && outcome.conflicts.length === 0)
      shown(command, job, outcome)
    if (!options.json) told(command, job, outcome)
    all.push({ job, outcome })
  }
  return all
}

async function by(job: Job): Promise<Outcome> {
  if (job.delivery.by === 'file') return (await import('./by-file.ts')).publishByFile(job)
  return (await import('./by-update.ts')).publishByUpdate(job)
}

/** How a zone is to be delivered: as the call or bramblefront.yaml says, else by update to the server that its SOA record names. */
async function meant(source: Chosen, zone: Zone, options: PublishOptions): Promise<Delivery[]> {
  const { deliveries } = source.workspace!
  const labels = deliveries.map(({ label }) => label)
  if (options.to !== undefined && !labels.includes(options.to))
    throw new Trouble(
      labels.length === 0
        ? `--to ${options.to}: bramblefront.yaml has no deliveries`
        : `--to ${options.to}: no such delivery; ${nearest(options.to, labels, 'deliveries')}`,
    )
  const found = deliveriesFor(zone.name, deliveries, options.to)
  if (found.length === 0 && options.to !== undefined)
    throw new Trouble(`the delivery ${options.to} is not for ${bare(zone.name)}: see its zones: in bramblefront.yaml`)
  if (found.filter(({ by }) => by === 'update').length > 1)
    throw new Trouble(
      `several deliveries update ${bare(zone.name)} (${found
        .filter(({ by }) => by === 'update')
        .map(({ label }) => label)
        .join(', ')}): choose one with --to`,
    )
  return found.length > 0 ? found : [await primaryOf(source, zone, options)]
}

/** The server that the SOA record names (RFC 2136 §4.3). */
async function primaryOf({ zones, workspace }: Chosen, zone: Zone, options: PublishOptions): Promise<Delivery> {
  const name = zone.soa === NONE ? undefined : new RecordView(TYPE.SOA, zones.rdata(zone.soa)).field('MNAME')
  const askers = systemVantages().map((vantage) => new Asker(vantage, CLOCK, { limitMs: limitOf(options) }))
  try {
    const [server] = name === undefined ? [] : await new ServerFinder(zones, workspace!.servers, askers).hostNamed(name)
    if (!server)
      throw new Trouble(
        `it is not known where updates of ${bare(zone.name)} go${name === undefined ? '' : `: no address is known of ${bare(name)}, which its SOA record names`}. Add a delivery to bramblefront.yaml: deliveries: [{label: LABEL, zones: [${bare(zone.name)}], by: update, address: ADDRESS, key: FILE}]`,
      )
    return { label: 'SOA', zones: [], by: 'update', server: { ...server, transport: 'tcp' } }
  } finally {
    for (const each of askers) each.close()
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
