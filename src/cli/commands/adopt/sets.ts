/** Single record sets of a server, taken into a zone of the workspace: what somebody else did there becomes what is intended. */
import { randomBytes } from 'node:crypto'
import type { Command } from 'commander'
import type { ZonePart } from '../../../core/change/change-set.ts'
import { differences, type Sets, setKey, setsOf } from '../../../core/change/difference.ts'
import { typedName } from '../../../core/change/typed.ts'
import type { Vantage } from '../../../core/confirm/observation.ts'
import type { SetChange } from '../../../core/file/edit/changes.ts'
import type { Key } from '../../../core/message/key.ts'
import type { RecordSet, Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { notAType } from '../../../core/records/host-types.ts'
import { parseType, TYPE, TYPES_OF_SIGNING, typeText } from '../../../core/records/types.ts'
import { Asker } from '../../../net/ask.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones, zoneNamed } from '../../../workspace/workspace.ts'
import { CLOCK } from '../../clock.ts'
import { canAsk } from '../../output/ask.ts'
import { change } from '../change/apply.ts'
import { agreedAfterShowing, reportOpen } from '../change/report.ts'
import { type ChangeOptions, targetNamed } from '../change/target.ts'
import { transferOf } from '../servers.ts'
import { limitOf } from '../whom.ts'
import { type FromOptions, sourceOf } from './from-server.ts'

export interface SetsOptions extends ChangeOptions, FromOptions {
  yes?: boolean
}

/** A name, or a set of it. */
export interface Meant {
  owner: Name
  type?: number
}

export async function adoptSets(
  [zoneWord, nameWord, typeWord]: [string, string, string?],
  options: SetsOptions,
  command: Command,
): Promise<void> {
  const target = await targetNamed({ ...options, zone: undefined })
  const loaded = loadZones(target.files, options.includeAnywhere)
  const zone = zoneNamed(loaded, zoneWord)
  const type = typeWord === undefined ? undefined : parseType(typeWord)
  if (typeWord !== undefined && type === undefined) throw new Trouble(notAType(typeWord))
  if (type === TYPE.SOA || (type !== undefined && TYPES_OF_SIGNING.has(type)))
    throw new Trouble(`${typeText(type)} is not taken over: the server makes it itself`)
  const meant = { owner: foldName(orTrouble(typedName(nameWord, zone, [zone]))), type }
  const { vantage, key } = sourceOf(options, target.deliveries ?? [])
  const there = await setsAt(vantage, key, loaded, zone, meant, limitOf(options))
  await takeOver(there, [meant], zone, options, command)
}

/** Makes the sets that are meant what they are there, as a change like any other. */
export async function takeOver(
  there: Sets,
  meant: readonly Meant[],
  zone: Zone,
  options: SetsOptions,
  command: Command,
): Promise<void> {
  const target = await targetNamed({ ...options, zone: undefined })
  const loaded = loadZones(target.files, options.includeAnywhere)
  const isAsking = !options.json && !options.dryRun && canAsk()
  const propose = (zones: Zones): { parts: ZonePart[] } => {
    const at = zoneNamed(zones, zone.name)
    const isMeant = (set: { owner: Name; type: number }): boolean =>
      meant.some(({ owner, type }) => foldName(set.owner) === owner && (type === undefined || type === set.type))
    const sets = differences(setsOf(zones, at), there)
      .filter((set) => isMeant(set) && !TYPES_OF_SIGNING.has(set.type))
      .map(
        ({ owner, type, after }): SetChange => ({
          owner,
          type,
          data: after?.data ?? [],
          ...(after ? { ttl: after.ttl } : {}),
        }),
      )
    return { parts: [{ zone: at, sets: [...sets, ...excluded(setsOf(zones, at), sets)] }] }
  }
  await change(target, loaded, options, command, propose, {
    agree: async (outcome) =>
      options.yes === true || (isAsking && (await agreedAfterShowing(outcome, options, command, 'Take over'))),
    tell: (outcome) => reportOpen(outcome, options, command),
  })
}

/** What is here at names that get an alias, or is an alias at names that get something else: the two exclude each other (RFC 1034 §3.6.2). */
function excluded(own: Sets, sets: readonly SetChange[]): SetChange[] {
  const isOut = (set: RecordSet): boolean =>
    !sets.some((each) => setKey(each) === setKey(set)) &&
    sets.some(
      ({ owner, type, data }) =>
        data.length > 0 &&
        foldName(owner) === foldName(set.owner) &&
        (type === TYPE.CNAME) !== (set.type === TYPE.CNAME),
    )
  return [...own.values()].filter(isOut).map(({ owner, type }) => ({ owner, type, data: [] }))
}

/** What a server has: all of the zone where it hands that over, else the one set that is asked for. */
async function setsAt(
  vantage: Vantage,
  key: Key | undefined,
  zones: Zones,
  zone: Zone,
  { owner, type }: Meant,
  limitMs: number,
): Promise<Sets> {
  const transfer = await transferOf(vantage, foldName(zone.name), limitMs, key)
  if (!('failed' in transfer)) return transfer.sets
  const label = `${vantage.address}:${vantage.port}`
  if (transfer.silent) throw new Trouble(`${label}: ${transfer.failed}; nothing was changed`, 3)
  if (type === undefined)
    throw new Trouble(
      `${label} does not allow a zone transfer (${transfer.failed}), so it cannot be seen what ${bare(owner)} has there: name the type, too`,
      1,
    )
  const found = await setAtServer(vantage, foldName(zone.name), { owner, type }, limitMs)
  const sets = new Map(setsOf(zones, zone))
  if (found) sets.set(setKey(found), found)
  else sets.delete(setKey({ owner, type }))
  return sets
}

/** One set of a server, by asking; undefined where it has none. What a wildcard makes is no set of the name. */
async function setAtServer(
  vantage: Vantage,
  zone: Name,
  { owner, type }: Required<Meant>,
  limitMs: number,
): Promise<RecordSet | undefined> {
  const asker = new Asker(vantage, CLOCK, { limitMs })
  const ask = async (name: Name): Promise<RecordSet | undefined> => {
    const { message, trouble } = await asker.ask(name, type, { recursion: false })
    if (!message) throw new Trouble(`${vantage.address}:${vantage.port}: ${trouble?.detail}; nothing was changed`, 3)
    if (!message.authoritative || (message.rcode !== 0 && message.rcode !== NXDOMAIN))
      throw new Trouble(
        `${vantage.address}:${vantage.port} gave no authoritative answer for ${bare(name)} ${typeText(type)}; nothing was changed`,
        1,
      )
    const records = message.answers.filter((each) => each.type === type && foldName(each.owner) === foldName(name))
    const [first] = records
    return first && { owner: name, type, ttl: first.ttl, data: records.map(({ data }) => data) }
  }
  try {
    const found = await ask(owner)
    // Nothing above the apex makes it.
    if (owner === zone) return found
    const parent = owner.slice(owner.indexOf('.') + 1)
    const sibling = found && (await ask(`bramblefront-${randomBytes(6).toString('hex')}.${parent}`))
    const isSame =
      found && sibling && differences(new Map([['', { ...sibling, owner }]]), new Map([['', found]])).length === 0
    return isSame ? undefined : found
  } finally {
    asker.close()
  }
}

const NXDOMAIN = 3
