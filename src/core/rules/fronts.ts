/** Web fronts: which targets go through one. */

import { locate } from '../answer/answer.ts'
import { parseAddress } from '../names/address.ts'
import { isIn } from '../names/address-kinds.ts'
import { foldName } from '../names/name.ts'
import type { NameId } from '../names/tree.ts'
import { TYPE } from '../records/types.ts'
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
        const [address, bits] = range.split('/')
        const octets = parseAddress(address)
        return octets ? [{ octets, bits: bits === undefined ? octets.length * 8 : Number(bits) }] : []
      }),
      names: front.names.map((name) => foldName(name.endsWith('.') ? name : `${name}.`)),
    }))
    PREPARED.set(fronts, made)
  }
  return made
}

/** In words, by which front a target is reached, following its aliases; undefined where it is reached by none, or that is not known. */
export function frontOf(cx: Context, target: NameId): string | undefined {
  const { fronts } = cx.around
  if (!fronts?.length) return undefined
  const { zones } = cx
  let here = target
  for (let steps = 0; steps < 16; steps++) {
    const name = foldName(zones.tree.text(here))
    for (const { front, names } of prepared(fronts))
      if (names.some((each) => name === each || name.endsWith(`.${each}`)))
        return `which goes through the web front ${front.label}${here === target ? '' : ` (${name})`}`
    const node = locate(zones, here)
    if (node < 0) return undefined
    if (!zones.hasCname(node)) {
      for (const record of addressesAt(zones, node))
        for (const { front, networks } of prepared(fronts))
          if (networks.some(({ octets, bits }) => octets.length === zones.rdata(record).length && isIn(zones.rdata(record), octets, bits)))
            return `whose address ${zones.rdataText(record)} is the web front ${front.label}’s`
      return undefined
    }
    here = zones.target(zones.records(node, TYPE.CNAME)[0])
  }
  return undefined
}
