/** Reverse names in step: the PTR records that belong to address records, in your reverse zones (RFC 1035 §3.5, RFC 3596 §2.5, RFC 2317). */
import type { SetChange } from '../file/edit/changes.ts'
import { answer } from '../knowledge/answer.ts'
import { setAt, type Zone, type Zones } from '../model/zones.ts'
import { addressText } from '../names/address.ts'
import { bare, foldName, type Name, nameToWire, wireToName } from '../names/name.ts'
import { reverseName } from '../names/reverse.ts'
import { TYPE } from '../records/types.ts'
import type { Result } from '../result.ts'

/** What goes with a change of addresses, by reverse zone; and what to know of the others. */
export interface InStep {
  parts: { zone: Zone; sets: SetChange[] }[]
  notes: string[]
}

const isAddress = ({ type }: SetChange): boolean => type === TYPE.A || type === TYPE.AAAA

/** Where the PTR records of an address stand: the owner, at the end of its aliases, its zone, and the names that are there; in words, where that is not in your zones. */
function placeOf(zones: Zones, address: Uint8Array): { owner: Name; zone: Zone; names: Name[] } | string {
  const name = reverseName(address)
  const { kind, zone, steps, answers } = answer(zones, name, TYPE.PTR)
  const text = addressText(address)
  if (kind === 'not-kept')
    return `No reverse zone for ${text} is yours: ask whoever runs it for the PTR record ${bare(name)}.`
  if (kind === 'referral')
    return `The reverse name of ${text} is delegated to other name servers: its PTR record is theirs to write.`
  if (kind === 'alias' || !zone)
    return `The reverse name of ${text} is an alias that leads out of your zones: its PTR record is written there.`
  const names = answers
    .filter(({ type }) => type === TYPE.PTR)
    .flatMap(({ data }) => data.map((each) => wireToName(each)))
  return { owner: steps.findLast(({ by }) => by === 'CNAME' || by === 'DNAME')?.to ?? name, zone, names }
}

/** The PTR records for the addresses that a change gives a host; refused where another name has one of them. */
export function withReverse(zones: Zones, changes: readonly SetChange[]): Result<InStep> {
  const made: InStep = { parts: [], notes: [] }
  for (const { owner, data } of changes.filter(isAddress)) {
    // No reverse name leads to a pattern of names.
    if (owner.startsWith('*.')) continue
    for (const address of data) {
      const place = placeOf(zones, address)
      if (typeof place === 'string') {
        made.notes.push(place)
        continue
      }
      if (place.names.some((name) => foldName(name) === foldName(owner))) continue
      if (place.names.length > 0)
        return {
          refused: `${addressText(address)} has the PTR record ${place.names.map(bare).join(', ')} already; nothing was written. Leave out --ptr, or decide with: bramblefront write ptr ${addressText(address)} ${bare(owner)}`,
        }
      put(made, place.zone, { owner: place.owner, type: TYPE.PTR, data: [nameToWire(owner) as Uint8Array] })
    }
  }
  return made
}

/** The PTR records that lead to a host at addresses that a change takes from it. */
export function withoutReverse(zones: Zones, zone: Zone, changes: readonly SetChange[]): InStep {
  const made: InStep = { parts: [], notes: [] }
  for (const { owner, type, data } of changes.filter(isAddress)) {
    const left = new Set(data.map((each) => each.join()))
    for (const address of setAt(zones, zone, owner, type)?.data ?? []) {
      const place = left.has(address.join()) ? '' : placeOf(zones, address)
      if (typeof place === 'string' || !place.names.some((name) => foldName(name) === foldName(owner))) continue
      const others = place.names.filter((name) => foldName(name) !== foldName(owner))
      const rest = others.map((name) => nameToWire(name) as Uint8Array)
      put(made, place.zone, { owner: place.owner, type: TYPE.PTR, data: rest })
      made.notes.push(
        `The PTR record of ${addressText(address)} leads to ${bare(owner)}, which no longer has that address.`,
      )
    }
  }
  return made
}

/** Several hosts of one change may share an address: each adds its name. */
function put({ parts }: InStep, zone: Zone, set: SetChange): void {
  let part = parts.find((each) => each.zone === zone)
  if (!part) parts.push((part = { zone, sets: [] }))
  const there = part.sets.find(({ owner }) => foldName(owner) === foldName(set.owner))
  if (there) there.data = [...there.data, ...set.data]
  else part.sets.push(set)
}

/** Parts of a change, those of one zone together. */
export function joinedParts<Part extends { zone: Zone; sets: readonly SetChange[]; notes?: readonly string[] }>(
  parts: readonly Part[],
): Part[] {
  const made: Part[] = []
  for (const part of parts) {
    const i = made.findIndex(({ zone }) => zone === part.zone)
    if (i < 0) made.push(part)
    else
      made[i] = {
        ...made[i]!,
        sets: [...made[i]!.sets, ...part.sets],
        ...(part.notes ? { notes: [...(made[i]!.notes ?? []), ...part.notes] } : {}),
      }
  }
  return made
}
