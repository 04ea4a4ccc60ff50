/** Web fronts: which targets go through one. */

import { followAliases, locateWire, UNKNOWN } from '../knowledge/answer.ts'
import { parseAddress } from '../names/address.ts'
import { isIn } from '../names/address-kinds.ts'
import { foldName, nameToWire, wireToName } from '../names/name.ts'
import type { NameId } from '../names/tree.ts'
import { addressesAt } from './look.ts'
import type { Context, Front } from './rule.ts'

interface Prepared {
  front: Front
  networks: { octets: Uint8Array; bits: number }[]
  names: string[]
}

const PREPARED = new WeakMap<readonly Front[], Prepared[]>()

function prepared(fronts: readonly Front[]): Prepared[] {
  let made = PREPARED.get(fronts)
  if (!made) {
    made = fronts.map((front) => ({
      front,
      networks: front.ranges.flatMap((range) => {
        const [address = '', bits] = range.split('/')
        const octets = parseAddress(address)
        return octets ? [{ octets, bits: bits === undefined ? octets.length * 8 : Number(bits) }] : []
      }),
      names: front.names.map((name) => foldName(name.endsWith('.') ? name : `${name}.`)),
    }))
    PREPARED.set(fronts, made)
  }
  return made
}

/** The front that a name leads to (it is one of its names, or below one), or that an address is of; undefined where there is none. */
export function frontAt(
  fronts: readonly Front[],
  { name, address }: { name?: string; address?: Uint8Array },
): Front | undefined {
  const folded = name && foldName(name)
  return prepared(fronts).find(
    ({ networks, names }) =>
      (folded !== undefined && names.some((each) => folded === each || folded.endsWith(`.${each}`))) ||
      (address !== undefined &&
        networks.some(({ octets, bits }) => octets.length === address.length && isIn(address, octets, bits))),
  )?.front
}

/** In words, by which front a target is reached, following its aliases; undefined where it is reached by none, or that is not known. */
export function frontOf(cx: Context, target: NameId): string | undefined {
  const { fronts } = cx.around
  if (!fronts?.length) return undefined
  const { zones } = cx
  const wire = nameToWire(zones.tree.text(target)) as Uint8Array
  const { steps, end } = followAliases(zones, wire)
  for (const passed of [wire, ...steps.map(({ to }) => to)]) {
    const name = foldName(wireToName(passed))
    const led = frontAt(fronts, { name })
    if (led) return `which goes through the web front ${led.label}${passed === wire ? '' : ` (${name})`}`
  }
  const node = end ? locateWire(zones, end) : UNKNOWN
  for (const record of node < 0 ? [] : addressesAt(zones, node)) {
    const front = frontAt(fronts, { address: zones.rdata(record) })
    if (front) return `whose address ${zones.rdataText(record)} is the web front ${front.label}’s`
  }
  return undefined
}
