/** What a call publishes: which zones, of which view, by which deliveries. */
import type { Zone } from '../../../core/model/zones.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { NONE } from '../../../core/names/tree.ts'
import { TYPE } from '../../../core/records/types.ts'
import { RecordView } from '../../../core/view/record-set.ts'
import { Asker } from '../../../net/ask.ts'
import { ServerFinder } from '../../../net/authorities.ts'
import { systemVantages } from '../../../net/system.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { deliveriesFor } from '../../../workspace/deliveries.ts'
import { statedZone } from '../../../workspace/files.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import type { Workspace, ZoneFile } from '../../../workspace/workspace.ts'
import { CLOCK } from '../../clock.ts'
import type { Chosen } from '../source.ts'
import { limitOf } from '../whom.ts'
import type { PublishOptions } from './job.ts'

export const formText = (zones: readonly string[]): string =>
  `kept at a web form (sheet: in bramblefront.yaml): bramblefront sheet ${zones.length === 1 ? zones[0] : 'ZONE'} --changes`

/** Zones of one view, each with the deliveries that it goes by. */
export interface Group {
  view?: string
  /** By the file of the zone. */
  zones: Map<string, Delivery[] | undefined>
}

export interface Work {
  groups: Group[]
  /** Zones that are typed into forms. */
  atForms: string[]
}

/** What is published by which delivery: a delivery for a view takes the files of that view. Trouble where that cannot be. */
export function workOf(stated: string | undefined, workspace: Workspace, options: PublishOptions): Work {
  const { deliveries } = workspace
  const labels = deliveries.map(({ label }) => label)
  if (options.to !== undefined && !labels.includes(options.to))
    throw new Trouble(
      labels.length === 0
        ? `--to ${options.to}: bramblefront.yaml has no deliveries`
        : `--to ${options.to}: no such delivery; ${nearest(options.to, labels, 'deliveries')}`,
    )
  const files = filesFor(stated, workspace, options)
  const atForms = files.filter(({ sheet }) => sheet !== undefined).map(({ zone }) => bare(foldName(zone)))
  if (stated !== undefined && atForms.length > 0) throw new Trouble(`${atForms[0]} is ${formText(atForms)}`)
  const groups = new Map<string | undefined, Group>()
  const catalogs = new Set(deliveries.map(({ catalog }) => catalog))
  for (const file of files) {
    // Catalogs come last, by themselves.
    if (file.sheet !== undefined || (stated === undefined && catalogs.has(foldName(file.zone)))) continue
    const found = deliveriesOf(file, deliveries, stated, options)
    if (found.length === 0 && stated === undefined) continue
    const group = groups.get(file.view) ?? { view: file.view, zones: new Map() }
    groups.set(file.view, group)
    group.zones.set(file.file, found.length > 0 ? found : undefined)
  }
  if (groups.size === 0 && atForms.length === 0)
    throw new Trouble(
      'no zone of the workspace has a delivery; add one to bramblefront.yaml: deliveries: [{label: LABEL, zones: ["*"], by: file, folder: FOLDER}]',
    )
  return { groups: [...groups.values()], atForms }
}

/** The files of the zones that are meant: of the view that is stated, else of all. */
function filesFor(stated: string | undefined, { files }: Workspace, { view }: PublishOptions): ZoneFile[] {
  const ofView = view === undefined ? files : files.filter((file) => file.view === undefined || file.view === view)
  if (view !== undefined && !files.some((file) => file.view === view))
    throw new Trouble(`--view ${view}: no zone in bramblefront.yaml has this view`)
  if (stated === undefined) return ofView
  const name = foldName(statedZone(stated))
  const found = ofView.filter(({ zone }) => foldName(zone) === name)
  if (found.length > 0) return found
  const zones = [...new Set(files.map(({ zone }) => bare(foldName(zone))))]
  const around = zones.filter((zone) => name.endsWith(`.${zone}.`)).sort((a, b) => b.length - a.length)[0]
  if (around !== undefined)
    throw new Trouble(`${bare(name)} is not a zone: bramblefront publish ${around} --only ${bare(name)}`)
  throw new Trouble(`${bare(name)} is not one of your zones; ${nearest(bare(name), zones, 'your zones')}`)
}

function deliveriesOf(
  file: ZoneFile,
  all: readonly Delivery[],
  stated: string | undefined,
  { to }: PublishOptions,
): Delivery[] {
  const matching = deliveriesFor({ name: file.zone, view: file.view }, all, to)
  if (matching.length === 0 && to !== undefined && stated !== undefined)
    throw new Trouble(`the delivery ${to} is not for ${bare(file.zone)}: see its zones: in bramblefront.yaml`)
  // Those that name its view go before those that name none.
  const named = file.view === undefined ? [] : matching.filter(({ view }) => view === file.view)
  const found = named.length > 0 ? named : matching
  const updates = found.filter(({ by }) => by === 'update')
  if (updates.length > 1)
    throw new Trouble(
      `several deliveries update ${bare(file.zone)} (${updates.map(({ label }) => label).join(', ')}): choose one with --to`,
    )
  return found
}

/** Two zones of a folder must not take each other’s place. */
export async function mustFit({ zones }: Group, { files, deliveries }: Workspace): Promise<void> {
  const used = new Set([...zones.values()].flatMap((each) => each ?? []))
  for (const delivery of used) {
    if (delivery.by !== 'file') continue
    const { mustNotCollide } = await import('./by-file.ts')
    const all = files.filter(
      ({ zone, view, sheet }) =>
        sheet === undefined && deliveriesFor({ name: zone, view }, deliveries, delivery.label).length > 0,
    )
    mustNotCollide(delivery, all)
  }
}

/** The server that the SOA record names (RFC 2136 §4.3). */
export async function primaryOf({ zones, workspace }: Chosen, zone: Zone, options: PublishOptions): Promise<Delivery> {
  if (zone.view !== undefined || zone.audience === 'private')
    throw new Trouble(
      `${bare(zone.name)}${zone.view === undefined ? ' is private' : ` is the view “${zone.view}”`}, and no delivery of bramblefront.yaml is for it: add one with ${zone.view === undefined ? '“audience: private”' : `“view: ${zone.view}”`}`,
    )
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
