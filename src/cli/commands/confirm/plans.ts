import { randomBytes } from 'node:crypto'
import { zoneDigest } from '../../../core/change/digest.ts'
import type { Memory } from '../../../core/confirm/memory.ts'
import type { Vantage } from '../../../core/confirm/observation.ts'
import type { Party } from '../../../core/confirm/plan.ts'
import { questionsFor } from '../../../core/confirm/questions.ts'
import { unreadIn } from '../../../core/confirm/unread.ts'
import type { ServerEntry } from '../../../core/confirm/vantage.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { type Authorities, ServerFinder } from '../../../net/authorities.ts'
import { deliveriesFor } from '../../../workspace/deliveries.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { now } from '../../clock.ts'
import type { Confirmed, ZonePlan } from '../../output/confirmation/confirmed.ts'
import { statesBefore } from '../before.ts'
import type { Chosen, SourceOptions } from '../source.ts'
import { whomToAsk } from '../whom.ts'
import type { Askers } from './askers.ts'

export interface ConfirmOptions extends SourceOptions {
  at?: string[]
  timeout: string
  rate?: string
  samples?: string
  onlyAuthoritative?: boolean
  early?: boolean
  watch?: boolean
  deadline?: string
  all?: boolean
  json?: boolean
}

/** Sorts out what is asked of whom, zone by zone. */
export async function plan(
  what: string | undefined,
  options: ConfirmOptions,
  source: Chosen,
  memory: Memory,
  askers: Askers,
  confirmed: Confirmed,
): Promise<void> {
  const { zones, chosen, workspace, name } = source
  const whom =
    options.onlyAuthoritative && !options.at
      ? { ...whomToAsk(undefined, workspace), authoritative: true }
      : whomToAsk(options.at, workspace)
  const stated = whom.vantages.map((each) => askers.of(each))
  const finder = new ServerFinder(zones, workspace?.servers ?? [], stated)
  const unread = unreadIn(zones)
  for (const zone of chosen) {
    const found = whom.authoritative ? await finder.serversOf(zone) : { servers: [], parents: [], unfound: [] }
    for (const each of [...found.servers, ...found.parents]) askers.of(each)
    const parties: Party[] = [
      ...serverParties(found),
      ...whom.vantages.map(
        ({ label }): Party => ({ label, ...(label.startsWith('system ') ? { role: 'resolver' } : {}) }),
      ),
    ]
    // Of several zones, one without anybody to ask keeps none of the others from being confirmed.
    if (parties.length === 0 && chosen.length === 1)
      throw new Trouble(
        `nobody to ask about ${bare(zone.name)}: its file has no NS records, and no resolver is configured on this machine. Name one with --at ADDRESS[:PORT], or under vantages: in bramblefront.yaml`,
        3,
      )
    const fresh = `bramblefront-${randomBytes(6).toString('hex')}`
    const { states: earlier, more } = statesBefore(what, options, source, zone)
    const digest = workspace && zoneDigest(zones, zone)
    const since = digest === undefined ? undefined : memory.knownSince(zone.name, digest)
    const around = { follows: workspace?.around.follows, fronts: workspace?.around.fronts, earlier }
    const { questions, left } = questionsFor(zones, zone, fresh, around)
    const inName = (each: { owner: string }): boolean => name === undefined || foldName(each.owner) === name
    const planned: ZonePlan = {
      zones,
      zone,
      questions: questions.filter(inName),
      left: left.filter(inName),
      earlier,
      // Of copies that were not looked at, the oldest one that was tells until when.
      knownSince: since === undefined ? undefined : Math.max(since, more ? (earlier.at(-1)?.until ?? now()) : since),
      whole: whom.authoritative || (await isAllOf(zones, zone, workspace?.servers ?? [], whom.vantages)),
      parties,
      parents: found.parents.map(({ label }) => ({ label })),
      memory,
      fresh,
      samples: confirmed.samples,
      early: options.early === true,
      onlyAuthoritative: options.onlyAuthoritative,
      unfound: found.unfound,
      unread: unread.get(zone) ?? [],
      hosted: zone.hosted,
      delivered: workspace !== undefined && deliveriesFor(zone, workspace.deliveries).length > 0,
      digest,
    }
    // Nobody named a server of the zone: whether there is one among those who were named, asking shows.
    planned.reserve = async () => {
      const all = await finder.serversOf(zone)
      for (const each of [...all.servers, ...all.parents]) askers.of(each)
      planned.whole = true
      planned.parents = all.parents.map(({ label }) => ({ label }))
      planned.unfound = all.unfound
      return serverParties(all)
    }
    confirmed.plans.push(planned)
  }
  if (name !== undefined && confirmed.plans.every(({ questions }) => questions.length === 0))
    throw new Trouble(`${name} has no record sets of its own`)
}

/** The servers of a zone as parties; one without an address is one that does not answer. */
const serverParties = ({ servers, unfound }: Authorities): Party[] => [
  ...servers.map(({ label, server }) => ({ label, server, role: 'authoritative' as const })),
  ...unfound.map((server) => ({ label: bare(server), server, role: 'authoritative' as const })),
]

/** Whether those who are named one by one are all servers of the zone, by the addresses that your zones and bramblefront.yaml have for them. */
async function isAllOf(
  zones: Zones,
  zone: Zone,
  table: readonly ServerEntry[],
  vantages: readonly Vantage[],
): Promise<boolean> {
  const { servers, unfound } = await new ServerFinder(zones, table, []).serversOf(zone)
  return (
    servers.length > 0 &&
    unfound.length === 0 &&
    servers.every(({ address, port }) => vantages.some((each) => each.address === address && each.port === port))
  )
}
