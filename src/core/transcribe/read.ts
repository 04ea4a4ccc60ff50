/**
 * What a pasted text says: each layout finds candidates, each candidate becomes a record or a reason, every line is accounted for.
 * Nothing is made up: a record needs a type, a name, and a value of that type’s form.
 */
import { foldName, type Name } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { type Rdata, rdataKey } from '../records/rdata.ts'
import { parseTtl } from '../records/ttl.ts'
import { TYPE, typeText } from '../records/types.ts'
import { Fills } from './blanks.ts'
import { type Candidate, type Cell, isEmpty } from './candidate.ts'
import { type Intent, intentOf, leadsIn } from './intents.ts'
import type { Role } from './labels.ts'
import { blockAt, columnAt, groupAt, labelled, pairsAt } from './layouts/blocks.ts'
import { fromData } from './layouts/data.ts'
import { fromMarkup } from './layouts/markup.ts'
import { leadsUntyped, ownerIn, sentencesOf, speaksOfRecords, told, typeNamed } from './layouts/sentences.ts'
import { carried, type Heading, headingOf, isRuler, rowAlone, rowBelow } from './layouts/tables.ts'
import { answered, arrowed, asWords, wholeLine, wordsOf } from './layouts/words.ts'
import { fits, partsOf } from './parts.ts'
import { type Around, likelyOwner, type Row, recordFrom } from './record.ts'
import { type Line, linesOf } from './text.ts'
import { addressIn, hostIn, isNumber, isWhole, quotedStrings, typeIn } from './values.ts'

export interface Instructions {
  rows: Row[]
  /** Placeholders that are still to be filled in. */
  blanks: { line: number; text: string; name: string }[]
  /** Lines that seem to state a record and cannot be understood. */
  unread: { line: number; text: string; why: string }[]
  /** What is worth a second look: it stops nothing. */
  notes: { line: number; text: string }[]
  /** What the text says of records beyond stating them. */
  intents: { line: number; about: 'delete' | 'replace' | 'registrar'; owner: Name; type: number; data?: Rdata }[]
  /** What hosting companies offer in place of a record, by the name that it is at. */
  features: { line: number; feature: string; owner: Name }[]
  /** Private keys where a record was expected: never shown, never written. */
  secrets: { line: number; owner: Name; type: number; why: string }[]
  /** Names that `--fill` may be given. */
  asked: ReadonlySet<string>
}

/** Reads instructions for a zone. `given` fills blanks by their names. */
export function readInstructions(
  text: string,
  zone: Name,
  given: ReadonlyMap<string, string> = new Map(),
): Instructions {
  return new Reader(zone, given).read(text)
}

/** A value goes on over lines no further than this. */
const MOST_VALUE = 8192

const EVIDENT = /^\s*(?:[-*•]\s+)?(?:[\w ]{1,12}:\s*)?["']?v=(?:spf1\s|DMARC1\s*;|DKIM1\s*;)/i

interface Context {
  type: number
  owner?: string
}

class Reader {
  private readonly zone: Name
  private readonly fills: Fills
  private readonly found: Instructions
  private around: Around
  private lines: Line[] = []
  /** Blanks that are left, by their line. */
  private readonly left = new Map<number, { text: string; name: string }[]>()
  /** What was cleaned, by line. */
  private readonly cleanedAt = new Map<number, readonly string[]>()
  private readonly keys = new Map<string, Row>()
  private heading: Heading | undefined
  private above: readonly Cell[] | undefined
  private context: Context | undefined
  private section: Intent | undefined
  private origin: Name | undefined
  private ttl: number | undefined
  private lastOwner: string | undefined
  private prose: Line[] = []

  constructor(zone: Name, given: ReadonlyMap<string, string>) {
    this.zone = foldName(zone)
    this.fills = new Fills(this.zone.replace(/\.$/, ''), given)
    this.found = {
      rows: [],
      blanks: [],
      unread: [],
      intents: [],
      notes: [],
      features: [],
      secrets: [],
      asked: this.fills.asked,
    }
    this.around = { zone: this.zone, full: false }
  }

  read(text: string): Instructions {
    this.around.full = text.toLowerCase().includes(this.zone.replace(/\.$/, ''))
    const markup = fromMarkup(text)
    for (const candidate of markup?.candidates ?? []) this.take(this.cleaned(candidate))
    this.lines = linesOf(text)
      .filter(({ number }) => !markup?.lines.has(number))
      .map((line) => this.filled(line))
    const data = markup ? undefined : fromData(this.lines)
    for (const candidate of data?.candidates ?? []) this.take(candidate)
    if (data) this.lines.splice(data.first, data.last - data.first + 1)
    for (let at = 0; at < this.lines.length; ) at = this.step(at)
    this.flush()
    this.found.rows.sort((a, b) => a.line - b.line)
    for (const { line, odd } of this.found.rows) if (odd !== undefined) this.found.notes.push({ line, text: odd })
    this.found.notes.push(...lookalikes(this.found.rows))
    return this.found
  }

  private filled(line: Line): Line {
    const { text, left, cleaned } = this.fills.fill(line.text)
    if (left.length > 0) this.left.set(line.number, left)
    const all = [...line.cleaned, ...cleaned]
    if (all.length > 0) this.cleanedAt.set(line.number, all)
    return { ...line, text, cleaned: all }
  }

  /** Cells of markup, cleaned as lines are. */
  private cleaned(candidate: Candidate): Candidate {
    return {
      ...candidate,
      cells: candidate.cells.map((cell) => {
        const [line] = linesOf(cell.text.replace(/\s+/g, ' '))
        return { ...cell, text: this.filled({ ...line!, number: cell.line }).text }
      }),
    }
  }

  /** Reads what begins at a line; returns the line behind it. */
  private step(at: number): number {
    const line = this.lines[at]!
    const { text } = line
    if (text.trim() === '' || isRuler(text)) {
      this.flush()
      return at + 1
    }
    if (this.directive(text)) return at + 1
    if (/^\s*(?:;|```|~~~)/.test(text)) return at + 1
    const column = columnAt(this.lines, at)
    if (column) return this.all(column.candidates, column.next)
    const pairs = pairsAt(this.lines, at)
    if (pairs) return this.all([pairs.candidate], pairs.next)
    const group = groupAt(this.lines, at)
    if (group && this.take(group.candidate, true)) {
      this.flush()
      return group.next
    }
    const heading = headingOf(line)
    if (heading) {
      this.flush()
      this.heading = heading
      this.above = undefined
      return at + 1
    }
    if (labelled(line).length > 0) {
      const block = blockAt(this.lines, at)
      if (block && this.block(block.candidate)) return block.next
    }
    // What a parenthesis holds together is read as one line.
    const isLong = wholeLine(this.lines, at).next > at + 1
    return (isLong ? undefined : (this.row(at) ?? this.alone(at))) ?? this.wordsAt(at) ?? this.told(line, at)
  }

  private all(candidates: readonly Candidate[], next: number): number {
    this.flush()
    for (const candidate of candidates) this.take(candidate)
    return next
  }

  /** `$ORIGIN` and `$TTL` of a zone file; the domain that a text names for the lines below. */
  private directive(text: string): boolean {
    const [, word, value = ''] = /^\s*\$(ORIGIN|TTL)\s+(\S+)/i.exec(text) ?? []
    if (word === undefined) return false
    const octets = octetsOf(value)
    const ttl = parseTtl(octets, 0, octets.length)
    if (word.toUpperCase() === 'ORIGIN') this.origin = foldName(value.endsWith('.') ? value : `${value}.${this.zone}`)
    else if (ttl >= 0) this.ttl = ttl
    return true
  }

  /** Labels of one record; of a domain alone, they say what the names below belong to. */
  private block(candidate: Candidate): boolean {
    const { cells } = candidate
    // “Delete:” is a heading.
    if (cells.every(({ role, text }) => role === 'nothing' && text === '')) return false
    if (cells.every(({ role }) => role === 'nothing')) {
      this.flush()
      return true
    }
    const said = cells.filter(({ role }) => role !== 'nothing')
    const [only] = said
    if (said.length === 1 && only!.role === 'owner') {
      const name = hostIn(only!.text)?.name
      if (name === undefined || !isWhole(name)) return false
      this.domain(name)
      return true
    }
    if (!said.some(({ role }) => role === 'value') && said.length < 3) return false
    this.flush()
    const { context } = this
    if (this.take(candidate)) return true
    const line = candidate.line
    // The type may stand in the heading above.
    if (context && this.take({ ...candidate, cells: [{ role: 'type', text: typeText(context.type), line }, ...cells] }))
      return true
    const text = cells
      .map((cell) => cell.text)
      .filter(Boolean)
      .join(' ')
      .slice(0, 200)
    const has = (role: Role): boolean => cells.some((cell) => cell.role === role && cell.text !== '')
    if (!has('owner') || !has('value') || has('type') || this.section === 'current') return false
    this.found.unread.push({ line, text, why: 'it states no type' })
    return true
  }

  private domain(name: string): void {
    this.flush()
    const full = foldName(name.endsWith('.') ? name : `${name}.`)
    this.around = { ...this.around, domain: full }
  }

  /** A row of a table, below its heading or by itself; returns the line behind it. */
  private row(at: number): number | undefined {
    const { line, next: behind } = this.quotedOver(at)
    const below = this.heading && rowBelow(this.heading, line)
    if (below && below.filter(({ text }) => text !== '').length > 1) {
      const next = this.wrapped(below, behind)
      const cells = carried(below, this.above)
      const candidate = { line: line.number, last: this.lines[next - 1]!.number, cells }
      if (this.take(candidate) || this.untyped(candidate)) {
        this.flush()
        this.above = cells
        return next
      }
    }
    const alone = rowAlone(line)
    if (!alone || !this.take({ line: line.number, last: line.number, cells: alone }, true)) return undefined
    this.flush()
    return at + 1
  }

  /** A row of a spreadsheet, one of whose quoted cells goes on over the lines below. */
  private quotedOver(at: number): { line: Line; next: number } {
    const line = this.lines[at]!
    const isOpen = (text: string): boolean => (text.match(/"/g)?.length ?? 0) % 2 === 1
    if (!this.heading || this.heading.parting === '  ' || !isOpen(line.text)) return { line, next: at + 1 }
    let { text } = line
    for (let next = at + 1; next < this.lines.length && next < at + 20; next++) {
      const more = this.lines[next]!.text
      text += `\n${more.trim()}`
      if (isOpen(more)) return { line: { ...line, text }, next: next + 1 }
    }
    return { line, next: at + 1 }
  }

  /** Takes lines below a row that go on its value alone into it; returns the line behind them. */
  private wrapped(cells: readonly Cell[], from: number): number {
    const value = cells.find(({ role }) => role === 'value')
    let at = from
    for (; value && at < this.lines.length && value.text.length < MOST_VALUE; at++) {
      const line = this.lines[at]!
      const more = line.text.trim() === '' ? undefined : rowBelow(this.heading!, line)
      const told = more?.filter(({ text }) => text !== '') ?? []
      if (told.length !== 1 || told[0]!.role !== 'value' || headingOf(line) || !/^[\s|\t]/.test(line.text)) break
      value.text += `\n${told[0]!.text}`
    }
    return at
  }

  /** A row of a table that has a name and a value, and for its type a word that is none. */
  private untyped({ line, cells }: Candidate): boolean {
    const of = (role: Role): string => cells.find((cell) => cell.role === role)?.text ?? ''
    const [type, owner, value] = [of('type'), of('owner'), of('value')]
    const host = hostIn(value)?.name
    const isValue = addressIn(value) !== undefined || /^["']?v=/.test(value) || (host !== undefined && isWhole(host))
    if (type === '' || owner === '' || !isValue || likelyOwner(this.around)(owner) <= 0) return false
    const text = cells
      .map((cell) => cell.text)
      .filter(Boolean)
      .join(' ')
      .slice(0, 200)
    this.found.unread.push({ line, text, why: `“${type.slice(0, 40)}” is not a record type` })
    return true
  }

  /** A line of words that are a record; of a zone file, without its owner where that stands above. */
  private wordsAt(at: number): number | undefined {
    const whole = wholeLine(this.lines, at)
    const { next } = whole
    const line = { ...whole.line, text: answered(whole.line.text) ?? arrowed(whole.line.text) }
    const isZoneFile = this.origin !== undefined || /(?:^|\s)IN\s+[A-Z]{1,10}\s/.test(line.text)
    const arrows = {
      ...line,
      text: line.text
        .replace(/\s(?:->|=>|→|⇒|➔|➜)\s/g, ' ')
        .replace(/^\s*[-*•·▪]\s+/, '')
        .replace(/^\s*[A-Za-z][\w -]{1,20}:\s+(?=\S+\s)/, ''),
    }
    const candidate = asWords(arrows, isZoneFile ? (this.origin ?? this.zone) : undefined)
    const words = candidate.cells.map(({ text }) => text)
    if (words.length < 2 || words.length > 60 || speaksOfRecords(words)) return undefined
    const [first = ''] = words
    const inherits =
      /^\s/.test(line.text) &&
      this.lastOwner !== undefined &&
      isZoneFile &&
      (typeIn(first) !== undefined || /^IN$/i.test(first) || isNumber(first))
    const cells = inherits ? [{ text: this.lastOwner!, line: line.number }, ...candidate.cells] : candidate.cells
    if (!this.take({ ...candidate, cells }, true)) return undefined
    if (isZoneFile && !inherits) this.lastOwner = first
    this.flush()
    return next
  }

  /** A value that stands alone, or behind its name, below a sentence that says the type; returns the line behind it. */
  private alone(at: number): number | undefined {
    const line = this.lines[at]!
    const words = wordsOf(line.text.replace(/^\s*[-*•]\s+/, ''))
    // What can only be the text of a record ends the words above it.
    if (EVIDENT.test(line.text)) this.flush()
    const { context } = this
    if (
      this.prose.length > 0 ||
      words.length === 0 ||
      words.some((word) => typeIn(word) !== undefined && word === word.toUpperCase())
    )
      return undefined
    if (!context) return this.nameless(line) ? at + 1 : undefined
    const { type } = context
    const likely = likelyOwner(this.around)
    if (words.length === 2 && type !== TYPE.MX && fits(type, words[1]!) >= 2 && likely(words[0]!) > 0)
      return this.take(this.ofContext(type, words[0]!, words[1]!, line), true) ? at + 1 : undefined
    const { text, next } = this.strings(at)
    const isValue =
      type === TYPE.MX
        ? /^(?:\p{L}{2,12}\.?:?\s*)?\d{1,5}[\s:]+\S+$|^\S+\s+\(?(?:\p{L}{2,12}\.?:?\s*)?\d{1,5}\)?$/u.test(text) &&
          fits(TYPE.MX, text) >= 2
        : fits(type, text) >= 2 && (words.length <= 3 || type === TYPE.TXT)
    if (!isValue) return undefined
    if (context.owner === undefined)
      this.cleanedAt.set(line.number, [
        ...(this.cleanedAt.get(line.number) ?? []),
        'no name is stated: read as the domain itself',
      ])
    return this.take(this.ofContext(type, context.owner ?? '@', text, line), true) ? next : undefined
  }

  private ofContext(type: number, owner: string, value: string, { number: line }: Line): Candidate {
    const cells: Cell[] = [
      { role: 'type', text: typeText(type), line },
      { role: 'owner', text: owner, line },
      { role: 'value', text: value, line },
    ]
    return { line, last: line, cells }
  }

  /** A line, with the lines below that are strings in quotes as it is: they are one text. */
  private strings(at: number): { text: string; next: number } {
    let text = this.lines[at]!.text.trim().replace(/^[-*•]\s+/, '')
    let next = at + 1
    const isString = (line: string | undefined): boolean => line !== undefined && quotedStrings(line) !== undefined
    if (isString(text))
      for (; next < at + 30 && isString(this.lines[next]?.text); next++) text += ` ${this.lines[next]!.text.trim()}`
    return { text, next }
  }

  /** A text that can only be a record, and of which nobody says where it belongs. */
  private nameless({ text, number }: Line): boolean {
    if (!EVIDENT.test(text)) return false
    if (this.section !== 'current')
      this.found.unread.push({ line: number, text: text.trim().slice(0, 200), why: 'it states no name' })
    return true
  }

  /** Anything else is prose, read when its paragraph ends. */
  private told(line: Line, at: number): number {
    this.unnamed(line)
    if (/^\s*(?:[-*•·▪]|\d{1,3}[.)])\s/.test(line.text)) this.flush()
    this.prose.push(line)
    if (/:\s*$/.test(line.text)) this.flush()
    this.heading = this.heading && /^\s*\S+(?: \S+){3,}/.test(line.text) ? undefined : this.heading
    return at + 1
  }

  /** A name in the zone and where it leads, without a type: that is a record which nobody can know. */
  private unnamed({ text, number }: Line): void {
    const [, name = '', value = ''] = /^\s*(?:[-*•·▪]\s+)?(\S+)\s+(?:->|=>|→|⇒|➔|➜)\s+(\S+)\s*$/.exec(text) ?? []
    const target = hostIn(value)?.name
    if (hostIn(name) === undefined || likelyOwner(this.around)(name) <= 0) return
    if (addressIn(value) !== undefined || (target !== undefined && isWhole(target)))
      this.found.unread.push({ line: number, text: text.trim().slice(0, 200), why: 'it states no type' })
  }

  /** Reads the prose so far, sentence by sentence. */
  private flush(): void {
    const prose = this.prose
    if (prose.length === 0) return
    this.prose = []
    let text = ''
    const starts = prose.map((line) => {
      const at = text.length
      text += `${line.text.trim()} `
      return at
    })
    let from = 0
    for (const sentence of sentencesOf(text.trim())) {
      const at = text.indexOf(sentence, from)
      from = at + sentence.length
      const line =
        prose[
          Math.max(
            0,
            starts.findLastIndex((start) => start <= at),
          )
        ]!
      this.sentence(sentence, line.number)
    }
  }

  private sentence(sentence: string, line: number): void {
    const intent = intentOf(sentence)
    const isHeading = leadsIn(sentence)
    if (isHeading || intent === 'registrar') this.section = intent === 'add' ? undefined : intent
    const named = typeNamed(sentence)
    if (intent === 'registrar' && /name ?server|serveurs? de noms|servidor|\bNS\b/i.test(sentence)) {
      this.found.intents.push({ line, about: 'registrar', owner: this.zone, type: TYPE.NS })
      this.context = undefined
      return
    }
    const added = spfAdded(sentence)
    if (added !== undefined) {
      this.take(asText(added, line))
      return
    }
    const candidate = told(sentence, line, likelyOwner(this.around), this.zone)
    if (candidate === 'unclear')
      this.found.unread.push({
        line,
        text: sentence.slice(0, 200),
        why: 'it does not say clearly for which name, or with which value',
      })
    else if (candidate) {
      const before = this.section
      if (intent === 'delete' || intent === 'current' || intent === 'replace')
        this.section = intent === 'replace' ? 'replace' : intent
      if (!this.take(candidate, true) && this.section !== 'current')
        this.found.unread.push({
          line,
          text: sentence.slice(0, 200),
          why: 'it seems to state a record, and not one that can be written',
        })
      this.section = before
    }
    const domain = domainIn(sentence, this.zone)
    if (
      !candidate &&
      named === undefined &&
      leadsUntyped(sentence, likelyOwner(this.around), this.zone) &&
      this.section !== 'current'
    )
      this.found.unread.push({ line, text: sentence.slice(0, 200), why: 'it states no type' })
    if (named !== undefined || sentence.split(/\s+/).length > 2)
      this.context =
        named !== undefined && !candidate
          ? { type: named, owner: ownerIn(sentence, likelyOwner(this.around), this.zone) ?? domain }
          : undefined
    if (named !== undefined && !candidate) return
    if (domain !== undefined && isHeading && !candidate && domain !== '@') this.domain(domain)
  }

  /** Takes a candidate for what it is; false where it is none. `weak`: it may be something else. */
  private take(candidate: Candidate, weak = false): boolean {
    const blanks = [...new Set(candidate.cells.map(({ line }) => line)), candidate.line]
      .flatMap((line) => this.left.get(line) ?? [])
      .filter(
        ({ text }, i, all) =>
          all.findIndex((each) => each.text === text) === i && candidate.cells.some((cell) => cell.text.includes(text)),
      )
    const likely = likelyOwner(this.around)
    const parts = partsOf(candidate, likely)
    if (!parts) return false
    if ('feature' in parts) return this.feature(parts.feature, parts.owner, candidate)
    if (parts.type === TYPE.SOA) return true
    const shown = candidate.cells
      .map(({ text }) => text)
      .filter(Boolean)
      .join(' ')
      .slice(0, 200)
    if (blanks.length > 0) {
      // Which line each blank is on: a block has several.
      for (const { text, name } of blanks) {
        const line = candidate.cells.find((cell) => cell.text.includes(text))?.line ?? candidate.line
        this.found.blanks.push({ line, text, name })
      }
      return true
    }
    const made = recordFrom(parts, this.around, candidate.line, candidate.origin)
    if ('unread' in made) {
      if (weak && !this.seemsRecord(candidate)) return false
      if (this.section !== 'current') this.found.unread.push({ line: candidate.line, text: shown, why: made.unread })
      return true
    }
    if (made.damage !== undefined && /private key/.test(made.damage)) {
      this.found.secrets.push({ line: made.line, owner: made.owner, type: made.type, why: made.damage })
      return true
    }
    made.cleaned.unshift(...this.cleanedOn(candidate))
    made.cleaned = [...new Set(made.cleaned)]
    made.ttl ??= candidate.origin === undefined ? undefined : this.ttl
    this.put(made)
    return true
  }

  private cleanedOn({ line, last }: Candidate): string[] {
    const cleaned: string[] = []
    for (let number = line; number <= last; number++) cleaned.push(...(this.cleanedAt.get(number) ?? []))
    return cleaned
  }

  /** Whether words that make no record seem to be meant as one: a type in capitals, and something like a value. */
  private seemsRecord({ cells, told: isTold }: Candidate): boolean {
    if (isTold) return false
    const texts = cells.map(({ text }) => text)
    const at = texts.findIndex((text) => typeIn(text) !== undefined && text === text.toUpperCase())
    if (at < 0 || at > 4 || texts.length > 12) return false
    const isValue = (text: string): boolean => {
      const host = hostIn(text)?.name
      return (
        addressIn(text) !== undefined ||
        /^(?:"|v=)/i.test(text) ||
        /^\d+(?:\.\d+){2,}/.test(text) ||
        (host !== undefined && isWhole(host))
      )
    }
    // Plain words beside them make it a sentence.
    const plain = texts.filter((text, i) => i !== at && !isValue(text) && !/[\d@_"=]/.test(text))
    return plain.length <= 2 && texts.some((text, i) => i !== at && isValue(text))
  }

  private feature(feature: string, owner: string | undefined, { line, cells }: Candidate): boolean {
    const name = isEmpty(owner ?? '') || owner === '@' ? this.zone : hostIn(owner!)?.name
    if (name === undefined) return false
    if (/^(?:ALIAS|ANAME|FLATTEN|FLATTENED)$/.test(feature)) {
      const full = name === this.zone || name.endsWith('.') ? name : `${name}.`
      this.found.features.push({ line, feature, owner: full.endsWith(this.zone) ? full : `${name}.${this.zone}` })
    } else
      this.found.unread.push({
        line,
        text: cells
          .map(({ text }) => text)
          .filter(Boolean)
          .join(' ')
          .slice(0, 200),
        why: `${feature} is not a record type: a web server sends browsers on`,
      })
    return true
  }

  /** Puts a record to the others: once, and by what the words around it mean for it. */
  private put(row: Row): void {
    if (this.section === 'current') return
    const { owner, type, line } = row
    if (this.section === 'delete') {
      this.found.intents.push({ line, about: 'delete', owner, type, data: row.data })
      return
    }
    if (this.section === 'replace') this.found.intents.push({ line, about: 'replace', owner, type })
    const key = `${owner} ${type} ${rdataKey(type, row.data)}`
    const same = this.keys.get(key)
    if (same && row.damage === undefined) {
      same.ttl ??= row.ttl
      return
    }
    this.keys.set(key, row)
    this.found.rows.push(row)
  }
}

/** The domain that a sentence is about: the zone, or another one that it names as such. */
function domainIn(sentence: string, zone: Name): string | undefined {
  const names = wordsOf(sentence)
    .map((word) => hostIn(word.replace(/[.,:;]+$/, ''))?.name)
    .filter((name): name is string => name !== undefined && isWhole(name))
    .map((name) => (name.endsWith('.') ? name : `${name}.`))
  const inZone = names.find((name) => foldName(name).endsWith(zone))
  if (inZone !== undefined) return inZone
  if (/\bdomain\b/i.test(sentence) && names.length === 1) return names[0]
  return undefined
}

/** What a sentence wants added to the SPF record that is there, as a record of its own. */
function spfAdded(sentence: string): string | undefined {
  if (!/\bSPF\b/i.test(sentence) || /v=spf1/i.test(sentence)) return undefined
  const terms = [
    ...sentence.matchAll(/(?:^|[\s"'`])((?:include:[\w.-]+\w|ip4:[\d./]+\d|ip6:[0-9a-f:./]+|a:[\w.-]+\w))/gi),
  ].map(([, term]) => term!)
  return terms.length === 0 ? undefined : `v=spf1 ${[...new Set(terms)].join(' ')} ~all`
}

const asText = (value: string, line: number): Candidate => ({
  line,
  last: line,
  cells: [
    { role: 'type', text: 'TXT', line },
    { role: 'owner', text: '@', line },
    { role: 'value', text: value, line },
  ],
})

/** What several texts say, as one. */
export function together(all: readonly Instructions[]): Instructions {
  const keys = new Set<string>()
  const asked = new Set(all.flatMap((each) => [...each.asked]))
  const of = <K extends Exclude<keyof Instructions, 'asked'>>(key: K) => all.flatMap((each) => each[key] as never[])
  const rows = (of('rows') as Row[]).filter((row) => {
    const key = `${row.owner} ${row.type} ${rdataKey(row.type, row.data)}`
    return row.damage !== undefined || (!keys.has(key) && keys.add(key))
  })
  return {
    rows,
    blanks: of('blanks'),
    unread: of('unread'),
    notes: of('notes'),
    intents: of('intents'),
    features: of('features'),
    secrets: of('secrets'),
    asked,
  }
}

/** Names that are alike but for a digit that may be a letter: one of them is probably mistyped. */
function lookalikes(rows: readonly Row[]): { line: number; text: string }[] {
  const byShape = new Map<string, Set<string>>()
  const notes: { line: number; text: string }[] = []
  for (const { line, value } of rows)
    for (const whole of value.toLowerCase().match(/[a-z0-9-]+(?:\.[a-z0-9-]+)+/g) ?? []) {
      const name = whole.split('.').slice(-2).join('.')
      const shape = name.replace(/0/g, 'o').replace(/[1i]/g, 'l')
      const names = byShape.get(shape) ?? new Set()
      const other = [...names].find((each) => each !== name)
      if (other !== undefined && /[a-z]/.test(name))
        notes.push({ line, text: `${name} and ${other} differ in a digit that may be a letter` })
      byShape.set(shape, names.add(name))
    }
  return notes
}
