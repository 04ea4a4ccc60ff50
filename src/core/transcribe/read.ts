/**
 * What a pasted text says: each layout finds candidates, each candidate becomes a record or a reason, every line is accounted for.
 * Nothing is made up: a record needs a type, a name, and a value of that type’s form.
 */
import { foldName, type Name } from '../names/name.ts'
import { octetsOf } from '../names/octets.ts'
import { parseTtl } from '../records/ttl.ts'
import { TYPE, typeText } from '../records/types.ts'
import { leftOver } from './accounting.ts'
import { type Candidate, type Cell, isEmpty } from './candidate.ts'
import { Collector, shownOf } from './collector.ts'
import { markConditions } from './conditions.ts'
import type { Instructions } from './instructions.ts'
import { PRIVATE_KEY } from './kinds.ts'
import type { Role } from './labels.ts'
import { blockAt, columnAt, goesOnSpf, groupAt, labelled, pairsAt } from './layouts/blocks.ts'
import { fromData } from './layouts/data.ts'
import { EmptyCells } from './layouts/empty-cells.ts'
import { fromMarkup } from './layouts/markup.ts'
import { speaksOfRecords } from './layouts/sentences.ts'
import { type Heading, headingOf, isRuler, rowAlone, rowBelow } from './layouts/tables.ts'
import { answered, arrowed, asWords, wholeLine, wordsOf } from './layouts/words.ts'
import { lookalikes } from './lookalikes.ts'
import { fits } from './parts.ts'
import { Prose } from './prose.ts'
import { type Line, linesOf } from './text.ts'
import { addressIn, hostIn, isBehindOwner, isWhole, quotedStrings, typeIn } from './values.ts'

/** Reads instructions for a zone. `given` fills blanks by their names. */
export function readInstructions(
  text: string,
  zone: Name,
  given: ReadonlyMap<string, string> = new Map(),
): Instructions {
  return new Reader(text, zone, given).read()
}

/** A value goes on over lines no further than this. */
const MOST_VALUE = 8192

/** Why cells are no record: what they lack. */
function whyNot({ cells }: Pick<Candidate, 'cells'>): string {
  const of = (role: Role): string => cells.find((cell) => cell.role === role)?.text.trim() ?? ''
  const type = of('type')
  if (type === '') return 'it states no type'
  if (typeIn(type) === undefined) return `“${type.slice(0, 40)}” is not a record type`
  return of('value') === '' ? 'it states no value' : 'it cannot be understood'
}

/** Whether a line below a heading is a row of it: it has what the heading’s first columns say, and not merely signs that part. */
const isRowOf = ({ columns, parting }: Heading, cells: readonly Cell[]): boolean =>
  parting === '\t' || parting === '|' || (cells.length === columns.length && columns.length > 2)

const EVIDENT = /^\s*(?:[-*•]\s+)?(?:[\w ]{1,12}:\s*)?["']?v=(?:spf1\s|DMARC1\s*;|DKIM1\s*;)/i

class Reader {
  private readonly to: Collector
  private readonly prose: Prose
  private readonly text: string
  private lines: Line[] = []
  private heading: Heading | undefined
  private empty = new EmptyCells()
  /** `$ORIGIN` of a zone file, and the owner of the line above. */
  private origin: Name | undefined
  private lastOwner: string | undefined

  constructor(text: string, zone: Name, given: ReadonlyMap<string, string>) {
    this.text = text
    this.to = new Collector(zone, text, given)
    this.prose = new Prose(this.to)
  }

  read(): Instructions {
    const { text, to } = this
    const markup = fromMarkup(text)
    for (const candidate of markup?.candidates ?? []) this.must(this.cleaned(candidate))
    this.lines = linesOf(text)
      .filter(({ number }) => !markup?.lines.has(number))
      .map((line) => this.to.filled(line))
    const data = markup ? undefined : fromData(this.lines)
    for (const candidate of data?.candidates ?? []) this.must(candidate)
    const all = this.lines
    if (data) this.lines = all.filter((_, i) => i < data.first || i > data.last)
    for (const line of data ? all.slice(data.first, data.last + 1) : []) this.to.settled.add(line.number)
    for (let at = 0; at < this.lines.length; ) at = this.step(at) ?? this.told(this.lines[at]!, at)
    this.prose.end()
    to.settleOrders()
    for (const { line, why } of leftOver(all, to, to.count > 0)) to.unread(line.number, line.text, why)
    if (to.found.secrets.length === 0) this.secretIn()
    for (const list of [to.found.rows, to.found.unread, to.found.blanks]) list.sort((a, b) => a.line - b.line)
    for (const { line, odd } of to.found.rows) if (odd !== undefined) to.found.notes.push({ line, text: odd })
    to.found.notes.push(...lookalikes(to.found.rows))
    markConditions(this.text, to.found.rows)
    return to.found
  }

  /** Takes cells that are a row by their layout, or says that it cannot. */
  private must(candidate: Candidate): void {
    if (!this.to.take(candidate)) this.cannotRead(candidate)
  }

  /** Says of cells that are no record what they lack, where they are meant as one. */
  private cannotRead(candidate: Candidate): void {
    if (!this.isMeant(candidate)) return
    this.to.unread(candidate.line, shownOf(candidate), whyNot(candidate))
    for (let line = candidate.line; line <= candidate.last; line++) this.to.settled.add(line)
  }

  /** Whether cells are meant as a record: a type with something beside it, or a name and a value. */
  private isMeant({ cells }: Candidate): boolean {
    const of = (role: Role): string => cells.find((cell) => cell.role === role)?.text ?? ''
    const [type, owner, value] = [of('type'), of('owner') || of('selector') || of('service'), of('value')]
    if (typeIn(type) !== undefined) return (owner !== '' && !isEmpty(owner)) || (value !== '' && !isEmpty(value))
    const host = hostIn(value)?.name
    const isValue =
      addressIn(value) !== undefined ||
      /^["']?v=|^\d+\s+\S|^[A-Za-z0-9+/]{40}/.test(value) ||
      quotedStrings(value) !== undefined ||
      (host !== undefined && isWhole(host))
    const likely = owner === '' ? 0 : this.to.likely(owner)
    return likely >= 3 ? value !== '' : likely > 0 && isValue
  }

  /** A private key that stands anywhere: whoever was sent it must know. */
  private secretIn(): void {
    const line = linesOf(this.text).find((each) => PRIVATE_KEY.test(each.text))
    if (line) this.to.unread(line.number, line.text, 'it is a private key, which must never be published or sent')
  }

  /** Cells of markup, cleaned as lines are. */
  private cleaned(candidate: Candidate): Candidate {
    return {
      ...candidate,
      cells: candidate.cells.map((cell) => {
        const [line] = linesOf(cell.text.replace(/\s+/g, ' '))
        return { ...cell, text: this.to.filled({ ...line!, number: cell.line }).text }
      }),
    }
  }

  /** Reads what begins at a line; returns the line behind it, undefined where it is prose. */
  private step(at: number): number | undefined {
    const line = this.lines[at]!
    const { text } = line
    if (text.trim() === '' || isRuler(text)) {
      this.prose.flush()
      return at + 1
    }
    if (this.directive(text)) return this.passed(at)
    if (/^\s*(?:```|~~~)/.test(text) || (/^\s*;/.test(text) && this.heading?.parting !== ';')) return this.passed(at)
    const column = columnAt(this.lines, at)
    if (column) return this.all(column.candidates, column.next, line)
    const pairs = pairsAt(this.lines, at)
    if (pairs) return this.all([pairs.candidate], pairs.next, line)
    const group = groupAt(this.lines, at)
    if (group && this.to.take(group.candidate, true)) {
      this.prose.flush()
      return group.next
    }
    const heading = headingOf(line)
    if (heading) {
      this.prose.flush()
      this.heading = heading
      this.empty = new EmptyCells()
      return this.passed(at)
    }
    if (labelled(line).length > 0) {
      const block = blockAt(this.lines, at)
      if (block && this.block(block.candidate)) return block.next
    }
    // Lines of a zone file, and what a parenthesis holds together, are read by their words.
    const isLong = wholeLine(this.lines, at).next > at + 1 || (!this.heading && /\sIN\s+[A-Z]{1,10}\s/.test(text))
    return (isLong ? undefined : (this.row(at) ?? this.alone(at))) ?? this.wordsAt(at)
  }

  /** Lines that are understood, and of which nothing more is to come. */
  private passed(at: number, next = at + 1): number {
    for (const { number } of this.lines.slice(at, next)) this.to.settled.add(number)
    return next
  }

  /** Takes the rows below labels, which begin at a line. */
  private all(candidates: readonly Candidate[], next: number, { number: from }: Line): number {
    this.prose.flush()
    for (let line = from; line < candidates[0]!.line; line++) this.to.settled.add(line)
    for (const candidate of candidates) this.must(candidate)
    return next
  }

  /** `$ORIGIN` and `$TTL` of a zone file. */
  private directive(text: string): boolean {
    const [, word, value = ''] = /^\s*\$(ORIGIN|TTL)\s+(\S+)/i.exec(text) ?? []
    if (word === undefined) return false
    const octets = octetsOf(value)
    const ttl = parseTtl(octets, 0, octets.length)
    if (word.toUpperCase() === 'ORIGIN')
      this.origin = foldName(value.endsWith('.') ? value : `${value}.${this.to.zone}`)
    else if (ttl >= 0) this.to.ttl = ttl
    return true
  }

  /** Labels of one record; of a domain alone, they say what the names below belong to. */
  private block(candidate: Candidate): boolean {
    const { cells } = candidate
    // “Delete:” is a heading.
    if (cells.every(({ role, text }) => role === 'nothing' && text === '')) return false
    if (cells.every(({ role }) => role === 'nothing')) {
      this.prose.flush()
      return true
    }
    const said = cells.filter(({ role }) => role !== 'nothing')
    const [only] = said
    if (said.length === 1 && only!.role === 'owner') {
      const name = hostIn(only!.text)?.name
      if (name === undefined || !isWhole(name)) return false
      this.to.settled.add(only!.line)
      this.prose.domain(name, { number: only!.line, text: only!.text })
      return true
    }
    if (!said.some(({ role }) => role === 'value') && said.length < 3) return false
    this.prose.flush()
    const { context } = this.prose
    if (this.to.take(candidate)) return true
    const line = candidate.line
    const parts = said.filter(({ role }) => role === 'type' || role === 'owner' || role === 'value')
    // The type may stand in the heading above.
    if (
      context &&
      this.to.take({ ...candidate, cells: [{ role: 'type', text: typeText(context.type), line }, ...cells] })
    ) {
      this.prose.used(context)
      return true
    }
    const has = (role: Role): boolean => cells.some((cell) => cell.role === role && cell.text !== '')
    if (!((has('owner') || has('selector')) && has('value')) && (parts.length < 2 || !has('type'))) return false
    this.cannotRead(candidate)
    return true
  }

  /** A row of a table, below its heading or by itself; returns the line behind it. */
  private row(at: number): number | undefined {
    const { line, next: behind } = this.spfOver(this.quotedOver(at))
    const below = this.heading && rowBelow(this.heading, line)
    if (below && below.filter(({ text }) => text !== '').length > 1) {
      const next = this.wrapped(below, behind)
      const cells = this.empty.filled(below)
      const candidate = { line: line.number, last: this.lines[next - 1]!.number, cells }
      if (this.to.take(candidate) || this.takeInContext(candidate)) {
        this.prose.flush()
        return next
      }
      const words = this.wordsAt(at)
      if (words !== undefined) return words
      if (isRowOf(this.heading!, below)) {
        this.cannotRead(candidate)
        this.prose.flush()
        return next
      }
    }
    const [only, ...more] = below?.filter(({ text }) => text !== '') ?? []
    if (
      only?.role === 'owner' &&
      more.length === 0 &&
      below!.length > 1 &&
      this.heading!.parting !== '  ' &&
      (/[\t|]/.test(this.heading!.parting) || below!.length === this.heading!.columns.length)
    ) {
      this.to.unread(line.number, line.text, 'it states no value')
      return behind
    }
    const alone = rowAlone(line)
    if (!alone || !this.to.take({ line: line.number, last: this.lines[behind - 1]!.number, cells: alone }, true))
      return undefined
    this.prose.flush()
    return behind
  }

  /** Takes a row of a table that has no column for the type, below a sentence that says it. Of mail exchangers, “Host” is then the exchange. */
  private takeInContext(candidate: Candidate): boolean {
    const { context } = this.prose
    const { cells, line } = candidate
    if (!context || cells.some(({ role }) => role === 'type')) return false
    const has = (role: Role): boolean => cells.some((cell) => cell.role === role)
    const turned = has('value')
      ? cells
      : cells.map((cell) => (cell.role === 'owner' ? { ...cell, role: 'value' as const } : cell))
    const owner: Cell[] = turned.some(({ role }) => role === 'owner')
      ? []
      : [{ role: 'owner', text: context.owner ?? '@', line }]
    const type: Cell = { role: 'type', text: typeText(context.type), line }
    if (!this.to.take({ ...candidate, cells: [type, ...owner, ...turned] })) return false
    this.prose.used(context)
    return true
  }

  /** A row whose SPF record has its other terms on the lines below. */
  private spfOver({ line, next }: { line: Line; next: number }): { line: Line; next: number } {
    let [text, at] = [line.text, next]
    const start = text.search(/\bv=spf1\b/i)
    if (start < 0) return { line, next }
    for (; at < this.lines.length && goesOnSpf(text.slice(start), this.lines[at]!.text); at++)
      text += ` ${this.lines[at]!.text.trim()}`
    return { line: { ...line, text }, next: at }
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
      if (goesOnSpf(value.text, line.text)) {
        value.text += ` ${line.text.trim()}`
        continue
      }
      if (told.length !== 1 || told[0]!.role !== 'value' || headingOf(line) || !/^[\s|\t]/.test(line.text)) break
      value.text += `\n${told[0]!.text}`
    }
    return at
  }

  /** A type and a name, and the value alone on the next line; returns the line behind that. */
  private valueBelow(at: number, line: Line): number | undefined {
    const words = wordsOf(line.text)
    const below = this.lines[at + 1]
    const [type, name, more] = [typeIn(words[0] ?? ''), words[1] ?? '', wordsOf(below?.text ?? '')]
    if (!below || words.length !== 2 || type === undefined || this.to.likely(name) <= 0 || more.length !== 1)
      return undefined
    if (typeIn(more[0]!) !== undefined || fits(type, more[0]!) < 2) return undefined
    const candidate = this.ofContext(type, name, more[0]!, line)
    if (!this.to.take({ ...candidate, last: below.number }, true)) return undefined
    this.prose.flush()
    return at + 2
  }

  /** A line of words that are a record; of a zone file, without its owner where that stands above. */
  private wordsAt(at: number): number | undefined {
    const whole = wholeLine(this.lines, at)
    const { next } = whole
    const below = this.valueBelow(at, whole.line)
    if (below !== undefined) return below
    const line = { ...whole.line, text: answered(whole.line.text) ?? arrowed(whole.line.text) }
    const isZoneFile = this.origin !== undefined || /(?:^|\s)IN\s+[A-Z]{1,10}\s/.test(line.text)
    const arrows = {
      ...line,
      text: line.text
        .replace(/\s(?:->|=>|→|⇒|➔|➜)\s/g, ' ')
        .replace(/^\s*(?:[-•·▪]|\*(?!\s+[A-Z]{1,6}\s))\s+/, '')
        .replace(/^\s*[A-Za-z][\w -]{1,20}:\s+(?=\S+\s)/, ''),
    }
    const isLed = /(?:->|=>|→|⇒|➔|➜)/.test(whole.line.text)
    const candidate = { ...asWords(arrows, isZoneFile ? (this.origin ?? this.to.zone) : undefined), isLed }
    const words = candidate.cells.map(({ text }) => text)
    if (words.length < 2 || words.length > 60 || speaksOfRecords(words)) return undefined
    const [first = ''] = words
    const inherits = /^\s/.test(line.text) && this.lastOwner !== undefined && isZoneFile && isBehindOwner(first)
    const cells = inherits ? [{ text: this.lastOwner!, line: line.number }, ...candidate.cells] : candidate.cells
    if (!this.to.take({ ...candidate, cells }, true)) return undefined
    if (isZoneFile && !inherits) this.lastOwner = first
    this.prose.flush()
    return this.passed(at, next)
  }

  /** A value that stands alone, or behind its name, below a sentence that says the type; returns the line behind it. */
  private alone(at: number): number | undefined {
    const line = this.lines[at]!
    const words = wordsOf(line.text.replace(/^\s*[-*•]\s+/, ''))
    // What can only be the text of a record ends the words above it.
    if (EVIDENT.test(line.text)) this.prose.flush()
    const { context } = this.prose
    if (
      !this.prose.isEmpty ||
      words.length === 0 ||
      words.some((word) => typeIn(word) !== undefined && word === word.toUpperCase())
    )
      return undefined
    if (!context) return this.nameless(line) ? at + 1 : undefined
    const { type } = context
    const likely = this.to.likely
    if (words.length === 2 && type !== TYPE.MX && fits(type, words[1]!) >= 2 && likely(words[0]!) > 0) {
      if (!this.to.take(this.ofContext(type, words[0]!, words[1]!, line), true)) return undefined
      this.prose.used(context)
      return at + 1
    }
    const { text, next } = this.strings(at)
    const isValue =
      type === TYPE.MX
        ? /^(?:\p{L}{2,12}\.?:?\s*)?\d{1,5}[\s:]+[^\s:]\S*$|^\S+\s+\(?(?:\p{L}{2,12}\.?:?\s*)?\d{1,5}\)?$/u.test(
            text,
          ) && fits(TYPE.MX, text) >= 2
        : fits(type, text) >= 2 && (words.length <= 3 || type === TYPE.TXT)
    if (!isValue) return undefined
    if (context.owner === undefined) this.to.cleaned(line.number, 'no name is stated: read as the domain itself')
    const isMissing = context.owner === undefined && type === TYPE.CNAME
    const candidate = this.ofContext(type, context.owner ?? '@', text, line)
    if (!this.to.take({ ...candidate, doubt: isMissing ? 'its name is missing' : undefined }, true)) return undefined
    this.prose.used(context)
    return this.passed(at, next)
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
    this.to.unread(number, text, 'it states no name')
    return true
  }

  /** Anything else is prose, read when its paragraph ends. */
  private told(line: Line, at: number): number {
    this.unnamed(line)
    this.prose.add(line)
    this.heading = this.heading && /^\s*\S+(?: \S+){3,}/.test(line.text) ? undefined : this.heading
    return at + 1
  }

  /** A name in the zone and where it leads, without a type: that is a record which nobody can know. */
  private unnamed({ text, number }: Line): void {
    const [, name = '', value = ''] = /^\s*(?:[-*•·▪]\s+)?(\S+)\s+(?:->|=>|→|⇒|➔|➜)\s+(\S+)\s*$/.exec(text) ?? []
    const target = hostIn(value)?.name
    if (hostIn(name) === undefined || this.to.likely(name) <= 0) return
    if (addressIn(value) !== undefined || (target !== undefined && isWhole(target)))
      this.to.unread(number, text, 'it states no type')
  }
}
