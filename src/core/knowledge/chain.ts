/** Following aliases: the one limit, and the one thing that ends a chain. */
import type { MessageRecord } from '../message/message.ts'
import { foldName, isAtOrBelow, type Name, wireToName } from '../names/name.ts'
import { TYPE } from '../records/types.ts'

/** The most aliases in a row that are followed (RFC 1034 §5.2.2 asks for a limit; resolvers in use have 8 to 16). */
export const MAX_CHAIN = 16

/** One step of a chain of names. */
export interface Step {
  owner: Name
  /** What makes the step. A wildcard leads to its own name; where an alias is there, that is the next step. */
  by: 'CNAME' | 'DNAME' | 'wildcard'
  to: Name
  /** Seconds. */
  ttl: number
  /** Whose record makes it. */
  zone?: Name
}

/** Why a chain leads nowhere: back to a name that it came by, over more than `MAX_CHAIN` aliases, or to a name that is longer than a name may be (RFC 6672 §2.2). */
export type ChainTrouble = 'circle' | 'too-long' | 'long-name'

/** What there is to say of it, behind “the name …”. */
export const CHAIN_TROUBLE: Record<ChainTrouble, string> = {
  circle: 'leads in a circle of aliases',
  'too-long': `leads over more than ${MAX_CHAIN} aliases`,
  'long-name': 'is below a DNAME that makes a name of more than 255 octets',
}

/** The names of a chain, each of which is offered before it is gone to. */
export class Chain {
  private readonly seen: Set<string>

  constructor(start: Name) {
    this.seen = new Set([foldName(start)])
  }

  /** Why one may not go on to a name; undefined where one may. */
  goOn(to: Name): ChainTrouble | undefined {
    const key = foldName(to)
    if (this.seen.has(key)) return 'circle'
    if (this.seen.size > MAX_CHAIN) return 'too-long'
    this.seen.add(key)
    return undefined
  }
}

/** The aliases that the records of an answer make of a name, in order, as far as `chain` lets them; a DNAME’s are told by the CNAME records that come with it. */
export function stepsIn(
  records: readonly MessageRecord[],
  name: Name,
  chain = new Chain(name),
): { steps: Step[]; trouble?: ChainTrouble } {
  const steps: Step[] = []
  for (let here = name; ; ) {
    const at = foldName(here)
    const alias = records.find(({ type, owner }) => type === TYPE.CNAME && foldName(owner) === at)
    if (!alias) return { steps }
    const to = wireToName(alias.data)
    const dname = records.some(
      ({ type, owner }) => type === TYPE.DNAME && foldName(owner) !== at && isAtOrBelow(alias.owner, owner),
    )
    steps.push({ owner: alias.owner, by: dname ? 'DNAME' : 'CNAME', to, ttl: alias.ttl })
    const trouble = chain.goOn(to)
    if (trouble) return { steps, trouble }
    here = to
  }
}
