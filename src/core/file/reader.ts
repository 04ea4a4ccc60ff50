/**
 * Reads a zone file (RFC 1035 §5, RFC 2308 §4) into the model. Whatever is wrong is noted as a problem with its place, and the rest is still read.
 */

import {
  GENERATED,
  OUT_OF_ZONE,
  type Source,
  TARGET_RELATIVE,
  TTL_STATED,
  type Zone,
  type Zones,
} from '../model/zones.ts'
import { MAX_NAME, type Name, nameToWire, readLabels, wireNameLength, wireToName } from '../names/name.ts'
import { latin1Of, OctetSink, textOf } from '../names/octets.ts'
import { type NameId, NONE, ROOT } from '../names/tree.ts'
import { readNameToken } from '../records/fields.ts'
import { quickType } from '../records/mnemonics.ts'
import { readRdata } from '../records/rdata.ts'
import { scanEntry } from '../records/scan.ts'
import { type Problem, TokenCursor } from '../records/tokens.ts'
import { parseTtl } from '../records/ttl.ts'
import { CLASS_IN, parseClass, parseType, rowOf, TYPE, typeText } from '../records/types.ts'
import { beginsWithMark, MARK } from './byte-order-mark.ts'
import { generatedText, generateLine } from './generate.ts'

/** What an `$INCLUDE` leads to: the file as it is to be named in messages, and its octets; or why it cannot be read. */
export type Included = { file: string; octets: Uint8Array } | { failed: string }

export interface ReadOptions {
  /** Reads a file named by `$INCLUDE` in the file `from`. Without it, an include is a problem: what it stands for is missing. */
  include?: (name: string, from: string) => Included
}

/** What a reader carries from one entry to the next. Times in seconds, NONE where there is none. */
export interface ReadingState {
  owner: Name | undefined
  origin: Uint8Array
  defaultTtl: number
  lastTtl: number
  lastClass: number
  minimum: number
}

/** Reads the source's octets from one entry's beginning up to another's, in a given state; returns the state behind them. */
export function readStretch(
  zones: Zones,
  sourceIndex: number,
  from: number,
  to: number,
  state: ReadingState,
  options: ReadOptions = {},
): ReadingState {
  const source = zones.sources[sourceIndex]!
  const reader = new Reader(
    zones,
    zones.zones[source.zone]!,
    sourceIndex,
    source.octets.subarray(0, to),
    source.problems,
    options,
  )
  return reader.stretch(from, state)
}

const DOLLAR = 0x24
const EQUALS = 0x3d
const PARENTHESIS = 0x28

/** In so many octets of a file it is looked for what is not in one of its lines alone: a zero, which no text has; carriage returns. */
const BEGINNING = 1 << 16

/** How deep files may include one another, and how many of them one zone may include, each time counted; how many records a `$GENERATE` line may make, and how many of them at a time. */
const MAX_DEPTH = 16
const MAX_INCLUDES = 1000
const GENERATED_AT_ONCE = 1000

/**
 * Reads the source's octets into `zones`; its problems go to the source.
 * A record without a TTL takes `$TTL`, else the last stated one, else the minimum of the SOA record (RFC 1035 §5.1, RFC 2308 §4).
 */
export function readZone(zones: Zones, sourceIndex: number, options: ReadOptions = {}): void {
  const source = zones.sources[sourceIndex]!
  new Reader(zones, zones.zones[source.zone]!, sourceIndex, source.octets, source.problems, options).run()
}

class Reader {
  private readonly scratch = new OctetSink(512)
  private readonly cursor: TokenCursor
  private originId: NameId
  private owner: NameId = NONE
  private ownerOutside = false
  private type = NONE
  /** The present entry is a record, and no directive. */
  private inRecord = false
  private defaultTtl = NONE
  private lastTtl = NONE
  private lastClass = CLASS_IN
  private minimum = NONE
  private toldNoTtl = false
  private depth = 0
  /** How many files were included, by this one and those around it. */
  private includes = { count: 0 }
  /** For what `$GENERATE` makes: the place of that line, which all its records have. */
  private generatedAt = NONE
  /** The beginning of the present entry. */
  private entryStart = 0
  private readonly zones: Zones
  private readonly zone: Zone
  private readonly sourceIndex: number
  private readonly octets: Uint8Array
  private readonly problems: Problem[]
  private readonly options: ReadOptions

  constructor(
    zones: Zones,
    zone: Zone,
    sourceIndex: number,
    octets: Uint8Array,
    problems: Problem[],
    options: ReadOptions,
  ) {
    this.zones = zones
    this.zone = zone
    this.sourceIndex = sourceIndex
    this.octets = octets
    this.problems = problems
    this.options = options
    this.cursor = new TokenCursor(octets)
    this.cursor.origin = zone.wire
    this.originId = zone.apex
  }

  /** Reads the whole source. */
  run(): void {
    const source = this.zones.sources[this.sourceIndex]!
    this.noteContext()
    this.noteCarriageReturn()
    if (!this.refuseBinary()) this.scan(0)
    source.endRecord = this.zones.count
  }

  stretch(from: number, state: ReadingState): ReadingState {
    const { tree } = this.zones
    this.cursor.origin = state.origin
    this.originId = tree.internWire(state.origin)
    this.owner = state.owner === undefined ? NONE : tree.internWire(nameToWire(state.owner) as Uint8Array)
    this.ownerOutside = this.owner !== NONE && !tree.isAtOrBelow(this.owner, this.zone.apex)
    this.defaultTtl = state.defaultTtl
    this.lastTtl = state.lastTtl
    this.lastClass = state.lastClass
    this.minimum = state.minimum
    this.scan(from)
    const { origin } = this.cursor
    return {
      owner: this.owner === NONE ? undefined : tree.text(this.owner),
      origin,
      defaultTtl: this.defaultTtl,
      lastTtl: this.lastTtl,
      lastClass: this.lastClass,
      minimum: this.minimum,
    }
  }

  private scan(from: number): void {
    const { octets, cursor } = this
    let at = from === 0 ? this.behindMark() : from
    while (at < octets.length) {
      const { end, problem } = scanEntry(octets, at, cursor)
      this.entryStart = at
      if (problem) this.problems.push(problem)
      else if (cursor.count > 0) {
        this.type = NONE
        this.inRecord = true
        if (this.readEntry(at)) {
          if (!this.inRecord && end === octets.length && octets[end - 1] !== 0x0a)
            cursor.note(
              'no-newline',
              0,
              'the last line is a directive, and has no newline at its end',
              'a newline behind it',
            )
          if (cursor.notes.length > 0) this.takeNotes()
        } else {
          const trouble = cursor.trouble!
          if (this.owner !== NONE && this.inRecord) trouble.owner = this.owner
          if (this.type !== NONE && this.inRecord) trouble.type = this.type
          this.problems.push(trouble)
        }
      }
      at = end
    }
  }

  /** Where the first entry begins: behind a byte-order mark, which servers do not pass over. */
  private behindMark(): number {
    if (!beginsWithMark(this.octets)) return 0
    this.problems.push({
      kind: 'byte-order-mark',
      start: 0,
      end: MARK,
      value: '',
      message: 'the file begins with a byte-order mark (the octets EF BB BF), which cannot be seen',
      wanted: 'nothing before the first entry',
      read: true,
    })
    return MARK
  }

  /** What was noted of an entry that was read becomes problems. */
  private takeNotes(): void {
    for (const note of this.cursor.notes) {
      if (this.inRecord) note.owner = this.owner
      if (this.inRecord) note.type = this.type
      this.problems.push(note)
    }
  }

  /** Notes what of an entry with quotes is not read by every server as it is here. */
  private noteQuotes(typeToken: number): void {
    const { octets, cursor } = this
    const { starts, ends, quoted } = cursor
    cursor.noteQuoted(0, typeToken + 1)
    for (let token = 1; token < cursor.count; token++)
      if (starts[token]! - quoted[token]! === ends[token - 1]! + quoted[token - 1]! && !this.isParameter(token))
        cursor.note(
          'touching',
          token,
          `no blank parts “${cursor.text(token)}” from what is in front of it`,
          'a blank between them',
        )
    for (let token = 0; cursor.hasLineEnd && token < cursor.count; token++)
      if (quoted[token] && octets.subarray(starts[token], ends[token]).includes(0x0a))
        cursor.note(
          'line-in-text',
          token,
          'a line ends inside a text in quotes',
          'the text on one line; \\010 for a line’s end in it',
        )
  }

  /** Whether a token is the value of a service parameter, which stands directly behind its sign (RFC 9460 §2.1). */
  private isParameter(token: number): boolean {
    const { octets, cursor } = this
    return (
      (this.type === TYPE.SVCB || this.type === TYPE.HTTPS) &&
      cursor.quoted[token] === 1 &&
      octets[cursor.ends[token - 1]! - 1] === EQUALS
    )
  }

  /** Remembers what is in force from the next record on. */
  private noteContext(): void {
    if (this.generatedAt !== NONE) return
    this.zones.sources[this.sourceIndex]!.contexts.push({
      record: this.zones.count,
      origin: this.cursor.origin,
      defaultTtl: this.defaultTtl,
    })
  }

  private noteCarriageReturn(): void {
    const { octets } = this
    const first = this.beginning().indexOf(0x0d)
    if (first < 0 || (first + 1 < octets.length && octets[first + 1] !== 0x0a)) return
    this.problems.push({
      kind: 'carriage-return',
      start: first,
      end: first + 1,
      value: '',
      message: 'lines end in a carriage return and a newline',
      wanted: 'lines that end in a newline alone',
      read: true,
    })
  }

  private beginning(): Uint8Array {
    return this.octets.length > BEGINNING ? this.octets.subarray(0, BEGINNING) : this.octets
  }

  private refuseBinary(): boolean {
    const zero = this.beginning().indexOf(0)
    if (zero < 0) return false
    this.problems.push({
      kind: 'binary',
      start: zero,
      end: zero + 1,
      value: '',
      message: 'this is no zone file: it has a zero octet in it',
      wanted: 'a text file of records (RFC 1035 §5)',
    })
    return true
  }

  private readEntry(start: number): boolean {
    const { octets, cursor, zones } = this
    const blank = octets[start] === 0x20 || octets[start] === 0x09
    if (!blank && octets[cursor.starts[0]!] === DOLLAR && !cursor.quoted[0]) {
      this.inRecord = false
      const read = this.readDirective()
      this.noteContext()
      return read
    }
    if (blank) {
      if (this.owner === NONE)
        return cursor.fail(
          'no-owner',
          0,
          'the line begins with a blank, which repeats the owner above it, and there is none above',
          'write the owner at the beginning of the line',
        )
    } else {
      cursor.at = 1
      if (!this.readOwner()) return false
      if (octets[start] === PARENTHESIS)
        cursor.note(
          'parenthesis-first',
          0,
          'a parenthesis is opened in front of the owner',
          'the owner first, then the parenthesis',
        )
    }
    let ttl = NONE
    let klass = NONE
    let type = NONE
    this.type = NONE
    let typeToken = cursor.at
    while (type === NONE) {
      if (cursor.at >= cursor.count)
        return cursor.fail(
          'no-type',
          cursor.count,
          'the record has no type',
          'OWNER TTL CLASS TYPE VALUE, as in: mail 3600 IN A 192.0.2.25',
        )
      typeToken = cursor.at++
      const from = cursor.starts[typeToken]!
      const to = cursor.ends[typeToken]!
      const first = octets[from]!
      if (first >= 0x30 && first <= 0x39 && ttl === NONE) {
        ttl = parseTtl(octets, from, to)
        if (ttl < 0)
          return cursor.fail(
            'bad-ttl',
            typeToken,
            'not a TTL',
            'seconds, or a number with units as in 1h30m (w d h m s), then the type',
          )
        continue
      }
      if (to - from === 2 && (first | 0x20) === 0x69 && (octets[from + 1]! | 0x20) === 0x6e && klass === NONE) {
        klass = CLASS_IN
        continue
      }
      const quick = quickType(octets, from, to)
      if (quick !== undefined) type = quick
      else {
        const word = cursor.word(typeToken)
        const other = klass === NONE ? parseClass(word) : undefined
        if (other !== undefined) klass = other
        else {
          const parsed = cursor.quoted[typeToken] ? undefined : parseType(word)
          if (parsed === undefined)
            return cursor.fail(
              'unknown-type',
              typeToken,
              `not a record type: ${cursor.text(typeToken)}`,
              'a type such as A, AAAA, MX, TXT, CNAME, SRV, or TYPE123 with its data in the generic form',
            )
          type = parsed
        }
      }
    }
    this.type = type
    if (isMeta(type))
      return cursor.fail(
        'unknown-type',
        typeToken,
        `${typeText(type)} is for questions and messages: no zone holds it`,
        'a type that is stored',
      )
    if (cursor.hasQuotes) this.noteQuotes(typeToken)
    if (klass === NONE) klass = this.lastClass
    else this.lastClass = klass
    const dataStart = zones.data.length
    if (!readRdata(type, cursor, zones.data)) {
      zones.data.length = dataStart
      zones.sources[this.sourceIndex]!.brokenTypes.push(type)
      if (ttl !== NONE) this.lastTtl = ttl
      return false
    }
    if (zones.data.length - dataStart > 65_535) {
      zones.data.length = dataStart
      return cursor.fail('bad-value', typeToken, 'the data has over 65535 octets', 'at most 65535 octets')
    }
    let flags = 0
    if (type === TYPE.SOA && this.minimum === NONE) {
      const data = zones.data.octets
      const end = zones.data.length
      this.minimum = ((data[end - 4]! << 24) | (data[end - 3]! << 16) | (data[end - 2]! << 8) | data[end - 1]!) >>> 0
    }
    if (ttl !== NONE) {
      this.lastTtl = ttl
      flags |= TTL_STATED
    } else if (this.defaultTtl !== NONE) ttl = this.defaultTtl
    else if (this.lastTtl !== NONE) ttl = this.lastTtl
    else {
      ttl = this.minimum === NONE ? 0 : this.minimum
      this.tellNoTtl(typeToken, ttl)
    }
    let target: NameId = NONE
    const row = rowOf(type)
    if (row?.target !== undefined) {
      target = this.internTarget(type, dataStart)
      if (cursor.targetRelative) flags |= TARGET_RELATIVE
    }
    if (this.ownerOutside) flags |= OUT_OF_ZONE
    if (this.generatedAt !== NONE) flags = (flags | GENERATED) & ~(TARGET_RELATIVE | TTL_STATED)
    zones.addRecord(
      this.owner,
      type,
      ttl,
      klass,
      this.sourceIndex,
      this.generatedAt === NONE ? start : this.generatedAt,
      dataStart,
      target,
      flags,
    )
    return true
  }

  private readOwner(): boolean {
    const { cursor, scratch, zones, octets } = this
    const start = cursor.starts[0]!
    const end = cursor.ends[0]!
    if (end - start === 1 && octets[start] === 0x40) {
      this.owner = this.originId
    } else {
      scratch.length = 0
      const absolute = readLabels(octets, start, end, scratch)
      if (typeof absolute === 'string' || scratch.length + (absolute ? 1 : cursor.origin.length) > MAX_NAME) {
        this.owner = NONE
        scratch.length = 0
        readNameToken(cursor, 0, scratch)
        return false
      }
      this.owner = this.intern(absolute ? ROOT : this.originId, scratch.octets, 0, scratch.length)
    }
    this.ownerOutside = !zones.tree.isAtOrBelow(this.owner, this.zone.apex)
    if (this.ownerOutside)
      this.problems.push({
        kind: 'out-of-zone',
        start,
        end,
        value: cursor.text(0),
        message: `${zones.tree.text(this.owner)} is outside the zone ${this.zone.name}`,
        wanted: `a name at or below ${this.zone.name}`,
        owner: this.owner,
      })
    return true
  }

  private internTarget(type: number, dataStart: number): NameId {
    const { zones, cursor } = this
    const row = rowOf(type)!
    const { octets, length } = zones.data
    let at = dataStart
    for (let i = 0; i < row.target!; i++) at = row.fields[i]!.kind.end(octets, at, length)
    const end = at + wireNameLength(octets, at)
    return cursor.targetRelative
      ? this.intern(this.originId, octets, at, end - cursor.origin.length)
      : this.intern(ROOT, octets, at, end - 1)
  }

  private readonly labelStarts = new Int32Array(128)
  /** The name that the labels from `from` up to `to` make below `base`. */
  private intern(base: NameId, octets: Uint8Array, from: number, to: number): NameId {
    const { labelStarts } = this
    const { tree } = this.zones
    let labels = 0
    for (let at = from; at < to; at += octets[at]! + 1) labelStarts[labels++] = at
    let id = base
    while (labels > 0) {
      const at = labelStarts[--labels]!
      id = tree.child(id, octets, at + 1, at + 1 + octets[at]!)
    }
    return id
  }

  private tellNoTtl(typeToken: number, ttl: number): void {
    if (this.toldNoTtl) return
    this.toldNoTtl = true
    const { cursor } = this
    this.problems.push({
      kind: 'no-ttl',
      ...(this.minimum === NONE ? {} : { severity: 'warning' }),
      start: cursor.starts[typeToken]!,
      end: cursor.ends[typeToken]!,
      value: cursor.text(typeToken),
      message:
        this.minimum === NONE
          ? 'no TTL is stated here, none above, there is no $TTL, and no SOA record to take one from'
          : `no TTL is stated here, none above, and there is no $TTL; servers that accept this take the SOA record’s minimum, ${ttl}`,
      wanted: 'a line such as $TTL 3600 at the top of the file',
      read: true,
    })
  }

  private readDirective(): boolean {
    const { cursor } = this
    const word = latin1Of(
      this.octets,
      cursor.starts[0]!,
      Math.min(cursor.ends[0]!, cursor.starts[0]! + 32),
    ).toUpperCase()
    cursor.at = 1
    if (word === '$ORIGIN') {
      const token = cursor.take('the origin')
      if (token < 0) return false
      cursor.noteQuoted(token, token + 1)
      this.scratch.length = 0
      const relative = readNameToken(cursor, token, this.scratch)
      if (relative < 0) return false
      const origin = this.scratch.taken()
      this.originId = this.intern(ROOT, origin, 0, origin.length - 1)
      cursor.origin = origin
      if (relative === 1) this.noteRelativeOrigin(token, origin)
      return this.nothingMore('$ORIGIN takes one name')
    }
    if (word === '$TTL') {
      const token = cursor.take('the TTL')
      if (token < 0) return false
      cursor.noteQuoted(token, token + 1)
      const ttl = parseTtl(this.octets, cursor.starts[token]!, cursor.ends[token]!)
      if (ttl < 0)
        return cursor.fail('bad-ttl', token, 'not a TTL', 'seconds, or a number with units as in 1h30m (w d h m s)')
      this.defaultTtl = ttl
      return this.nothingMore('$TTL takes one time')
    }
    if (word === '$INCLUDE') return this.include()
    if (word === '$GENERATE') return this.generate()
    return cursor.fail('bad-directive', 0, `not a directive: ${cursor.text(0)}`, '$ORIGIN, $TTL, $INCLUDE or $GENERATE')
  }

  private noteRelativeOrigin(token: number, origin: Uint8Array): void {
    this.cursor.note(
      'relative-origin',
      token,
      `the origin ${this.cursor.text(token)} has no final dot`,
      wireToName(origin),
    )
  }

  /** Reads another file in this place; the origin and the owner in force are afterwards what they were before (RFC 1035 §5.1). */
  private include(): boolean {
    const { cursor, zones, options } = this
    const token = cursor.take('the file')
    if (token < 0) return false
    const name = cursor.unescaped(token)
    if (!name) return false
    let origin = cursor.origin
    let originId = this.originId
    if (cursor.at < cursor.count) {
      this.scratch.length = 0
      const token = cursor.at++
      const relative = readNameToken(cursor, token, this.scratch)
      if (relative < 0) return false
      origin = this.scratch.taken()
      if (relative === 1) this.noteRelativeOrigin(token, origin)
      originId = this.intern(ROOT, origin, 0, origin.length - 1)
    }
    if (!this.nothingMore('$INCLUDE takes a file and an origin')) return false
    const source = zones.sources[this.sourceIndex]!
    if (!options.include)
      return cursor.fail(
        'include',
        token,
        'an included file is not read here: what it stands for is missing',
        'the records themselves',
      )
    if (this.depth === MAX_DEPTH)
      return cursor.fail(
        'include',
        token,
        `files include one another over ${MAX_DEPTH} deep`,
        'fewer files inside one another',
      )
    if (this.includes.count === MAX_INCLUDES)
      return cursor.fail('include', token, `over ${MAX_INCLUDES} files are included`, 'fewer files')
    this.includes.count++
    const found = options.include(textOf(name), source.file)
    if ('failed' in found)
      return cursor.fail(
        'include',
        token,
        `cannot include ${textOf(name)}: ${found.failed}`,
        'a file in the folder of this one, or below it',
      )
    for (let each: Source | undefined = source; each; each = each.includedBy && zones.sources[each.includedBy.source])
      if (each.file === found.file) return cursor.fail('include', token, `${found.file} includes itself`, 'no circle')
    const index = zones.addSource(this.zone, found.file, found.octets, {
      source: this.sourceIndex,
      start: this.entryStart,
      name: textOf(name),
    })
    const inner = new Reader(zones, this.zone, index, found.octets, zones.sources[index]!.problems, options)
    inner.depth = this.depth + 1
    inner.includes = this.includes
    inner.cursor.origin = origin
    inner.originId = originId
    inner.takeStateFrom(this)
    inner.run()
    this.defaultTtl = inner.defaultTtl
    this.lastTtl = inner.lastTtl
    this.minimum = inner.minimum
    this.toldNoTtl = inner.toldNoTtl
    return true
  }

  private takeStateFrom(outer: Reader): void {
    this.owner = outer.owner
    this.ownerOutside = outer.ownerOutside
    this.defaultTtl = outer.defaultTtl
    this.lastTtl = outer.lastTtl
    this.lastClass = outer.lastClass
    this.minimum = outer.minimum
    this.toldNoTtl = outer.toldNoTtl
  }

  /** Makes the records of a `$GENERATE` line. */
  private generate(): boolean {
    const { cursor } = this
    const line = generateLine(cursor, this.octets)
    if (!line) return false
    for (let first = 0; first < line.count; first += GENERATED_AT_ONCE) {
      const text = generatedText(line, first, first + GENERATED_AT_ONCE)
      if (!text)
        return cursor.fail(
          'generate',
          line.ownerToken,
          'a sign behind $ is not understood',
          '$ alone, or ${OFFSET,WIDTH,BASE} with base d, o, x, X, n or N',
        )
      const problems: Problem[] = []
      const inner = new Reader(this.zones, this.zone, this.sourceIndex, text, problems, {})
      inner.cursor.origin = cursor.origin
      inner.originId = this.originId
      inner.takeStateFrom(this)
      inner.generatedAt = this.entryStart
      inner.scan(0)
      this.toldNoTtl = inner.toldNoTtl
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

  private nothingMore(message: string): boolean {
    const { cursor } = this
    return (
      cursor.at >= cursor.count || cursor.fail('extra-value', cursor.at, message, 'nothing behind it but a comment')
    )
  }
}

/** Types that are never stored: for questions and messages (RFC 6895 §3.1), and 0. */
const isMeta = (type: number): boolean => type === 0 || type === TYPE.OPT || (type >= 128 && type <= 255)
