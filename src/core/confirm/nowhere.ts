/** What is confirmed must lead somewhere: aliases, exchanges, services and keys whose targets are outside your zones. */
import { zoneOfName } from '../knowledge/answer.ts'
import type { Find } from '../knowledge/find.ts'
import { looksLikeKey } from '../mail/dkim/key.ts'
import type { Zones } from '../model/zones.ts'
import { bare, foldName, labelsOf, type Name, wireToName } from '../names/name.ts'
import type { Rdata } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import type { Question } from './questions.ts'

/** A set that leads nowhere: to a name that does not exist, or has not what it is there for. */
export interface Nowhere {
  owner: Name
  type: number
  target: Name
  why: string
}

export interface Targets {
  nowhere: Nowhere[]
  /** Names that nobody could say anything of. */
  unknown: Name[]
}

/** Which of these sets lead nowhere, by what `find` says of their targets outside your zones; and of which targets it knows nothing. */
export async function leadNowhere(zones: Zones, questions: readonly Question[], find: Find): Promise<Targets> {
  const nowhere: Nowhere[] = []
  const unknown = new Set<Name>()
  const asking: Find = async (name, type) => {
    const found = await find(name, type)
    if (found.outcome === 'unknown' && found.by === 'nobody') unknown.add(name)
    return found
  }
  await Promise.all(
    questions.flatMap(({ owner, type, intended }) =>
      [...new Set(targetsOf(type, intended?.data ?? []))]
        .filter((target) => target !== '.' && zoneOfName(zones, target) === undefined)
        .map(async (target) => {
          const why = await whyNowhere(owner, type, target, asking)
          if (why !== undefined) nowhere.push({ owner, type, target, why })
        }),
    ),
  )
  const order = new Map(questions.map((question, i) => [`${question.owner} ${question.type}`, i]))
  const place = ({ owner, type }: Nowhere): number => order.get(`${owner} ${type}`)!
  return { nowhere: nowhere.sort((a, b) => place(a) - place(b)), unknown: [...unknown].sort() }
}

async function whyNowhere(owner: Name, type: number, target: Name, find: Find): Promise<string | undefined> {
  const labels = labelsOf(foldName(owner))
  const missing = `${bare(target)} does not exist`
  if (type === TYPE.CNAME && labels.includes('_domainkey')) {
    const { outcome, set } = await find(target, TYPE.TXT)
    if (outcome === 'no-name') return missing
    const hasKey = set?.data.some((data) => looksLikeKey(joined(data)))
    return outcome === 'unknown' || hasKey ? undefined : `${bare(target)} has no DKIM key record`
  }
  const [v4, v6] = await Promise.all([TYPE.A, TYPE.AAAA].map((each) => find(target, each)))
  if (v4!.outcome === 'no-name' && v4!.deniedBy !== undefined) return missing
  const isHost = type !== TYPE.CNAME || !labels.some((label) => label.startsWith('_'))
  return isHost && v4!.outcome === 'no-data' && v6!.outcome === 'no-data' ? `${bare(target)} has no address` : undefined
}

/** Where the name begins in the data of the types that lead on (RFC 1035 §3.3, RFC 2782). */
const TARGET_AT = new Map<number, number>([
  [TYPE.NS, 0],
  [TYPE.CNAME, 0],
  [TYPE.MX, 2],
  [TYPE.SRV, 6],
])

function targetsOf(type: number, data: readonly Rdata[]): Name[] {
  const at = TARGET_AT.get(type)
  return at === undefined ? [] : data.map((each) => foldName(wireToName(each.subarray(at))))
}
