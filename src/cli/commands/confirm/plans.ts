import { randomBytes } from 'node:crypto'
import { zoneDigest } from '../../../core/change/digest.ts'
import type { Memory } from '../../../core/confirm/memory.ts'
import type { Vantage } from '../../../core/confirm/observation.ts'
import { questionsFor } from '../../../core/confirm/questions.ts'
import type { Party } from '../../../core/confirm/round.ts'
import { unreadIn } from '../../../core/confirm/unread.ts'
import type { ServerEntry } from '../../../core/confirm/vantage.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { ServerFinder } from '../../../net/authorities.ts'
import { deliveriesFor } from '../../../workspace/deliveries.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import type { Confirmed } from '../../output/confirmation/confirmed.ts'
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
      ...found.servers.map(({ label, server }) => ({ label, server, role: 'authoritative' as const })),
      ...found.unfound.map((server) => ({ label: bare(server), server, role: 'authoritative' as const })),
      ...whom.vantages.map(
        ({ label }): Party => ({ label, ...(label.startsWith('system ') ? { role: 'resolver' } : {}) }),
      ),
    ]
    if (parties.length === 0)
      throw new Trouble(
        `nobody to ask about ${zone.name}: this machine has no resolver. Name one with --at ADDRESS[:PORT], or under vantages: in bramblefront.yaml`,
        3,
      )
    const fresh = `bramblefront-${randomBytes(6).toString('hex')}`
    const { states: earlier, more } = statesBefore(what, options, source, zone)
    const digest = workspace && zoneDigest(zones, zone)
    // Edited by hand since: states in between are known only as far as they were seen.
    const byHand = digest !== undefined && memory.isEditedByHand(zone.name, digest)
    const around = { follows: workspace?.around.follows, fronts: workspace?.around.fronts, earlier }
    const { questions, left } = questionsFor(zones, zone, fresh, around)
    const inName = (each: { owner: string }): boolean => name === undefined || foldName(each.owner) === name
    confirmed.plans.push({
      zones,
      zone,
      questions: questions.filter(inName),
      left: left.filter(inName),
      earlier,
      moreEarlier: more || byHand,
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
    })
  }
  if (name !== undefined && confirmed.plans.every(({ questions }) => questions.length === 0))
    throw new Trouble(`${name} has no record sets of its own`)
}

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
