/** Which cell of a candidate is what: by what is in it; a heading or label helps. */
import { trimmedLines } from '../lines.ts'
import { atHosts } from '../records/host-types.ts'
import { TYPE } from '../records/types.ts'
import { type Candidate, type Cell, isEmpty } from './candidate.ts'
import { kindOfText } from './kinds.ts'
import type { Role } from './labels.ts'
import {
  addressIn,
  hostIn,
  isNumber,
  isWhole,
  preferenceIn,
  quotedStrings,
  ttlIn,
  typeIn,
  unwrapped,
} from './values.ts'

/** The parts of one record, as they stand. */
export interface Parts {
  type: number
  /** Undefined where no cell says it; empty for a cell that is. */
  owner?: string
  value: string
  /** `auto`: the host chooses. */
  ttl?: number | 'auto'
  others: Partial<Record<Role, string>>
  /** Another reading of the same cells, where this one makes no record. */
  instead?: () => Parts | undefined
}

/** A feature of hosting companies where a type is expected. */
export interface Feature {
  feature: string
  owner?: string
}

/** What a name must look like to be the owner in your zone; the higher, the likelier. */
export type Likely = (text: string) => number

/** The parts of a candidate, or why it cannot be one; undefined where it states no type. */
export function partsOf(candidate: Candidate, likely: Likely): Parts | Feature | undefined {
  if (candidate.words) return fromWords(candidate.cells, likely)
  return (
    fromLabels(candidate.cells, likely) ??
    fromLoose(
      candidate.cells.filter(({ text }) => text !== ''),
      likely,
    )
  )
}

function fromLabels(cells: readonly Cell[], likely: Likely): Parts | Feature | undefined {
  const of = (role: Role): string | undefined => {
    const found = cells.filter((cell) => cell.role === role)
    return (found.find(({ text }) => !isEmpty(text)) ?? found[0])?.text
  }
  const values = cells.filter(({ role, text }) => role === 'value' && !isEmpty(text))
  if (values.length === 0) return undefined
  const typeText = of('type')
  const feature = featureIn(typeText)
  if (feature) return { feature, owner: of('owner') }
  // “MX 10” and “MX (10)” tell the preference with the type.
  const [, word = typeText ?? '', level] =
    /^\s*([A-Za-z]{1,10})\s{0,9}[ (]\s{0,9}(\d{1,5})\s{0,9}\)?\s*$/.exec(typeText ?? '') ?? []
  const type = typeIn(word) ?? typeOf(cells, values[0]!.text)
  if (type === undefined) return undefined
  const ttl = of('ttl')
  const loose = cells.filter(({ text }) => text !== '')
  const others = Object.fromEntries(
    cells
      .filter(({ role, text }) => role !== undefined && !isEmpty(text))
      .map(({ role, text }) => [role, NUMBERS.has(role!) ? numberIn(text) : text]),
  )
  return {
    type,
    owner: of('owner') ?? of('service') ?? ofSelector(type, of('selector')),
    value: values.find(({ text }) => fits(type, text) > 0)?.text ?? values[0]!.text,
    ttl: ttl === undefined ? undefined : ttlIn(ttl.replace(/(?<!\s)\s*\([^()]*\)$/, ''), true),
    others: level === undefined ? others : { priority: level, ...others },
    instead: () => {
      const other = fromLoose(loose, likely)
      return other && 'type' in other ? other : undefined
    },
  }
}

/** A DKIM key is at its selector below _domainkey (RFC 6376 §3.6.2.1). */
const ofSelector = (type: number, selector: string | undefined): string | undefined =>
  selector === undefined || (type !== TYPE.TXT && type !== TYPE.CNAME) ? undefined : `${unwrapped(selector)}._domainkey`

const NUMBERS = new Set<Role>(['priority', 'weight', 'port', 'flags', 'usage', 'selector', 'matching'])
/** The number of a cell that explains it: `10 (highest)`. */
const numberIn = (text: string): string => /^(\d{1,10})\s*[(,;:]/.exec(text)?.[1] ?? text.trim()

/** The type of a record that does not say it, by the parts that only one type has. */
function typeOf(cells: readonly Cell[], value: string): number | undefined {
  const has = (...roles: Role[]): boolean =>
    roles.every((role) => cells.some((cell) => cell.role === role && !isEmpty(cell.text)))
  if (has('port') && (has('service') || has('weight'))) return TYPE.SRV
  if (has('priority') && !has('port') && !has('type') && fits(TYPE.MX, value) >= 2) return TYPE.MX
  const text = quotedStrings(value)?.join('') ?? value
  if (/^v=(?:spf1|DMARC1|DKIM1)\b/i.test(text) && has('owner')) return TYPE.TXT
  // A name and an address are an address record, whatever stands beside them.
  const address = has('owner') && !has('type') ? addressIn(value) : undefined
  if (address) return address.octets.length === 4 ? TYPE.A : TYPE.AAAA
  return cells
    .map(({ role, text: each }) => (role === undefined ? typeIn(each) : undefined))
    .find((each) => each !== undefined)
}

function featureIn(text: string | undefined): string | undefined {
  const word = text?.trim().split(/\s+/)[0] ?? ''
  return word !== '' && typeIn(text!) === undefined ? atHosts(word) && word.toUpperCase() : undefined
}

/** What web pages have beside records. */
const OF_PAGES =
  /^(?:dns only|proxied|not proxied|edit|delete|edit delete|can't edit|active|inactive|enabled|disabled|on|off|copy|verified|unverified|pending|ok|yes|no|true|false|required|optional|[✓✔✗✘✕])$/i
const FILLER = /^(?:IN|->|→|=>|⇒|➔|➜|:|=|[-–—•*·▪]|\d+\.|to|points|record|records?:)$/

/** Cells without labels, each whole: a type, and the rest by content. */
function fromLoose(cells: readonly Cell[], likely: Likely, most = 8): Parts | Feature | undefined {
  const at = cells.findIndex(({ text }) => typeIn(text) !== undefined)
  if (at < 0) return undefined
  const type = typeIn(cells[at]!.text)!
  // A star in front of the type is a name, and no bullet.
  const isFiller = (text: string, i: number): boolean => FILLER.test(text) && !(text === '*' && i + 1 === at)
  const rest = cells.filter(({ text }, i) => i !== at && !isFiller(text.trim(), i) && !OF_PAGES.test(text.trim()))
  const service = type === TYPE.SRV ? serviceIn(rest) : undefined
  const numbers: LooseNumber[] = []
  const names: string[] = []
  let ttl: number | 'auto' | undefined
  for (const cell of rest) {
    if (cell === service?.service || cell === service?.protocol) continue
    const { text } = cell
    const time = ttlIn(text)
    const preference = preferenceIn(text)
    if (preference !== undefined) numbers.push({ text: preference, before: false, at: cells.indexOf(cell) })
    else if (isNumber(text)) numbers.push({ text, before: cells.indexOf(cell) < at, at: cells.indexOf(cell) })
    else if (time !== undefined && ttl === undefined) ttl = time
    else if (!isEmpty(text) || names.length === 0) names.push(text)
  }
  if (names.length > most) return undefined
  const [owner, value] = pairOf(type, names, likely)
  if (value === undefined) return undefined
  const others = numbersOf(
    type,
    value,
    numbers,
    cells.findIndex(({ text }) => text === value),
  )
  const own = others.ttl === undefined ? undefined : Number(others.ttl)
  const parts = service ? { service: service.service.text, protocol: service.protocol.text } : {}
  return { type, owner, value, ttl: ttl ?? own, others: { ...others, ...parts } }
}

/** A number in a cell without a label: in front of the type, and in which cell. */
interface LooseNumber {
  text: string
  before: boolean
  at: number
}

/** The cells of an SRV record that have its service and its protocol, each by itself. */
function serviceIn(cells: readonly Cell[]): { service: Cell; protocol: Cell } | undefined {
  const protocol = cells.find(({ text }) => /^_(?:tcp|udp|tls|sctp)$/i.test(text.trim()))
  const service = cells.find((cell) => cell !== protocol && /^_[a-z0-9][a-z0-9-]*$/i.test(cell.text.trim()))
  return protocol && service && { service, protocol }
}

/** Of several texts the one that is the owner, and the one that is the value. */
function pairOf(type: number, names: readonly string[], likely: Likely): [string | undefined, string | undefined] {
  if (names.length === 0) return [undefined, undefined]
  if (names.length === 1) return fits(type, names[0]!) > 0 ? [undefined, names[0]] : [names[0], undefined]
  // Two short names stand in the order in which people say them.
  if (names.length === 2 && names.every((name) => fits(type, name) < 1) && fits(type, names[1]!) > 0)
    return [names[0], names[1]]
  // The name and then the value, as most tables have them.
  if (fits(type, names[1]!) >= 1 && likely(names[0]!) > 0) return [names[0], names[1]]
  let best: [number, number, number] = [Number.NEGATIVE_INFINITY, 0, 1]
  const few = names.slice(0, 8)
  for (const [o, owner] of few.entries())
    for (const [v, value] of few.entries()) {
      if (o === v || fits(type, value) <= 0) continue
      const score = fits(type, value) + likely(owner) - likely(value) + (o < v ? 0.5 : 0)
      if (score > best[0]) best = [score, o, v]
    }
  return best[0] === Number.NEGATIVE_INFINITY ? [names[0], names[1]] : [few[best[1]], few[best[2]]]
}

/** How much a text looks like the value of a type: 0 where it cannot be one. */
export function fits(type: number, text: string): number {
  const tokens = text.trim().split(/\s+/)
  if (type === TYPE.A || type === TYPE.AAAA) {
    const address = addressIn(text)
    return address && (address.octets.length === 4) === (type === TYPE.A) ? 3 : 0
  }
  if (type === TYPE.TXT) {
    const strings = quotedStrings(text)
    if (strings) return 3
    if (kindOfText(text.trim()) !== 'text' || /^v=/i.test(text.trim())) return 3
    return text.trim() === '@' || isEmpty(text) ? 0 : text.startsWith('_') ? 0.1 : 1
  }
  if (type === TYPE.CAA || type === TYPE.TLSA || type === TYPE.DS || type === TYPE.SSHFP)
    return /^\d+\s/.test(text.trim()) ? 3 : 0.5
  if (tokens.length > 6) return 0
  if ((type === TYPE.MX || type === TYPE.SRV) && tokens.at(-1) === '.') return 2
  return Math.max(0, ...tokens.filter((token) => !isNumber(token)).map((token) => asTarget(hostIn(token)?.name)))
}

/** Whether a text is a value of a type, and of no other. */
export function isOnlyOf(type: number, text: string): boolean {
  const words = text.trim().split(/\s+/)
  const numbers = words.slice(0, -1).filter(isNumber).length
  if (type === TYPE.MX || type === TYPE.SRV)
    return words.length === numbers + 1 && numbers === (type === TYPE.MX ? 1 : 3) && fits(type, text) >= 2
  if (type === TYPE.CAA) return /^\d{1,3}\s+[a-z]+\s/i.test(text)
  if (type === TYPE.TXT && addressIn(text) !== undefined) return false
  if (type === TYPE.TXT) return fits(type, text) >= 3 || /^[^\s.]+[=:]\S|^[^.]{3,}\s[^.]{3,}$/.test(text)
  return fits(type, text) >= 3 && addressIn(text) !== undefined
}

function asTarget(name: string | undefined): number {
  if (name === undefined) return 0
  if (name.endsWith('.')) return 3
  return isWhole(name) && !name.startsWith('_') ? 2 : name === '@' ? 0.3 : 0.2
}

/** What numbers beside a value are: those that the type has still to be told, and a TTL. */
function numbersOf(
  type: number,
  value: string,
  numbers: readonly LooseNumber[],
  valueAt = -1,
): Partial<Record<Role, string>> {
  const wanted: Role[] = type === TYPE.MX ? ['priority'] : type === TYPE.SRV ? ['priority', 'weight', 'port'] : []
  const told = value.trim().split(/\s+/).filter(isNumber).length
  const missing = wanted.slice(0, Math.max(0, wanted.length - told))
  if (missing.length === 0) return numbers.length === 1 ? { ttl: numbers[0]!.text } : {}
  if (numbers.length === missing.length)
    return named(
      missing,
      numbers.map(({ text }) => text),
    )
  if (numbers.length !== missing.length + 1) return {}
  // One more is a TTL: the one that stands before the type alone, or the only one that is as large as times are.
  const first = numbers[0]!
  const large = numbers.filter(({ text }) => Number(text) >= 60)
  const behind = valueAt < 0 ? [] : numbers.filter(({ at }) => at > valueAt)
  const ttl =
    first.before && numbers.filter(({ before }) => before).length === 1 && type === TYPE.SRV
      ? first
      : large.length === 1
        ? large[0]
        : // Priority, weight and port stand in front of the target, and one number behind it.
          behind.length === 1 && large.includes(behind[0]!)
          ? behind[0]
          : undefined
  if (!ttl) return {}
  return {
    ...named(
      missing,
      numbers.filter((each) => each !== ttl).map(({ text }) => text),
    ),
    ttl: ttl.text,
  }
}

const named = (roles: readonly Role[], texts: readonly string[]): Partial<Record<Role, string>> =>
  Object.fromEntries(roles.map((role, i) => [role, texts[i]!]))

/** Words of a line: as a line of a zone file, else with the type in front, else by content alone. */
function fromWords(cells: readonly Cell[], likely: Likely): Parts | Feature | undefined {
  const words = cells
    .map(({ text }) => text)
    .filter(
      (text, i, all) =>
        !(i === 0 && /^(?:[-•*·▪]|\d{1,3}[.)])$/.test(text) && !(text === '*' && typeIn(all[1] ?? '') !== undefined)),
    )
  const exact = words.findIndex((word, i) => i < 5 && typeIn(word) !== undefined && /[A-Z]/.test(word))
  const at = exact >= 0 ? exact : words.findIndex((word, i) => i < 5 && typeIn(word) !== undefined)
  if (at < 0) {
    const last = words.length - 1
    if (last >= 2 && typeIn(words[last]!) !== undefined) {
      const loose = fromLoose(
        words.map((text) => ({ text, line: 0 })),
        likely,
        2,
      )
      return loose && ('feature' in loose || isSure(loose.type, loose.value)) ? loose : undefined
    }
    const feature = words.slice(0, 2).find((word) => /^[A-Z]{5,}$/.test(word) && featureIn(word))
    return feature === undefined || words.length < 3
      ? undefined
      : { feature, owner: words.find((word) => word !== feature) }
  }
  const type = typeIn(words[at]!)!
  const before = words.slice(0, at).filter((word) => !/^IN$/i.test(word))
  const after = words.slice(at + 1)
  const times = before.filter((word) => ttlIn(word, true) !== undefined)
  const owners = before.filter((word) => ttlIn(word, true) === undefined && !FILLER.test(word))
  const ttl = times.length === 1 ? ttlIn(times[0]!, true) : undefined
  if (owners.length <= 1 && times.length <= 1 && after.length > 0) {
    // A line as name servers have it, or one without an owner.
    const whole: Parts = { type, owner: owners[0], value: after.join(' '), ttl, others: {} }
    const front = owners.length === 0 && after.length > 1 ? typeFirst(type, after, likely) : undefined
    // The value in front, and the name behind: that is no line of a zone file.
    const isTurned =
      type !== TYPE.PTR &&
      !words.some((word) => word === 'IN') &&
      owners.length > 0 &&
      after.length === 1 &&
      likely(owners[0]!) < 0 &&
      likely(after[0]!) >= 3
    const isOwn =
      isTurned || (type === TYPE.TXT && !isSure(type, whole.value))
        ? false
        : owners.length > 0
          ? wholeValue(type, after)
          : wholeValue(type, after) && !front
    if (isOwn) return whole
    if (front && isSure(type, front.value)) return { ...front, ttl: front.ttl ?? ttl }
  }
  // More words than a name and a value are a sentence; so are words of which none can be told to be a value.
  const loose = fromLoose(
    words.map((text) => ({ text, line: 0 })),
    likely,
    2,
  )
  if (loose && ('feature' in loose || isSure(loose.type, loose.value))) return loose
  return owners.length <= 1 && after.length > 0 && type !== TYPE.TXT
    ? { type, owner: owners[0], value: after.join(' '), ttl, others: {} }
    : undefined
}

/** Whether a value can be nothing else: of plain words, none is. */
const isSure = (type: number, value: string): boolean =>
  type === TYPE.TXT
    ? fits(type, value) >= 3
    : fits(type, value) >= 1 || value.trim() === '@' || type === TYPE.CAA || type === TYPE.TLSA

/** Whether the words behind a type are all of its value, and nothing else. */
function wholeValue(type: number, words: readonly string[]): boolean {
  const numbers = words.filter(isNumber).length
  if (type === TYPE.TXT || type === TYPE.CAA || type === TYPE.TLSA) return fits(type, words.join(' ')) > 0
  if (type === TYPE.MX) return words.length === 2 && numbers === 1 && (isNumber(words[0]!) || isNumber(words[1]!))
  if (type === TYPE.SRV) return words.length === 4 && numbers === 3
  return words.length === 1
    ? fits(type, words[0]!) > 0
    : fits(type, words[0]!) === 0 &&
        words.length > 2 &&
        ![TYPE.A, TYPE.AAAA, TYPE.CNAME, TYPE.NS, TYPE.PTR].some((each) => each === type)
}

/** TYPE OWNER VALUE, with numbers anywhere. */
function typeFirst(type: number, after: readonly string[], likely: Likely): Parts | undefined {
  const words = after.filter((word) => !FILLER.test(word))
  const [owner, ...rest] = words
  if (owner === undefined || rest.length === 0 || isNumber(owner)) return undefined
  if (type === TYPE.TXT) {
    // A text of one unquoted word and more: the first is the name where it is one.
    if (/["=\s]/.test(owner) || !hostIn(owner)) return undefined
    return { type, owner, value: rest.join(' '), others: {} }
  }
  const numbers = rest.filter(isNumber).map((text, at) => ({ text, before: false, at }))
  const texts = rest.filter((word) => !isNumber(word) && ttlIn(word) === undefined)
  if (texts.length === 0 || (texts.length > 1 && type !== TYPE.CAA)) return undefined
  if (type === TYPE.CAA || type === TYPE.TLSA) return { type, owner, value: rest.join(' '), others: {} }
  const [o, v] = pairOf(type, [owner, texts[0]!], likely)
  if (v === undefined) return undefined
  const others = numbersOf(type, v, numbers)
  return { type, owner: o, value: v, ttl: others.ttl === undefined ? undefined : Number(others.ttl), others }
}

/** The values of parts that state several at once: addresses side by side, mail exchangers below one another. */
export function severalIn(parts: Parts): Parts[] {
  const { type } = parts
  // The parts of CAA are words, wherever its cell was wrapped.
  const value = type === TYPE.CAA ? trimmedLines(parts.value).join(' ') : parts.value
  const isAddress = type === TYPE.A || type === TYPE.AAAA
  const values = value.split(isAddress ? /[\s,;]+/ : /\n+/).filter(Boolean)
  if (
    type === TYPE.TXT ||
    type === TYPE.CNAME ||
    values.length < 2 ||
    values.length > 50 ||
    !values.every((each) => fits(type, each) >= 2)
  )
    return [{ ...parts, value }]
  return values.map((each) => ({ ...parts, value: each, instead: undefined }))
}
