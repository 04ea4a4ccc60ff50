/**
 * Joins records that somebody states with those that a zone has, by what they are for: a sender goes into the SPF record that is there, a verification record stands
 * beside the others, a selector that is taken stays. What has more than one right answer is asked; what cannot be is a conflict.
 */
import { setAt, typesAt, type Zone, type Zones } from '../../model/zones.ts'
import { foldName, isAtOrBelow } from '../../names/name.ts'
import { type Rdata, sameRdata } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { type Answers, Joined, type Place, put, type Question, type Wanted, type Wish } from './joined.ts'
import { joinTexts } from './texts.ts'

/** Joins all rows into a zone. Nothing is asked of sets that stay as they are. */
export function joinInto(
  zones: Zones,
  zone: Zone,
  rows: readonly Wanted[],
  wishes: readonly Wish[] = [],
  answers: Answers = () => undefined,
): Joined {
  const joined = new Joined(answers)
  const replaced = new Set<string>()
  for (const wish of wishes) wished(zones, zone, wish, rows, joined, replaced)
  const groups = new Map<string, Wanted[]>()
  for (const row of rows) {
    if (row.damage !== undefined)
      joined.conflict([row], { owner: row.owner, type: row.type, why: `it was not written: ${row.damage}` })
    else if (!belongs(zones, zone, row, joined)) continue
    else {
      const key = keyOf(row)
      groups.set(key, [...(groups.get(key) ?? []), row])
    }
  }
  for (const group of groups.values()) {
    const { owner, type } = group[0]!
    const place: Place = { zones, zone, owner, type, rows: group, isReplaced: replaced.has(keyOf(group[0]!)) }
    const others = new Set(
      [...groups.values()].filter(([each]) => foldName(each!.owner) === foldName(owner)).map(([each]) => each!.type),
    )
    if (isBlocked(place, others, joined)) continue
    if (type === TYPE.CNAME) joinAlias(place, joined)
    else if (type === TYPE.TXT) joinTexts(place, joined)
    else joinRecords(place, joined)
  }
  return joined
}

const keyOf = ({ owner, type }: Pick<Wanted, 'owner' | 'type'>): string => `${foldName(owner)} ${type}`

/** Whether a record is one of the zone; else it is told where it belongs. */
function belongs(zones: Zones, zone: Zone, row: Wanted, joined: Joined): boolean {
  const { owner, type } = row
  const deepest = zones.zones
    .filter((each) => isAtOrBelow(owner, each.name))
    .sort((a, b) => b.wire.length - a.wire.length)[0]
  if (deepest === zone) return true
  const why = deepest
    ? `it belongs to your zone ${foldName(deepest.name)}: transcribe it into that`
    : isAtOrBelow(owner, zone.name)
      ? 'it is in another zone'
      : 'it belongs to another domain'
  joined.conflict([row], { owner, type, why })
  return false
}

/** What the words around the records ask for: never done unasked. */
function wished(
  zones: Zones,
  zone: Zone,
  wish: Wish,
  rows: readonly Wanted[],
  joined: Joined,
  replaced: Set<string>,
): void {
  const { about, owner, type, data } = wish
  if (about === 'registrar') {
    joined.conflicts.push({
      owner,
      type,
      why: 'the name servers of a domain are changed at its registrar, not in its zone',
    })
    return
  }
  const present = setAt(zones, zone, owner, type)
  const what = `${owner} ${typeText(type)}`
  if (about === 'replace') {
    if (
      !present ||
      !rows.some((row) => keyOf(row) === keyOf(wish)) ||
      rows
        .filter((row) => keyOf(row) === keyOf(wish))
        .every((row) => present.data.some((each) => sameRdata(type, each, row.data)))
    )
      return
    const answer = joined.ask({
      about,
      owner,
      type,
      choices: ['replace', 'add'],
      says: `The text says that ${what} is replaced. Replace what is there, or add to it?`,
    })
    if (answer === 'replace') replaced.add(keyOf(wish))
    return
  }
  const gone = data === undefined ? present?.data : present?.data.filter((each) => sameRdata(type, each, data))
  if (!present || !gone || gone.length === 0) return
  const answer = joined.ask({
    about,
    owner,
    type,
    choices: ['remove', 'keep'],
    says: `The text says that ${what} is deleted. Remove it, or keep it?`,
  })
  if (answer === 'remove')
    joined.changes.push({ owner, type, data: present.data.filter((each) => !gone.includes(each)) })
}

/** Whether something at the name, there or among the rows, keeps these records away: an alias stands alone (RFC 1034 §3.6.2). */
function isBlocked({ zones, zone, owner, type, rows }: Place, others: ReadonlySet<number>, joined: Joined): boolean {
  const present = [...typesAt(zones, zone, owner)]
  if (type !== TYPE.CNAME) {
    if (!present.includes(TYPE.CNAME) && !others.has(TYPE.CNAME)) return false
    // Among rows it is told once, of the alias.
    if (!present.includes(TYPE.CNAME)) return false
    joined.conflict(rows, {
      owner,
      type,
      why: `${owner} is an alias (CNAME), and nothing can stand beside it`,
      choices: ['remove the CNAME', 'another name'],
    })
    return true
  }
  const isApex = foldName(owner) === foldName(zone.name)
  const beside = [...new Set([...present, ...others])].filter(
    (each) => each !== TYPE.CNAME && each !== TYPE.RRSIG && each !== TYPE.NSEC,
  )
  if (!isApex && beside.length === 0) return false
  joined.conflict(rows, {
    owner,
    type,
    why: isApex
      ? 'a CNAME cannot stand at the apex of a zone'
      : `a CNAME cannot stand beside other records (${beside.map(typeText).join(', ')})`,
    choices: ['follow', 'address', 'another name'],
  })
  return true
}

function joinAlias({ zones, zone, owner, type, rows, isReplaced }: Place, joined: Joined): void {
  const [first] = rows
  if (rows.length > 1) {
    joined.conflict(rows, { owner, type, why: 'the text states several targets for one alias' })
    return
  }
  const present = setAt(zones, zone, owner, type)
  if (present?.data.some((each) => sameRdata(type, each, first!.data))) joined.all(rows, 'already there')
  else if (!present) added(joined, first!, rows)
  else if (first!.kind === 'dkim-alias' && !isReplaced)
    joined.conflict(rows, {
      owner,
      type,
      why: 'the selector is taken by another alias',
      choices: ['another name', 'remove the CNAME'],
    })
  else {
    const answer = isReplaced
      ? 'replace'
      : joined.ask({
          about: 'alias',
          owner,
          type,
          choices: ['replace', 'keep'],
          says: `${owner} is an alias of another name. Replace its target?`,
        })
    if (answer === 'replace') put(joined, { owner, type, data: [first!.data] }, rows, 'replaces the target')
    else joined.all(rows, answer === 'keep' ? 'left out' : 'asked')
  }
}

/** Types whose records stand beside one another without speaking for one another. */
const BESIDE = new Set<number>([TYPE.CAA])

function joinRecords({ zones, zone, owner, type, rows, isReplaced }: Place, joined: Joined): void {
  const data = rows.map((row) => row.data)
  const present = setAt(zones, zone, owner, type)
  const isThere = (each: Rdata): boolean => present?.data.some((other) => sameRdata(type, other, each)) ?? false
  if (data.every(isThere)) {
    joined.all(rows, 'already there')
    return
  }
  if (type === TYPE.NS && foldName(owner) === foldName(zone.name)) {
    joined.conflict(rows, {
      owner,
      type,
      why: 'the name servers of a domain are changed at its registrar, and then in its zone',
    })
    return
  }
  if (!present) {
    added(joined, rows[0]!, rows)
    return
  }
  const fresh = data.filter((each) => !isThere(each))
  const question: Question = {
    about: type === TYPE.MX ? 'mx' : 'records',
    owner,
    type,
    choices: ['replace', 'add'],
    says: `${owner} has ${typeText(type)} records already. Replace them, or add these?`,
  }
  const answer = isReplaced ? 'replace' : BESIDE.has(type) ? 'add' : joined.ask(question)
  if (answer === 'replace') put(joined, { owner, type, ttl: rows[0]!.ttl, data }, rows, 'replaces what was there')
  else if (answer === 'add') put(joined, { owner, type, data: [...present.data, ...fresh] }, rows, 'added beside')
  else joined.all(rows, 'asked')
}

/** A set that is new, with the shortest TTL that is stated for it (RFC 2181 §5.2 has one for all). */
function added(joined: Joined, { owner, type }: Wanted, rows: readonly Wanted[]): void {
  const ttls = rows.flatMap(({ ttl }) => (ttl === undefined ? [] : [ttl]))
  put(
    joined,
    { owner, type, ttl: ttls.length > 0 ? Math.min(...ttls) : undefined, data: rows.map(({ data }) => data) },
    rows,
    'added',
  )
}
