/** What a text says in sentences: records that are told, what the lines below are about, what is to be done with them. */
import { foldName, isAtOrBelow, type Name } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { bearingOf } from './accounting.ts'
import type { Candidate } from './candidate.ts'
import type { Collector } from './collector.ts'
import { correct, correctionIn } from './corrections.ts'
import { intentOf, leadsIn, wantsGone } from './intents.ts'
import {
  asksIn,
  clausesOf,
  isNegated,
  leadsUntyped,
  namesRecord,
  ownersIn,
  sentencesOf,
  told,
  typeNamed,
} from './layouts/sentences.ts'
import { wordsOf } from './layouts/words.ts'
import type { Line } from './text.ts'
import { hostIn, isWhole } from './values.ts'

/** The type and name that a sentence speaks of, for values that stand below it. */
export interface Context {
  type: number
  owner?: string
  /** Where it stands. */
  line: number
  last: number
}

const NAME_SERVERS = /name ?servers?(?!-)|serveurs? de noms|servidor|\bNS\b/i
const CHANGE =
  /\b(?:change|update|set|point|replace|switch|use|delegate|enter|ändern|ändere|eintragen|ersetzen|modifi\p{L}*|chang\p{L}*|cambi\p{L}*|wijzig\p{L}*|alter\p{L}*|zmie\p{L}*)/iu

/** Words that say that what follows is about a domain. */
const OF_DOMAIN =
  /(?:^|[^\p{L}])(?:for|at|on|domain|subdomain|zone|site|für|unter|pour|sur|domaine|para|en|dominio|per|su|voor|domein|dla|domena|för|til)(?=$|[^\p{L}])/iu

/** What is to be done only where something else is not so. */
const OTHERWISE = /^(?:otherwise|else|if|sonst|wenn|falls|sinon|si|se|als|anders)\b/i

/** A note of its own: `A record for …`. */
const BEGINS = /^\s*[A-Z]{1,6}(?:-|\s)(?:records?|eintr\p{L}+|rekord\p{L}*|post)\s/iu

export class Prose {
  context: Context | undefined
  private lines: Line[] = []
  /** Sentences that ask for a record and state none: it must stand below. */
  private readonly announced: { line: number; sentence: string; type: number; until?: number }[] = []
  /** How many of them stand above the last domain. */
  private ended = 0
  /** The domain that the lines below are about, and how much was found before it. */
  private leading: { line: number; text: string; count: number } | undefined
  /** Lines whose sentence is a record itself. */
  private readonly tells = new Set<number>()
  private readonly to: Collector

  constructor(to: Collector) {
    this.to = to
  }

  get isEmpty(): boolean {
    return this.lines.length === 0
  }

  /** Whether a sentence leads to a record: it asks for one, for a name or in the lines below, or is its type alone. */
  private isAnnounced(sentence: string, type: number): boolean {
    if (OTHERWISE.test(sentence)) return false
    const words = sentence.split(/\s+/).length
    const isExplained = /^[A-Z]{2,6} \([^()]{1,40}\)$/.test(sentence)
    if (words === 1 || isExplained || (words <= 3 && type !== TYPE.A && namesRecord(sentence))) return true
    if (!namesRecord(sentence)) return false
    const isLeading = /:\s*$/.test(sentence)
    const names = this.names(sentence).length
    return asksIn(sentence) ? isLeading || names > 0 : isLeading && names > 1
  }

  private announce(line: number, last: number, sentence: string, type: number): void {
    this.settle(line, last)
    this.announced.push({ line, sentence, type })
  }

  private settle(line: number, last: number): void {
    for (let number = line; number <= last; number++) this.to.settled.add(number)
  }

  /** Takes a line that is nothing else. An item of a list, and what leads to the lines below, end a paragraph. */
  add(line: Line): void {
    if (/^\s*(?:[-*•·▪]|\d{1,3}[.)])\s/.test(line.text) || BEGINS.test(line.text)) this.flush()
    this.lines.push(line)
    if (/:\s*$/.test(line.text)) this.flush()
  }

  private names(sentence: string): string[] {
    return ownersIn(sentence, this.to.likely, this.to.zone)
  }

  /** The name that a sentence is about, in full; the domain itself where it says none. */
  private ownerIn(sentence: string): Name {
    const [name] = this.names(sentence)
    if (name === undefined || name === '@') return this.to.zone
    const full = foldName(name.endsWith('.') ? name : `${name}.`)
    return isAtOrBelow(full, this.to.zone) ? full : `${foldName(name)}.${this.to.zone}`
  }

  /** What the text below a line is about. */
  domain(name: string, { number, text }: Pick<Line, 'number' | 'text'>): void {
    this.flush()
    this.ledToNothing()
    // A type that stands alone leads to nothing below another domain.
    for (const each of this.announced.slice(this.ended)) if (!/\s/.test(each.sentence)) each.until = number
    this.ended = this.announced.length
    const domain = foldName(name.endsWith('.') ? name : `${name}.`)
    this.to.around = { ...this.to.around, domain }
    if (domain !== this.to.zone) this.leading = { line: number, text, count: this.to.count }
  }

  /** Notes that a record has its type from a sentence. */
  used({ line, last }: Context): void {
    this.settle(line, last)
  }

  /** Says of a domain that stands for what is below it, and has nothing there, that it may be a part of a record. */
  private ledToNothing(): void {
    const { leading } = this
    this.leading = undefined
    if (leading && leading.count === this.to.count)
      this.to.unread(leading.line, leading.text, 'it names a domain, and no record of it follows')
  }

  /** Reads the prose so far, sentence by sentence. */
  flush(): void {
    const prose = this.lines
    if (prose.length === 0) return
    this.lines = []
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
      const last = prose[starts.findLastIndex((start) => start < from)] ?? line
      this.sentence(sentence, line.number, last.number)
    }
  }

  /** Reads what is left, and tells of what was announced and never came. */
  end(): void {
    this.flush()
    this.ledToNothing()
    const { rows, unread, blanks, secrets } = this.to.found
    const found: { line: number; type?: number }[] = [...rows, ...unread, ...blanks, ...secrets]
    const byType = new Map<number | undefined, number[]>()
    for (const { line, type } of found) {
      if (this.tells.has(line)) continue
      const lines = byType.get(type)
      if (lines) lines.push(line)
      else byType.set(type, [line])
    }
    for (const lines of byType.values()) lines.sort((a, b) => a - b)
    const all = found.map(({ line }) => line).sort((a, b) => a - b)
    for (const { line, sentence, type, until = Number.POSITIVE_INFINITY } of this.announced) {
      const of = Math.min(behind(line, byType.get(type)), behind(line, byType.get(undefined)))
      // A type that stands alone leads to the very next record, which does not state its own.
      const isNext = /[\s:]/.test(sentence) || (of === behind(line, all) && !this.to.typed.has(of))
      if (of >= until || !isNext) this.to.unread(line, sentence, 'it names a record, and no value of it')
    }
  }

  /** Whether a sentence takes back what stands above it; one that only may is read as a record, or as what the sentence before is about. */
  private corrects(sentence: string, line: number, isRecord: boolean): boolean {
    const correction = correctionIn(sentence)
    if (correction === undefined || (correction === 'maybe' && (isRecord || this.context !== undefined))) return false
    const owner = this.names(sentence).length === 1 ? this.ownerIn(sentence) : undefined
    return correct(sentence, { line, isSure: correction === 'sure', owner }, this.to)
  }

  private sentence(sentence: string, line: number, last: number, isAsked = false): void {
    const clauses = clausesOf(sentence)
    if (clauses.length > 1) {
      for (const clause of clauses) this.sentence(clause, line, last, asksIn(sentence))
      return
    }
    const intent = intentOf(sentence)
    const isHeading = leadsIn(sentence)
    if (isHeading || intent === 'registrar') this.to.section = intent === 'add' ? undefined : intent
    const named = typeNamed(sentence)
    if (intent === 'registrar' && NAME_SERVERS.test(sentence) && CHANGE.test(sentence)) {
      this.settle(line, last)
      this.to.found.intents.push({ line, about: 'registrar', owner: this.to.zone, type: TYPE.NS })
      this.context = undefined
      return
    }
    const added = spfAdded(sentence)
    if (added !== undefined) {
      this.settle(line, last)
      this.to.take(asText(added, this.names(sentence)[0] ?? '@', line))
      return
    }
    const candidate = told(sentence, line, this.to.likely, this.to.zone, isAsked)
    if (this.corrects(sentence, line, candidate !== undefined)) {
      this.settle(line, last)
      this.context = undefined
      return
    }
    // What is there now is told, and asks for nothing; of a sentence that asks for several, each must be understood.
    if ((candidate === 'unclear' || (isAsked && !candidate)) && intent !== 'current')
      this.to.unread(line, sentence, 'it does not say clearly for which name, or with which value')
    else if (candidate && candidate !== 'unclear') {
      this.settle(line, last)
      this.tells.add(line)
      const before = this.to.section
      if (intent === 'delete' || intent === 'current' || intent === 'replace')
        this.to.section = intent === 'replace' ? 'replace' : intent
      if (!candidate.map((each) => this.to.take(each, true)).every(Boolean))
        this.to.unread(line, sentence, 'it seems to state a record, and not one that can be written')
      this.to.section = before
    }
    if (!candidate && named !== undefined && wantsGone(sentence) && !isNegated(sentence) && !/\bTTL\b/.test(sentence))
      this.to.found.intents.push({ line, about: 'delete', owner: this.ownerIn(sentence), type: named })
    const domain = domainIn(sentence, this.to.zone)
    if (
      !candidate &&
      named === undefined &&
      (leadsUntyped(sentence, this.to.likely, this.to.zone) || asksForRecord(sentence, this.to.zone))
    ) {
      this.settle(line, last)
      this.to.unread(line, sentence, 'it states no type')
    }
    if (
      !candidate &&
      named !== undefined &&
      (intent === undefined || intent === 'add') &&
      this.isAnnounced(sentence, named) &&
      !isNegated(sentence)
    )
      this.announce(line, last, sentence, named)
    if (intent === 'current') this.settle(line, last)
    if (named !== undefined || !isHeading) this.context = undefined
    const [name, ...more] = named === undefined || candidate ? [] : this.names(sentence)
    if (named !== undefined && !candidate && more.length === 0)
      this.context = { type: named, owner: name ?? domain, line, last }
    if (named !== undefined && !candidate) return
    const { type: hasType, values } = bearingOf(sentence, this.to.zone)
    // A word in capitals beside it may be a type that is written wrongly.
    const isOwn = domain !== undefined && foldName(domain) === this.to.zone
    const isDomain =
      !hasType &&
      values <= (isOwn ? 0 : 1) &&
      !/["]|(?:^|\s)\d+\s/.test(sentence) &&
      !/(?:^|\s)(?!DNS\b)[A-Z]{2,}(?=\s|$)/.test(sentence)
    const leads = !/\s/.test(sentence.trim()) || /:\s*$/.test(sentence) || OF_DOMAIN.test(sentence)
    if (domain !== undefined && isHeading && !candidate && isDomain && leads) {
      this.domain(domain, { number: line, text: sentence })
      this.settle(line, last)
      this.to.stating.add(last)
    }
  }
}

/** The first of sorted lines that is behind another one; infinite where none is. */
function behind(line: number, lines: readonly number[] = []): number {
  let [from, to] = [0, lines.length]
  while (from < to) {
    const middle = (from + to) >> 1
    if (lines[middle]! > line) to = middle
    else from = middle + 1
  }
  return lines[from] ?? Number.POSITIVE_INFINITY
}

/** Whether a sentence asks for a record, of a type that nobody knows. */
function asksForRecord(sentence: string, zone: Name): boolean {
  if (!asksIn(sentence) || !namesRecord(sentence)) return false
  const { values, scoped, text } = bearingOf(sentence, zone)
  return values > 0 || scoped || text
}

/** The domain that a sentence is about: the zone, or another one that it names as such. */
function domainIn(sentence: string, zone: Name): string | undefined {
  const names = wordsOf(sentence)
    .map((word) => hostIn(word.replace(/(?<![.,:;])[.,:;]+$/, ''))?.name)
    .filter((name): name is string => name !== undefined && isWhole(name))
    .map((name) => (name.endsWith('.') ? name : `${name}.`))
  const inZone = names.find((name) => isAtOrBelow(name, zone))
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

const asText = (value: string, owner: string, line: number): Candidate => ({
  line,
  last: line,
  cells: [
    { role: 'type', text: 'TXT', line },
    { role: 'owner', text: owner, line },
    { role: 'value', text: value, line },
  ],
})
