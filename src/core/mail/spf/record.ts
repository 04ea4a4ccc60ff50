/** SPF records: read with the place of every fault, and written again (RFC 7208 §4.5, §4.6.1, §5, §6, §12). */
import { closest, distance } from 'fastest-levenshtein'
import { addressText, parseAddress } from '../../names/address.ts'
import { isIn } from '../../names/address-kinds.ts'
import { shortened, type TextProblem } from '../tags.ts'
import { type MacroText, parseMacros } from './macro.ts'

export type Qualifier = '+' | '-' | '~' | '?'

const MECHANISMS = ['all', 'include', 'a', 'mx', 'ptr', 'ip4', 'ip6', 'exists'] as const
export type MechanismName = (typeof MECHANISMS)[number]

interface Written {
  /** As it is written, and where, in characters of the joined text. */
  text: string
  start: number
  end: number
}

export interface Mechanism extends Written {
  kind: 'mechanism'
  name: MechanismName
  qualifier: Qualifier
  /** The name behind the colon, as written, and with its macros; undefined where the record's own domain is meant. */
  domain?: string
  macros?: MacroText
  /** Of `ip4` (4 octets) and `ip6` (16). */
  network?: Uint8Array
  /** Prefix lengths for IPv4 and IPv6 senders. */
  bits4: number
  bits6: number
}

export interface Modifier extends Written {
  kind: 'modifier'
  /** In lower case. */
  name: string
  value: string
  macros: MacroText
}

export type SpfTerm = Mechanism | Modifier

export interface SpfRecord {
  terms: SpfTerm[]
  mechanisms: Mechanism[]
  /** The first `all`, `redirect` and `exp`. */
  all?: Mechanism
  redirect?: Modifier
  exp?: Modifier
}

/** Whether a joined text is an SPF record: `v=spf1`, then a space or the end (RFC 7208 §4.5). */
export const isSpf = (text: string): boolean => /^v=spf1(?: |$)/i.test(text)

/**
 * Reads a joined text that is an SPF record. Terms that are at fault are left out of the record, and told of; with a single problem, receivers give up on the whole record
 * (§4.6: permerror). Problems are `syntax` or `modifier-twice`.
 */
export function parseSpf(text: string): { record: SpfRecord; problems: TextProblem[] } {
  const problems: TextProblem[] = []
  const record: SpfRecord = { terms: [], mechanisms: [] }
  const separate = /[^ ]+/g
  separate.lastIndex = 6
  for (let match = separate.exec(text); match; match = separate.exec(text)) {
    const start = match.index
    const term = parseTerm(match[0], start)
    if ('message' in term) {
      if (problems.length < MOST_PROBLEMS) problems.push(term)
      continue
    }
    record.terms.push(term)
    if (term.kind === 'mechanism') {
      record.mechanisms.push(term)
      if (term.name === 'all') record.all ??= term
    } else if (term.name === 'redirect' || term.name === 'exp') {
      if (record[term.name] && problems.length < MOST_PROBLEMS)
        problems.push({
          kind: 'modifier-twice',
          start,
          end: term.end,
          message: `${term.name}= appears twice`,
          wanted: `one ${term.name}= alone`,
        })
      record[term.name] ??= term
    }
  }
  return { record, problems }
}

/** `parseSpf` for texts that come again and again: of many names, most have the same few. */
export function readSpf(text: string): { record: SpfRecord; problems: TextProblem[] } {
  const known = LATELY.get(text)
  if (known) return known
  const read = parseSpf(text)
  if (remembered + text.length > MOST_REMEMBERED) {
    LATELY.clear()
    remembered = 0
  }
  remembered += text.length
  LATELY.set(text, read)
  return read
}
const LATELY = new Map<string, { record: SpfRecord; problems: TextProblem[] }>()
/** In characters of all texts together. */
const MOST_REMEMBERED = 1 << 20
let remembered = 0

const MOST_PROBLEMS = 50
const MODIFIER = /^([a-z][a-z0-9._-]*)=([\s\S]*)$/i
const TERM = /^([-+~?]?)([^:/]*)(:?)([\s\S]*)$/
const PREFIX = /(?:\/\d+)?(?:\/\/\d+)?$/

function parseTerm(text: string, start: number): SpfTerm | TextProblem {
  const end = start + text.length
  const problem = (message: string, wanted: string, from = start, to = end): TextProblem => ({
    kind: 'syntax',
    start: from,
    end: to,
    message,
    wanted,
  })
  const modifier = MODIFIER.exec(text)
  if (modifier) {
    const [, written = '', value = ''] = modifier
    const name = written.toLowerCase()
    const known = name === 'redirect' || name === 'exp'
    const { parts, problem: bad } = parseMacros(value, start + written.length + 1, known ? 'domain' : 'value')
    return bad ?? { kind: 'modifier', name, value, macros: parts, text, start, end }
  }
  const [, sign = '', written = '', colon = '', rest = ''] = TERM.exec(text)!
  const [prefix] = PREFIX.exec(rest)!
  const value = rest.slice(0, rest.length - prefix.length)
  const name = MECHANISMS.find((each) => each === written.toLowerCase())
  if (!name) return problem(`“${shortened(text)}” is not an SPF term`, likely(text, written))
  const mechanism: Mechanism = {
    kind: 'mechanism',
    name,
    qualifier: (sign || '+') as Qualifier,
    bits4: 32,
    bits6: 128,
    text,
    start,
    end,
  }
  const valueAt = start + sign.length + written.length + colon.length
  if (colon !== '' && value === '' && prefix === '')
    return problem(`${name}: has nothing after the colon`, example(name))
  if (name === 'all')
    return colon !== '' || prefix !== '' || value !== ''
      ? problem(`“${shortened(text)}”: nothing may follow “all”`, `${sign}all`)
      : mechanism
  if (name === 'ip4' || name === 'ip6') return network(mechanism, value, prefix, valueAt, problem)
  if (prefix !== '' && name !== 'a' && name !== 'mx')
    return problem(`${name} takes no prefix length`, `${name}${colon}${value}`)
  const wrong = readPrefix(mechanism, prefix)
  if (wrong) return problem(wrong, `a prefix length as in /24, or /24//64 for both families`, end - prefix.length, end)
  if (colon === '' && value !== '')
    return problem(
      `“${shortened(text)}” is not an SPF term`,
      `a prefix length as in /24 after ${name}, or a name after a colon`,
    )
  if (colon === '' && (name === 'include' || name === 'exists')) return problem(`${name} needs a name`, example(name))
  if (colon === '') return mechanism
  if (parseAddress(value))
    return problem(
      `${name}:${value} has an address instead of a name`,
      `${value.includes(':') ? 'ip6' : 'ip4'}:${value}${prefix}`,
      valueAt,
      end,
    )
  const { parts, problem: bad } = parseMacros(value, valueAt, 'domain')
  if (bad) return bad
  return { ...mechanism, domain: value, macros: parts }
}

const example = (name: MechanismName): string =>
  name === 'ip4'
    ? 'ip4:192.0.2.0/24'
    : name === 'ip6'
      ? 'ip6:2001:db8::/32'
      : name === 'all'
        ? '-all'
        : `${name}:mail.example.com`

/** Whether a modifier has the name of a mechanism: with “=” in place of the colon it is one that nobody knows, and is passed over (§6). */
export const isMeantAsMechanism = ({ name }: Modifier): boolean => (MECHANISMS as readonly string[]).includes(name)

/** What an unknown term was probably meant to be. */
function likely(text: string, name: string): string {
  const address = parseAddress(text.replace(/\/\d+$/, '').replace(/^[-+~?]/, ''))
  if (address) return `${address.length === 4 ? 'ip4' : 'ip6'}:${text}`
  const usual: Record<string, string> = { ip: 'ip4', ipv4: 'ip4', ipv6: 'ip6', cidr: 'ip4' }
  const near = closest(name.toLowerCase(), [...MECHANISMS])
  const meant =
    usual[name.toLowerCase()] ?? (near.length > 2 && distance(name.toLowerCase(), near) <= 2 ? near : undefined)
  if (meant) return meant === 'all' ? '-all or ~all' : text.replace(name, meant)
  if (/^v=spf1/i.test(text)) return 'v=spf1 once, at the beginning'
  if (/^[\w-]+(?:\.[\w-]+)+\.?$/.test(text))
    return `include:${text} if its owner publishes an SPF record, or a:${text} for its addresses`
  return 'one of all, include, a, mx, ip4, ip6, exists, ptr, redirect=, exp='
}

function network(
  mechanism: Mechanism,
  value: string,
  prefix: string,
  at: number,
  problem: (message: string, wanted: string, from?: number, to?: number) => TextProblem,
): Mechanism | TextProblem {
  const { name } = mechanism
  const octets = parseAddress(value)
  const wanted = name === 'ip4' ? 4 : 16
  if (!octets) {
    // A length that is no number is with the address still.
    const [host = '', length] = value.split('/')
    if (length !== undefined && parseAddress(host))
      return problem(
        `“/${shortened(length)}” is not a prefix length`,
        `a number up to ${wanted * 8}`,
        at + host.length,
        mechanism.end,
      )
    const port = /^(\d+\.\d+\.\d+\.\d+|\[[0-9a-f:.]+\]):\d+$/i.exec(value)
    if (port)
      return problem(
        `“${shortened(value)}” has a port, and SPF knows addresses alone`,
        `${name}:${port[1]!.replace(/[[\]]/g, '')}`,
        at,
        mechanism.end,
      )
    return problem(
      `“${shortened(value)}” is not a valid ${name === 'ip4' ? 'IPv4' : 'IPv6'} address`,
      `an address or a range, as in ${example(name)}`,
      at,
      mechanism.end,
    )
  }
  if (octets.length !== wanted)
    return problem(
      `${name}: has an ${wanted === 4 ? 'IPv6' : 'IPv4'} address after it`,
      `${wanted === 4 ? 'ip6' : 'ip4'}:${value}${prefix}`,
    )
  const wrong =
    prefix.startsWith('//') || prefix.indexOf('//') > 0
      ? 'one prefix length, not two'
      : lengthTrouble(prefix.slice(1), wanted * 8)
  if (wrong)
    return problem(
      `${name}:${value}${prefix}: ${wrong}`,
      `a prefix length up to ${wanted * 8}`,
      mechanism.end - prefix.length,
      mechanism.end,
    )
  const bits = prefix === '' ? wanted * 8 : Number(prefix.slice(1))
  return { ...mechanism, network: octets, ...(wanted === 4 ? { bits4: bits } : { bits6: bits }) }
}

const lengthTrouble = (digits: string, most: number): string | undefined =>
  digits === '' || /^(?:0|[1-9]\d?\d?)$/.test(digits)
    ? Number(digits) > most
      ? `/${digits} exceeds ${most}`
      : undefined
    : `/${shortened(digits, 10)} is not a prefix length`

/** Reads `/24`, `//64` or `/24//64`; returns what is wrong with it. */
function readPrefix(mechanism: Mechanism, prefix: string): string | undefined {
  const match = /^(?:\/(\d+))?(?:\/\/(\d+))?$/.exec(prefix)!
  const wrong = lengthTrouble(match[1] ?? '', 32) ?? lengthTrouble(match[2] ?? '', 128)
  if (match[1] !== undefined) mechanism.bits4 = Number(match[1])
  if (match[2] !== undefined) mechanism.bits6 = Number(match[2])
  return wrong
}

/** The term as it is usually written: no `+`, no lengths that go without saying, addresses in their one form (RFC 5952). It means the same. */
export function termText(term: SpfTerm): string {
  if (term.kind === 'modifier') return `${term.name}=${term.value}`
  const sign = term.qualifier === '+' ? '' : term.qualifier
  const lengths = `${term.bits4 === 32 ? '' : `/${term.bits4}`}${term.bits6 === 128 ? '' : `${term.network ? '/' : '//'}${term.bits6}`}`
  const value = term.network ? `:${addressText(term.network)}` : term.domain === undefined ? '' : `:${term.domain}`
  return `${sign}${term.name}${value}${lengths}`
}

/** The whole record as it is usually written. */
export const spfText = (terms: readonly SpfTerm[]): string => ['v=spf1', ...terms.map(termText)].join(' ')

/** Whether every address that matches `inner` matches `outer`: both are ranges of one family. */
export function coversRange(outer: Mechanism, inner: Mechanism): boolean {
  if (!outer.network || !inner.network || outer.network.length !== inner.network.length) return false
  const bits = outer.network.length === 4 ? 'bits4' : 'bits6'
  return outer[bits] <= inner[bits] && isIn(inner.network, outer.network, outer[bits])
}

/** Whether a term makes receivers ask (RFC 7208 §4.6.4): each may be one of ten. */
export const asks = (term: SpfTerm): boolean =>
  term.kind === 'modifier' ? term.name === 'redirect' : !['all', 'ip4', 'ip6'].includes(term.name)

/** Whether some host may send by this record: it has anything but refusals. */
export const letsSend = (text: string): boolean => {
  const { record } = readSpf(text)
  return record.mechanisms.some(({ qualifier }) => qualifier !== '-') || record.redirect !== undefined
}
