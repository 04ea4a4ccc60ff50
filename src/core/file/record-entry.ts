/** An entry of a zone file that is a record: its owner, TTL, class, type and data (RFC 1035 §5.1). */

import { GENERATED, OUT_OF_ZONE, TARGET_RELATIVE, TTL_STATED } from '../model/zones.ts'
import { MAX_NAME, readLabels, wireNameLength } from '../names/name.ts'
import { type NameId, NONE, ROOT } from '../names/tree.ts'
import { readNameToken } from '../records/fields.ts'
import { atHosts } from '../records/host-types.ts'
import { quickType } from '../records/mnemonics.ts'
import { readRdata } from '../records/rdata.ts'
import { parseTtl } from '../records/ttl.ts'
import { CLASS_IN, parseClass, parseType, rowOf, TYPE, typeText } from '../records/types.ts'
import type { Reading } from './reading.ts'

const EQUALS = 0x3d
const PARENTHESIS = 0x28

/** Reads the record in the cursor, whose line may begin with a blank, into the model; false, with the cursor’s trouble, where it cannot be read. */
export function readRecord(reading: Reading, start: number, blank: boolean): boolean {
  const { octets, cursor, zones } = reading
  if (blank) {
    if (reading.owner === NONE)
      return cursor.fail(
        'no-owner',
        0,
        'the line begins with a space, which repeats the owner above, but there is none above',
        'write the owner at the beginning of the line',
      )
  } else {
    cursor.at = 1
    if (!readOwner(reading)) return false
    if (octets[start] === PARENTHESIS)
      cursor.note(
        'parenthesis-first',
        0,
        'a parenthesis opens before the owner',
        'the owner first, then the parenthesis',
      )
  }
  if (!readHead(reading)) return false
  const { type, typeToken } = reading
  if (cursor.hasQuotes) noteQuotes(reading, typeToken)
  if (reading.klass === NONE) reading.klass = reading.lastClass
  else reading.lastClass = reading.klass
  const dataStart = zones.data.length
  if (!readRdata(type, cursor, zones.data)) {
    zones.data.length = dataStart
    reading.source.brokenTypes.push(type)
    if (reading.ttl !== NONE) reading.lastTtl = reading.ttl
    return false
  }
  if (zones.data.length - dataStart > 65_535) {
    zones.data.length = dataStart
    return cursor.fail('bad-value', typeToken, 'the data has more than 65535 octets', 'at most 65535 octets')
  }
  let flags = settleTtl(reading)
  let target: NameId = NONE
  if (rowOf(type)?.target !== undefined) {
    target = internTarget(reading, type, dataStart)
    if (cursor.targetRelative) flags |= TARGET_RELATIVE
  }
  if (reading.ownerOutside) flags |= OUT_OF_ZONE
  if (reading.generatedAt !== NONE) flags = (flags | GENERATED) & ~(TARGET_RELATIVE | TTL_STATED)
  zones.addRecord(
    reading.owner,
    type,
    reading.ttl,
    reading.klass,
    reading.sourceIndex,
    reading.generatedAt === NONE ? start : reading.generatedAt,
    dataStart,
    target,
    flags,
  )
  return true
}

/** Reads TTL, class and type, in any order but that the type is last. */
function readHead(reading: Reading): boolean {
  const { octets, cursor } = reading
  reading.ttl = reading.klass = reading.type = NONE
  while (reading.type === NONE) {
    if (cursor.at >= cursor.count)
      return cursor.fail(
        'no-type',
        cursor.count,
        'the record has no type',
        'OWNER TTL CLASS TYPE VALUE, as in: mail 3600 IN A 192.0.2.25',
      )
    const typeToken = (reading.typeToken = cursor.at++)
    const from = cursor.starts[typeToken]!
    const to = cursor.ends[typeToken]!
    const first = octets[from]!
    if (first >= 0x30 && first <= 0x39 && reading.ttl === NONE) {
      reading.ttl = parseTtl(octets, from, to)
      if (reading.ttl < 0)
        return cursor.fail(
          'bad-ttl',
          typeToken,
          'not a TTL',
          'seconds, or a number with units as in 1h30m (w d h m s), then the type',
        )
      continue
    }
    if (to - from === 2 && (first | 0x20) === 0x69 && (octets[from + 1]! | 0x20) === 0x6e && reading.klass === NONE) {
      reading.klass = CLASS_IN
      continue
    }
    const quick = quickType(octets, from, to)
    if (quick !== undefined) reading.type = quick
    else {
      const word = cursor.word(typeToken)
      const other = reading.klass === NONE ? parseClass(word) : undefined
      if (other !== undefined) reading.klass = other
      else {
        const parsed = cursor.quoted[typeToken] ? undefined : parseType(word)
        if (parsed === undefined)
          return cursor.fail(
            'unknown-type',
            typeToken,
            'not a record type',
            atHosts(word) ??
              'a type such as A, AAAA, MX, TXT, CNAME, SRV, or TYPE123 with its data in the generic form',
          )
        reading.type = parsed
      }
    }
  }
  if (isMeta(reading.type))
    return cursor.fail(
      'unknown-type',
      reading.typeToken,
      `${typeText(reading.type)} exists only in queries and messages, not in zones`,
      'a type that zones can hold',
    )
  return true
}

/** The TTL of the record that was read: its own, else `$TTL`, else the last stated one, else the minimum of the SOA record; its flags. */
function settleTtl(reading: Reading): number {
  if (reading.type === TYPE.SOA && reading.minimum === NONE) {
    const { octets: data, length: end } = reading.zones.data
    reading.minimum = ((data[end - 4]! << 24) | (data[end - 3]! << 16) | (data[end - 2]! << 8) | data[end - 1]!) >>> 0
  }
  if (reading.ttl !== NONE) {
    reading.lastTtl = reading.ttl
    return TTL_STATED
  }
  if (reading.defaultTtl !== NONE) reading.ttl = reading.defaultTtl
  else if (reading.lastTtl !== NONE) reading.ttl = reading.lastTtl
  else {
    reading.ttl = reading.minimum === NONE ? 0 : reading.minimum
    tellNoTtl(reading)
  }
  return 0
}

function readOwner(reading: Reading): boolean {
  const { cursor, scratch, zones, octets } = reading
  const start = cursor.starts[0]!
  const end = cursor.ends[0]!
  if (end - start === 1 && octets[start] === 0x40) {
    reading.owner = reading.originId
  } else {
    scratch.length = 0
    const absolute = readLabels(octets, start, end, scratch)
    if (typeof absolute === 'string' || scratch.length + (absolute ? 1 : cursor.origin.length) > MAX_NAME) {
      reading.owner = NONE
      scratch.length = 0
      readNameToken(cursor, 0, scratch)
      return false
    }
    reading.owner = reading.intern(absolute ? ROOT : reading.originId, scratch.octets, 0, scratch.length)
  }
  reading.ownerOutside = !zones.tree.isAtOrBelow(reading.owner, reading.zone.apex)
  if (reading.ownerOutside)
    reading.problems.push({
      kind: 'out-of-zone',
      start,
      end,
      value: cursor.text(0),
      message: `${zones.tree.text(reading.owner)} is outside the zone ${reading.zone.name}`,
      wanted: `a name at or below ${reading.zone.name}`,
      owner: reading.owner,
    })
  return true
}

function internTarget(reading: Reading, type: number, dataStart: number): NameId {
  const { zones, cursor } = reading
  const row = rowOf(type)!
  const { octets, length } = zones.data
  let at = dataStart
  for (let i = 0; i < row.target!; i++) at = row.fields[i]!.kind.end(octets, at, length)
  const end = at + wireNameLength(octets, at)
  return cursor.targetRelative
    ? reading.intern(reading.originId, octets, at, end - cursor.origin.length)
    : reading.intern(ROOT, octets, at, end - 1)
}

function tellNoTtl(reading: Reading): void {
  if (reading.toldNoTtl) return
  reading.toldNoTtl = true
  const { cursor, typeToken, ttl } = reading
  reading.problems.push({
    kind: 'no-ttl',
    ...(reading.minimum === NONE ? {} : { severity: 'warning' }),
    start: cursor.starts[typeToken]!,
    end: cursor.ends[typeToken]!,
    value: cursor.text(typeToken),
    message:
      reading.minimum === NONE
        ? 'no TTL is stated here, none above, there is no $TTL, and no SOA record to take one from'
        : `no TTL is stated here, none above, and there is no $TTL; servers that accept this take the SOA record’s minimum, ${ttl}`,
    wanted: 'a line such as $TTL 3600 at the beginning of the file',
    read: true,
  })
}

/** Notes what of an entry with quotes is not read by every server as it is here. */
function noteQuotes(reading: Reading, typeToken: number): void {
  const { octets, cursor } = reading
  const { starts, ends, quoted } = cursor
  cursor.noteQuoted(0, typeToken + 1)
  for (let token = 1; token < cursor.count; token++)
    if (starts[token]! - quoted[token]! === ends[token - 1]! + quoted[token - 1]! && !isParameter(reading, token))
      cursor.note('touching', token, `there is no space before “${cursor.text(token)}”`, 'a space between them')
  for (let token = 0; cursor.hasLineEnd && token < cursor.count; token++)
    if (quoted[token] && octets.subarray(starts[token], ends[token]).includes(0x0a))
      cursor.note(
        'line-in-text',
        token,
        'a line ends inside a text in quotes',
        'the text on one line; \\010 for a line break in it',
      )
}

/** Whether a token is the value of a service parameter, which stands directly behind its sign (RFC 9460 §2.1). */
function isParameter(reading: Reading, token: number): boolean {
  const { octets, cursor } = reading
  return (
    (reading.type === TYPE.SVCB || reading.type === TYPE.HTTPS) &&
    cursor.quoted[token] === 1 &&
    octets[cursor.ends[token - 1]! - 1] === EQUALS
  )
}

/** Types that are never stored: for questions and messages (RFC 6895 §3.1), and 0. */
const isMeta = (type: number): boolean => type === 0 || type === TYPE.OPT || (type >= 128 && type <= 255)
