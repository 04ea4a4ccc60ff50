/**
 * Joins records that somebody states with those that a zone has, by what they are for: a sender goes into the SPF record that is there, a verification record stands
 * beside the others, a selector that is taken stays. What has more than one right answer is asked; what cannot be is a conflict.
 */
import type { Zone, Zones } from '../../model/zones.ts'
import { foldName, isAtOrBelow, type Name } from '../../names/name.ts'
import { type Rdata, rdataText, sameRdata } from '../../records/rdata.ts'
import { BESIDE_ALIAS, TYPE, typeText } from '../../records/types.ts'
import { listed } from '../../rules/look.ts'
import { type Answers, Joined, keyOf, type Place, type Question, type Wanted, type Wish } from './joined.ts'
import { joinTexts } from './texts.ts'

/** Joins all rows into a zone. Nothing is asked of sets that stay as they are. */
export function joinInto(
  zones: Zones,
  zone: Zone,
  rows: readonly Wanted[],
  wishes: readonly Wish[] = [],
  answers: Answers = () => undefined,
): Joined {
  const joined = new Joined(zones, zone, answers)
  const below = zones.zones
    .filter((each) => isAtOrBelow(each.name, zone.name))
    .sort((a, b) => b.wire.length - a.wire.length)
  const groups = new Map<string, Wanted[]>()
  const types = new Map<Name, Set<number>>()
  for (const stated of rows) {
    const row = stated.other ? readingOf(stated, joined) : stated
    if (!row) continue
    if (row !== stated) joined.turned.set(stated, row)
    const { owner, type, damage } = row
    const refused = damage === undefined ? elsewhere(below, zone, zones, owner) : `it was not written: ${damage}`
    if (refused !== undefined) {
      joined.conflict([row], { owner, type, why: refused })
      continue
    }
    const group = groups.get(keyOf(row))
    if (group) group.push(row)
    else groups.set(keyOf(row), [row])
    types.set(foldName(owner), (types.get(foldName(owner)) ?? new Set()).add(type))
  }
  const replaced = new Set<string>()
  for (const wish of wishes) wished(wish, groups.get(keyOf(wish)) ?? [], joined, replaced)
  for (const [key, group] of groups) {
    const { owner, type } = group[0]!
    const rows = meantRows(group, joined)
    if (rows.length === 0) continue
    const place: Place = { zone, owner, type, rows, isReplaced: replaced.has(key) }
    if (isBlocked(place, types.get(foldName(owner))!, joined)) continue
    if (type === TYPE.CNAME) joinAlias(place, joined)
    else if (type === TYPE.TXT) joinTexts(place, joined)
    else joinRecords(place, joined)
  }
  for (const [stated, row] of joined.turned) joined.all([stated], joined.became.get(row) ?? '')
  return joined
}

/** Which of its two readings a row is meant as; undefined where that is open, or neither. */
function readingOf(row: Wanted, joined: Joined): Wanted | undefined {
  const { owner, type, line, of, asked } = row
  const [first, second] = [row, row.other!].map((each) => `“${textOf(each)}”`)
  const says = `${placeOf(row)} has two readings: first ${first}, second ${second} (${asked}). Which?`
  const choices = ['the first', 'the second', 'leave out']
  const answer = joined.ask({ about: 'reading', owner, type, line, of, choices, says })
  if (answer === 'the first') return { ...row, asked: undefined }
  if (answer === 'the second') return row.other
  joined.all([row], answer === undefined ? 'asked' : 'left out')
  return undefined
}

const placeOf = ({ line, of }: Wanted): string =>
  line === undefined ? 'It' : of === undefined ? `Line ${line}` : `Line ${line} of ${of}`
const textOf = ({ owner, type, data }: Wanted): string => `${owner} ${typeText(type)} ${rdataText(type, data)}`

/** The rows of a set that are to be written: those that are stated under a condition, or whose reading is not certain, are asked about. */
function meantRows(rows: readonly Wanted[], joined: Joined): readonly Wanted[] {
  const { owner, type } = rows[0]!
  const present = joined.at(owner, type)?.data ?? []
  const isThere = ({ data }: Wanted): boolean => present.some((each) => sameRdata(type, each, data))
  return rows.filter((row) => {
    const { asked, condition, line, of } = row
    if (asked === undefined && (condition === undefined || isThere(row))) return true
    const says =
      asked === undefined
        ? `${owner} ${typeText(type)} is stated under a condition: “${condition}”. Write it?`
        : `${placeOf(row)} may mean ${textOf(row)}, which is not certain: ${asked}. Write it?`
    const about = asked === undefined ? 'condition' : 'reading'
    const answer = joined.ask({ about, owner, type, line, of, choices: ['write', 'leave out'], says })
    if (answer !== 'write') joined.all([row], answer === undefined ? 'asked' : 'left out')
    return answer === 'write'
  })
}

/** Where a record belongs that is none of the zone; undefined for one that is. `below` are the zones in it, the deepest first. */
function elsewhere(below: readonly Zone[], zone: Zone, zones: Zones, owner: Name): string | undefined {
  if (isAtOrBelow(owner, zone.name)) {
    const deepest = below.find((each) => isAtOrBelow(owner, each.name))
    return deepest === zone || !deepest ? undefined : inZone(deepest)
  }
  const other = zones.zones.find((each) => isAtOrBelow(owner, each.name))
  return other ? inZone(other) : 'it belongs to another domain'
}

const inZone = ({ name }: Zone): string => `it belongs to your zone ${foldName(name)}: transcribe it into that`

/** What the words around the records ask for: never done unasked. */
function wished(
  { about, owner, type, data }: Wish,
  rows: readonly Wanted[],
  joined: Joined,
  replaced: Set<string>,
): void {
  if (about === 'registrar') {
    joined.conflicts.push({
      owner,
      type,
      why: 'the name servers of a domain are changed at its registrar, not in its zone',
    })
    return
  }
  const present = joined.at(owner, type)
  if (!present) return
  const isStated = (each: Rdata): boolean => rows.some((row) => sameRdata(type, each, row.data))
  const isFresh = rows.some((row) => !present.data.some((each) => sameRdata(type, each, row.data)))
  // “Remove the old ones, then add these”: the question about those that are there asks the same.
  if (type === TYPE.MX && about === 'delete' && data === undefined && isFresh) return
  const what = `${owner} ${typeText(type)}`
  if (about === 'replace') {
    if (
      replaced.has(keyOf({ owner, type })) ||
      rows.every((row) => present.data.some((each) => sameRdata(type, each, row.data)))
    )
      return
    const says = `The text says that ${what} is replaced. Replace what is there, or add to it?`
    const answer = joined.ask({ about, owner, type, choices: ['replace', 'add'], says })
    if (answer === 'replace') replaced.add(keyOf({ owner, type }))
    return
  }
  // Of a whole set, what the text states itself stays.
  const left = present.data.filter((each) => (data === undefined ? isStated(each) : !sameRdata(type, each, data)))
  if (left.length === present.data.length) return
  const gone = present.data.filter((each) => !left.includes(each)).map((each) => rdataText(type, each))
  const says = `The text says that ${what} is deleted. Remove it (${listed(gone)}), or keep it?`
  const answer = joined.ask({ about, owner, type, choices: ['remove', 'keep'], says })
  if (answer === 'remove') joined.put({ owner, type, data: left })
}

/** Whether something at the name, there or among the rows, keeps these records away: an alias stands alone (RFC 1034 §3.6.2). What is there may be removed. */
function isBlocked({ zone, owner, type, rows }: Place, stated: ReadonlySet<number>, joined: Joined): boolean {
  const present = joined.typesAt(owner).filter((each) => !BESIDE_ALIAS.has(each))
  if (type !== TYPE.CNAME) {
    if (!present.includes(TYPE.CNAME)) return false
    if (stated.has(TYPE.CNAME) || !removesExcluded(owner, type, [TYPE.CNAME], joined)) {
      const why = `${owner} is an alias (CNAME), and nothing else can exist at that name`
      joined.conflict(rows, { owner, type, why, choices: ['remove the CNAME', 'another name'] })
      return true
    }
    return false
  }
  const isApex = foldName(owner) === foldName(zone.name)
  const others = [...new Set([...present, ...stated])].filter((each) => each !== TYPE.CNAME && !BESIDE_ALIAS.has(each))
  if (!isApex && others.length === 0) return false
  if (!isApex && !others.some((each) => stated.has(each)) && removesExcluded(owner, type, others, joined)) return false
  const why = isApex
    ? 'a CNAME cannot stand at the apex of a zone'
    : `a CNAME cannot exist next to other records (${others.map(typeText).join(', ')})`
  joined.conflict(rows, { owner, type, why, choices: ['follow', 'address', 'another name'] })
  return true
}

/** Whether sets that exclude one of that type are removed: where that was chosen. */
function removesExcluded(owner: Name, type: number, others: readonly number[], joined: Joined): boolean {
  const there = others.map(
    (each) => `${typeText(each)} (${listed(joined.at(owner, each)!.data.map((data) => rdataText(each, data)))})`,
  )
  const says = `${owner} has ${there.join(', ')}, and ${typeText(type)} cannot exist next to it. Remove that?`
  if (!joined.isResolved({ about: 'excluded', owner, type, choices: ['remove', 'keep'], says })) return false
  for (const each of others) joined.put({ owner, type: each, data: [] })
  return true
}

function joinAlias({ owner, type, rows, isReplaced }: Place, joined: Joined): void {
  const [first] = rows
  if (rows.length > 1) {
    joined.conflict(rows, { owner, type, why: 'the text states several targets for one alias' })
    return
  }
  const present = joined.at(owner, type)
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
          says: `${owner} is an alias already (${rdataText(type, present.data[0]!)}). Replace its target (${rdataText(type, first!.data)})?`,
        })
    if (answer === 'replace') joined.put({ owner, type, data: [first!.data] }, rows, 'replaces the target')
    else joined.all(rows, answer === 'keep' ? 'left out' : 'asked')
  }
}

/** Types whose records stand beside one another without speaking for one another. */
const BESIDE = new Set<number>([TYPE.CAA])

function joinRecords({ zone, owner, type, rows, isReplaced }: Place, joined: Joined): void {
  const data = rows.map((row) => row.data)
  const present = joined.at(owner, type)
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
  const textOf = (all: readonly Rdata[]): string => listed(all.map((each) => rdataText(type, each)))
  const question: Question = {
    about: type === TYPE.MX ? 'mx' : 'records',
    owner,
    type,
    choices: ['replace', 'add'],
    says: `${owner} has ${typeText(type)} records (${textOf(present.data)}). Replace them, or add to them (${textOf(fresh)})?`,
  }
  const answer = isReplaced ? 'replace' : BESIDE.has(type) ? 'add' : joined.ask(question)
  if (answer === 'replace') joined.put({ owner, type, ttl: rows[0]!.ttl, data }, rows, 'replaces what was there')
  else if (answer === 'add') joined.put({ owner, type, data: [...present.data, ...fresh] }, rows, 'added beside')
  else joined.all(rows, 'asked')
}

/** A set that is new, with the shortest TTL that is stated for it (RFC 2181 §5.2 has one for all). */
function added(joined: Joined, { owner, type }: Wanted, rows: readonly Wanted[]): void {
  const ttls = rows.flatMap(({ ttl }) => (ttl === undefined ? [] : [ttl]))
  joined.put(
    { owner, type, ttl: ttls.length > 0 ? Math.min(...ttls) : undefined, data: rows.map(({ data }) => data) },
    rows,
    'added',
  )
}
