/** A zone that is found out by asking its servers. */
import { randomBytes } from 'node:crypto'
import type { Vantage } from '../../../core/confirm/observation.ts'
import { serverPlace } from '../../../core/confirm/vantage.ts'
import { type AskServer, type Discovered, discover } from '../../../core/discover/discover.ts'
import { type Guess, statedNames, usualNames } from '../../../core/discover/usual-names.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { textOf } from '../../../core/names/octets.ts'
import { isRefused } from '../../../core/result.ts'
import { listed } from '../../../core/rules/look.ts'
import { Asker } from '../../../net/ask.ts'
import { ServerFinder } from '../../../net/authorities.ts'
import { systemVantages } from '../../../net/system.ts'
import { readFileOrTrouble, statedZone } from '../../../workspace/files.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { loadZones, type Workspace } from '../../../workspace/workspace.ts'
import { CLOCK } from '../../clock.ts'
import { progressBar } from '../../output/progress.ts'
import { limitOf, rateOf, whomToAsk } from '../whom.ts'
import type { Arrived } from './arrived.ts'
import { Made } from './made.ts'

export interface AskingOptions {
  byAsking?: boolean
  at?: string[]
  names?: string
  timeout?: string
  rate?: string
}

/** Asks for what a zone usually has, at these servers of it, or those that are found. Resolvers are asked for its servers alone: they would keep each negative answer. */
export async function byAsking(
  stated: string,
  options: AskingOptions,
  workspace: Workspace,
  known?: readonly Vantage[],
): Promise<Arrived> {
  const zone = foldName(statedZone(stated))
  const names = options.names === undefined ? [] : namesIn(options.names, zone)
  const asking = { limitMs: limitOf(options), rate: rateOf(options.rate) }
  const servers = known ?? (await serversOf(zone, options, workspace))
  const askers = servers.map((vantage) => new Asker(vantage, CLOCK, asking))
  const progress = await progressBar('asking', 50)
  let found: Discovered | undefined
  try {
    found = await discover({
      zone,
      guesses: [...names, ...usualNames(zone)],
      servers: askers.map(
        (asker): AskServer =>
          async (name, type) =>
            (await asker.ask(name, type, { recursion: false })).message,
      ),
      fresh: `bramblefront-${randomBytes(6).toString('hex')}`,
      expect: (questions) => progress?.expect(questions),
      progress: () => progress?.increment(),
    })
  } finally {
    progress?.stop()
    for (const asker of askers) asker.close()
  }
  const at = servers.map(({ label }) => label).join(', ')
  if (!found)
    throw new Trouble(`${at}: no authoritative answer for the SOA record of ${bare(zone)}; nothing was kept`, 3)
  const made = new Made(zone)
  try {
    made.take(found.records)
    const { asked, unknown } = found
    return {
      given: at,
      by: 'asking',
      ...(servers.length === 1 ? { from: serverPlace(servers[0]!) } : {}),
      ...made.whole(),
      traits: { complete: false, ...(found.signed ? { signed: 'server' } : {}) },
      complete: false,
      notes: notesOf(found),
      asked,
      unknown,
    }
  } finally {
    made.drop()
  }
}

function notesOf({ unknown, wildcards, walked }: Discovered): string[] {
  return [
    walked === 'whole'
      ? 'The zone’s NSEC records were followed from name to name to the end. At each name the usual types were asked for.'
      : 'Names that nobody asked for cannot be known: what has an unusual name is missing. To ask for more, list names in a file: --names FILE.',
    ...(wildcards.length > 0 ? [`${listed(wildcards)} answers for names that do not exist.`] : []),
    ...(unknown.length > 0 ? [`No authoritative answer for ${listed(unknown)}.`] : []),
  ]
}

function namesIn(file: string, zone: Name): Guess[] {
  const names = statedNames(textOf(readFileOrTrouble(file)), zone)
  if (isRefused(names)) throw new Trouble(`${file}, ${names.refused}`)
  return names
}

/** Those that `--at` names; else those that resolvers say, at the addresses that bramblefront.yaml has for them. */
export async function serversOf(zone: Name, { at, timeout }: AskingOptions, workspace: Workspace): Promise<Vantage[]> {
  if (at) {
    const { vantages } = whomToAsk(at, workspace)
    if (vantages.length === 0) throw new Trouble('--at must name servers of the zone: ADDRESS or ADDRESS:PORT')
    return vantages
  }
  const resolvers = systemVantages().map((each) => new Asker(each, CLOCK, { limitMs: limitOf({ timeout }) }))
  try {
    const found = await new ServerFinder(loadZones([]), workspace.servers, resolvers).serversNamed(zone)
    if (found.length > 0) return found
  } finally {
    for (const each of resolvers) each.close()
  }
  throw new Trouble(
    `the name servers of ${bare(zone)} could not be found by this machine’s resolvers: name one with --at ADDRESS[:PORT], or give a zone file`,
    3,
  )
}
