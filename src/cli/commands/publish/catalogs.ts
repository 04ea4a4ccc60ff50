/** Catalog zones of deliveries: brought in step with what is delivered, as a change like any other, and then delivered themselves. */
import { join } from 'node:path'
import type { Command } from 'commander'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { octetsOf } from '../../../core/names/octets.ts'
import { printable } from '../../../core/printable.ts'
import { catalogChange, emptyCatalog } from '../../../core/publish/catalog.ts'
import { readBase } from '../../../workspace/bases.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { deliveriesFor, withheld } from '../../../workspace/deliveries.ts'
import { notices } from '../../../workspace/trouble.ts'
import { loadZones, type Workspace, zoneNamed } from '../../../workspace/workspace.ts'
import { today } from '../../clock.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import { counted, Page } from '../../output/page.ts'
import { bringIn, placed } from '../adopt/bring-in.ts'
import { change } from '../change/apply.ts'
import { targetNamed } from '../change/target.ts'
import { needWorkspace } from '../source.ts'
import type { Job, Outcome, PublishOptions } from './job.ts'
import { statusOf } from './job.ts'

/** The zones that a delivery has: those of this call that went well, and those that it had before. */
function deliveredZones(
  delivery: Delivery,
  workspace: Workspace,
  done: readonly { job: Job; outcome: Outcome }[],
): Name[] {
  const isDone = new Set(
    done
      .filter(
        ({ job, outcome }) => job.delivery.label === delivery.label && statusOf(outcome, job.options.dryRun) === 0,
      )
      .map(({ job }) => job.past.file.file),
  )
  return workspace.files
    .filter(({ zone, view, audience, sheet, file }) => {
      const about = { name: zone, view, audience }
      const isIts = deliveriesFor(about, [delivery]).length > 0 && withheld(about, delivery) === undefined
      if (!isIts || sheet !== undefined || foldName(zone) === delivery.catalog) return false
      return isDone.has(file) || readBase(workspace.folder, { zone, view, delivery: delivery.label }) !== undefined
    })
    .map(({ zone }) => foldName(zone))
}

/** Brings the catalog zone of a delivery in step. False where that was not agreed to; then nothing of it is delivered. */
export async function bringInStep(
  delivery: Delivery,
  done: readonly { job: Job; outcome: Outcome }[],
  options: PublishOptions,
  command: Command,
): Promise<boolean> {
  const name = delivery.catalog!
  let workspace = await needWorkspace(options, { allViews: true })
  const isKept = workspace.files.some(({ zone }) => foldName(zone) === name)
  if (!isKept) {
    if (options.dryRun) return false
    if (!(await mayChange(`Make the catalog zone ${bare(name)} of the delivery ${delivery.label}?`, options)))
      return false
    await make(name, workspace, delivery)
    workspace = await needWorkspace(options, { allViews: true })
  }
  const within = { ...options, view: delivery.view, zone: undefined }
  const target = await targetNamed(within)
  const loaded = loadZones(target.files, options.includeAnywhere)
  const wanted = deliveredZones(delivery, workspace, done)
  // Servers drop what is listed no longer: that is asked for, or stated. A file of which nobody knows the zone may be one of those that are listed.
  const isAsked = options.removeExtra === true || (!options.yes && !options.json && canAsk())
  const keepsOthers = !isAsked || workspace.unnamed.length > 0
  if (keepsOthers) noticeOthers(delivery, loaded, zoneNamed(loaded, name), wanted)
  const { added, removed, sets } = catalogChange(loaded, zoneNamed(loaded, name), wanted, keepsOthers)
  if (sets.length === 0) return true
  const said = [
    ...(added.length > 0 ? [`${counted(added.length, 'zone')} added (${shortList(added)})`] : []),
    ...(removed.length > 0 ? [`${counted(removed.length, 'zone')} removed (${shortList(removed)})`] : []),
  ].join(', ')
  let isWritten = false
  await change(
    target,
    loaded,
    within,
    command,
    (zones) => {
      const zone = zoneNamed(zones, name)
      return { parts: [{ zone, sets: catalogChange(zones, zone, wanted, keepsOthers).sets }] }
    },
    {
      agree: () => mayChange(`Catalog zone ${bare(name)}: ${said}. Write it?`, options),
      tell({ committed }) {
        isWritten = committed !== undefined
        if (options.json) return
        const page = new Page(command)
        page.text(`Catalog zone ${bare(name)}: ${said}${isWritten ? '.' : '; not written.'}`)
        page.print()
      },
    },
  )
  return isWritten
}

/** Says which zones it lists that are not delivered, and stay. */
function noticeOthers(delivery: Delivery, zones: Zones, catalog: Zone, wanted: readonly Name[]): void {
  const { removed } = catalogChange(zones, catalog, wanted, false)
  if (removed.length === 0) return
  notices.add(
    `the catalog zone ${bare(catalog.name)} lists ${counted(removed.length, 'zone')} that ${removed.length === 1 ? 'is' : 'are'} not among those of the delivery ${delivery.label}: ${shortList(removed)}. They stay listed and served; --remove-extra removes them`,
  )
}

const shortList = (names: readonly Name[]): string =>
  `${names.slice(0, 3).map(bare).join(', ')}${names.length > 3 ? ', …' : ''}`

const mayChange = async (question: string, { yes, json, dryRun }: PublishOptions): Promise<boolean> =>
  yes === true || (!json && !dryRun && canAsk() && agreedTo(printable(question)))

/** A new catalog zone in the workspace. */
async function make(zone: Name, workspace: Workspace, delivery: Delivery): Promise<void> {
  const serial = Number(today().toISOString().slice(0, 10).replaceAll('-', '')) * 100 + 1
  const octets = octetsOf(emptyCatalog(zone, serial))
  const file = { zone, file: join(workspace.folder, 'zones', `${bare(zone)}.zone`), octets }
  const zones = loadZones([file])
  const arrived = {
    given: bare(zone),
    by: 'table' as const,
    file,
    zones,
    traits: {},
    complete: true,
    notes: [],
  }
  await bringIn(
    workspace.folder,
    [placed(arrived, workspace.folder, workspace, { view: delivery.view })],
    delivery.view,
  )
}
