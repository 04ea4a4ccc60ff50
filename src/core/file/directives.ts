/** The directives of a zone file (RFC 1035 §5.1, RFC 2308 §4). */

import type { Source } from '../model/zones.ts'
import { wireToName } from '../names/name.ts'
import { latin1Of, textOf } from '../names/octets.ts'
import { ROOT } from '../names/tree.ts'
import { readNameToken } from '../records/fields.ts'
import type { Problem } from '../records/tokens.ts'
import { parseTtl } from '../records/ttl.ts'
import { generatedText, generateLine } from './generate.ts'
import { Reading } from './reading.ts'

/** How deep files may include one another, and how many of them one zone may include, each time counted; how many records a `$GENERATE` line may make, and how many of them at a time. */
const MAX_DEPTH = 16
const MAX_INCLUDES = 1000
const GENERATED_AT_ONCE = 1000

/** Reads the directive in the cursor; false, with the cursor’s trouble, where it cannot be read. */
export function readDirective(reading: Reading): boolean {
  const { cursor } = reading
  const word = latin1Of(
    reading.octets,
    cursor.starts[0]!,
    Math.min(cursor.ends[0]!, cursor.starts[0]! + 32),
  ).toUpperCase()
  cursor.at = 1
  if (word === '$ORIGIN') {
    const token = cursor.take('the origin')
    if (token < 0) return false
    cursor.noteQuoted(token, token + 1)
    reading.scratch.length = 0
    const relative = readNameToken(cursor, token, reading.scratch)
    if (relative < 0) return false
    const origin = reading.scratch.taken()
    reading.originId = reading.intern(ROOT, origin, 0, origin.length - 1)
    cursor.origin = origin
    if (relative === 1) noteRelativeOrigin(reading, token, origin)
    return nothingMore(reading, '$ORIGIN takes one name')
  }
  if (word === '$TTL') {
    const token = cursor.take('the TTL')
    if (token < 0) return false
    cursor.noteQuoted(token, token + 1)
    const ttl = parseTtl(reading.octets, cursor.starts[token]!, cursor.ends[token]!)
    if (ttl < 0)
      return cursor.fail('bad-ttl', token, 'not a TTL', 'seconds, or a number with units as in 1h30m (w d h m s)')
    reading.defaultTtl = ttl
    return nothingMore(reading, '$TTL takes one time')
  }
  if (word === '$INCLUDE') return include(reading)
  if (word === '$GENERATE') return generate(reading)
  return cursor.fail('bad-directive', 0, `not a directive: ${cursor.text(0)}`, '$ORIGIN, $TTL, $INCLUDE or $GENERATE')
}

function noteRelativeOrigin(reading: Reading, token: number, origin: Uint8Array): void {
  reading.cursor.note(
    'relative-origin',
    token,
    `the origin ${reading.cursor.text(token)} has no final dot`,
    wireToName(origin),
  )
}

/** Reads another file in this place; the origin and the owner in force are afterwards what they were before (RFC 1035 §5.1). */
function include(reading: Reading): boolean {
  const { cursor, zones, options } = reading
  const token = cursor.take('the file')
  if (token < 0) return false
  const name = cursor.unescaped(token)
  if (!name) return false
  let origin = cursor.origin
  let originId = reading.originId
  if (cursor.at < cursor.count) {
    reading.scratch.length = 0
    const token = cursor.at++
    const relative = readNameToken(cursor, token, reading.scratch)
    if (relative < 0) return false
    origin = reading.scratch.taken()
    if (relative === 1) noteRelativeOrigin(reading, token, origin)
    originId = reading.intern(ROOT, origin, 0, origin.length - 1)
  }
  if (!nothingMore(reading, '$INCLUDE takes a file and an origin')) return false
  const { source } = reading
  if (!options.include)
    return cursor.fail(
      'include',
      token,
      'an included file is not read here: its records are missing',
      'the records themselves',
    )
  if (reading.depth === MAX_DEPTH)
    return cursor.fail('include', token, `includes are nested more than ${MAX_DEPTH} deep`, 'fewer nested includes')
  if (reading.includes.count === MAX_INCLUDES)
    return cursor.fail('include', token, `more than ${MAX_INCLUDES} included files`, 'fewer files')
  reading.includes.count++
  const found = options.include(textOf(name), source.file)
  if ('failed' in found)
    return cursor.fail(
      'include',
      token,
      `cannot include ${textOf(name)}: ${found.failed}`,
      'a file in the folder of this one, or below it',
    )
  for (let each: Source | undefined = source; each; each = each.includedBy && zones.sources[each.includedBy.source])
    if (each.file === found.file)
      return cursor.fail('include', token, `${found.file} includes itself`, 'no include of itself')
  const index = zones.addSource(reading.zone, found.file, found.octets, {
    source: reading.sourceIndex,
    start: reading.entryStart,
    name: textOf(name),
  })
  const inner = new Reading(zones, index, reading.readers, options)
  inner.depth = reading.depth + 1
  inner.includes = reading.includes
  inner.cursor.origin = origin
  inner.originId = originId
  inner.takeStateFrom(reading)
  reading.readers.whole(inner)
  reading.defaultTtl = inner.defaultTtl
  reading.lastTtl = inner.lastTtl
  reading.minimum = inner.minimum
  reading.toldNoTtl = inner.toldNoTtl
  return true
}

/** Makes the records of a `$GENERATE` line. */
function generate(reading: Reading): boolean {
  const { cursor } = reading
  const line = generateLine(cursor, reading.octets)
  if (!line) return false
  for (let first = 0; first < line.count; first += GENERATED_AT_ONCE) {
    const text = generatedText(line, first, first + GENERATED_AT_ONCE)
    if (!text)
      return cursor.fail(
        'generate',
        line.ownerToken,
        'unknown character after $',
        '$ alone, or ${OFFSET,WIDTH,BASE} with base d, o, x, X, n or N',
      )
    const problems: Problem[] = []
    const inner = new Reading(reading.zones, reading.sourceIndex, reading.readers, {}, text, problems)
    inner.cursor.origin = cursor.origin
    inner.originId = reading.originId
    inner.takeStateFrom(reading)
    inner.generatedAt = reading.entryStart
    reading.readers.from(inner, 0)
    reading.toldNoTtl = inner.toldNoTtl
    // Servers that know this directive pass over what others refuse, but for quotes.
    const trouble = problems.find(({ read, kind }) => !read || kind === 'quoted' || kind === 'unquoted')
    if (trouble) {
      const { read, kind, value, message, wanted, type } = trouble
      cursor.fail(read ? 'generate' : kind, line.ownerToken, `${message} (${value}, in what is generated)`, wanted)
      if (type !== undefined) cursor.trouble!.type = type
      return false
    }
  }
  return true
}

function nothingMore(reading: Reading, message: string): boolean {
  const { cursor } = reading
  return cursor.at >= cursor.count || cursor.fail('extra-value', cursor.at, message, 'nothing after it but a comment')
}
