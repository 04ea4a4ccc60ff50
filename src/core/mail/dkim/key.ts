/** DKIM key records: read, judged and made (RFC 6376 §3.6.1, RFC 8301, RFC 8463). */

import { sameOctets } from '../../names/octets.ts'
import type { Refused } from '../../result.ts'
import { parseTags, shortened, type Tag, type TextProblem } from '../tags.ts'

export interface KeyRecord {
  /** `rsa` where no `k=` is stated. */
  type: string
  /** The public key’s octets as published; empty for a key that is revoked; undefined where there is none that can be read. */
  key?: Uint8Array
  /** The size of an RSA key’s modulus, in bits; 256 for Ed25519. */
  bits?: number
  /** `h=`; undefined for all. */
  hashes?: string[]
  testing: boolean
  /** Subdomains of the signing domain may not stand in `i=` (`t=s`). */
  strict: boolean
}

/** A fault, with how bad it is where its rule alone does not say so. */
export interface KeyProblem extends TextProblem {
  severity?: 'error' | 'warning' | 'advice'
}

/** The selector in what people state for one: the name of its key record, or a part of that, too. */
export const selectorOf = (typed: string): string => typed.split(/\._domainkey(?=\.|$)/i, 1)[0]!

/** Whether a text looks like a key record, wherever it stands. */
export const looksLikeKey = (text: string): boolean =>
  /^\s*(?:"\s*)?v\s*=\s*DKIM1\b/i.test(text) ||
  (/(?:^|;)\s*p\s*=/.test(text) && /(?:^|;)\s*k\s*=\s*(?:rsa|ed25519)\b/.test(text))

/** Reads a joined text that stands at a selector, and judges it as verifiers do. Problems are named after the rules that speak of them. */
export function parseKey(text: string): { record: KeyRecord; problems: KeyProblem[] } {
  const problems: KeyProblem[] = []
  const record: KeyRecord = { type: 'rsa', testing: false, strict: false }
  const problem: Say = (kind, start, end, message, wanted, more) => {
    problems.push({ kind, start, end, message, wanted, ...more })
  }
  const escaped = text.indexOf('\\;')
  const quote = text.indexOf('"')
  if (quote >= 0 || escaped >= 0) {
    const clean = text.replace(/\\;/g, ';').replace(/"\s*"/g, '').replace(/"/g, '')
    if (escaped >= 0)
      problem(
        'escaped-semicolon',
        escaped,
        escaped + 2,
        'the published value has a backslash before a semicolon',
        'a semicolon alone',
      )
    else problem('quotes-inside', quote, quote + 1, 'the published value contains quotes', 'the value without them')
    return { record: parseKey(clean).record, problems }
  }
  const { tags, problems: malformed } = parseTags(text)
  const tag = (name: string): Tag | undefined => tags.find((each) => each.name === name)
  problems.push(...malformed)
  const version = tag('v')
  if (version && (tags[0] !== version || version.value !== 'DKIM1'))
    problem(
      'syntax',
      version.start,
      version.end,
      tags[0] === version ? `the version is “${shortened(version.value)}”` : 'v= is not the first tag',
      'v=DKIM1 at the beginning, or no version at all',
    )
  readMeaning(record, tag, problem)
  readPublished(record, tag('p'), text, problem)
  return { record, problems }
}

type Say = (
  kind: string,
  start: number,
  end: number,
  message: string,
  wanted: string,
  more?: Pick<KeyProblem, 'severity' | 'advice'>,
) => void

/** What the key is for, and what it asks of verifiers. */
function readMeaning(record: KeyRecord, tag: (name: string) => Tag | undefined, problem: Say): void {
  const [type, hashes, services, flags] = ['k', 'h', 's', 't'].map(tag)
  if (type) {
    record.type = type.value.toLowerCase()
    if (record.type !== 'rsa' && record.type !== 'ed25519')
      problem(
        'key-type',
        type.valueStart,
        type.end,
        `the key type is “${shortened(type.value)}”; verifiers know rsa and ed25519`,
        'k=rsa or k=ed25519',
      )
  }
  const listed = (each: Tag): string[] => each.value.split(':').map((one) => one.trim().toLowerCase())
  if (hashes) {
    record.hashes = listed(hashes)
    if (!record.hashes.includes('sha256'))
      problem(
        'hash',
        hashes.valueStart,
        hashes.end,
        `h=${shortened(hashes.value)} allows only SHA-1, which verifiers no longer accept`,
        'h=sha256, or no h=',
      )
  }
  if (services && !listed(services).some((each) => each === '*' || each === 'email'))
    problem(
      'service',
      services.valueStart,
      services.end,
      `s=${shortened(services.value)} does not include email`,
      's=email, or no s=',
    )
  if (flags) {
    record.testing = listed(flags).includes('y')
    record.strict = listed(flags).includes('s')
    if (record.testing)
      problem('testing', flags.valueStart, flags.end, 't=y says that the domain is only testing DKIM', 'no t=y', {
        advice: 'take t=y out',
      })
  }
  const granularity = tag('g')
  if (granularity)
    problem('obsolete-tag', granularity.start, granularity.end, 'g= is an obsolete tag', 'no g=', {
      advice: 'take g= out',
    })
}

function readPublished(record: KeyRecord, published: Tag | undefined, text: string, problem: Say): void {
  if (!published) {
    problem('key-missing', 0, text.length, 'p= is missing', 'p= and the key in base64')
    return
  }
  const { value, valueStart: start, end } = published
  if (value === '') {
    record.key = new Uint8Array(0)
    problem(
      'revoked',
      published.start,
      Math.max(end, published.start + 2),
      'p= is empty: the key is revoked',
      'no record, once no mail signed with it is in transit any more',
      { advice: 'remove the record once no mail signed with it is in transit any more' },
    )
    return
  }
  const fault = unreadable(record, value)
  if (fault) {
    problem('key-unreadable', start, end, ...fault)
    return
  }
  const bits = record.bits ?? 2048
  if (record.type !== 'rsa') return
  const better = 'a key of 2048 bits'
  if (bits < 1024)
    problem('key-short', start, end, `the key has ${bits} bits; verifiers must reject fewer than 1024`, better, {
      severity: 'error',
    })
  else if (bits < 2048)
    problem('key-short', start, end, `the key has ${bits} bits; signers should use at least 2048`, better, {
      severity: 'warning',
    })
  else if (bits > 4096)
    problem('key-short', start, end, `the key has ${bits} bits; verifiers need not support more than 4096`, better, {
      severity: 'advice',
    })
}

/** Takes the key of a `p=` that is not empty into the record, or says why it cannot be read and what would be right. */
function unreadable(record: KeyRecord, value: string): [string, string] | undefined {
  if (value.includes('-----'))
    return ['p= contains the first or last line of a PEM file', 'only the base64 between these lines']
  const key = fromBase64(value)
  if (!key) return ['p= is not base64', 'the complete public key in base64']
  if (record.type === 'ed25519') {
    if (key.length !== 32)
      return [
        `an Ed25519 key has 32 octets, but this one has ${key.length}`,
        isEd25519Info(key)
          ? `p=${toBase64(key.subarray(-32))}: the last 32 octets, without what a PEM file puts in front`
          : 'the 32 octets of the key, in base64',
      ]
    Object.assign(record, { key, bits: 256 })
    return undefined
  }
  const bits = record.type === 'rsa' ? rsaBits(key) : undefined
  if (record.type === 'rsa' && bits === undefined)
    return key.length === 32
      ? ['this is not an RSA key; by its length it is an Ed25519 key', 'k=ed25519']
      : ['this is not an RSA public key: it was truncated, or is something else', 'the complete public key']
  Object.assign(record, { key, bits })
  return undefined
}

/** The octets of base64, white space aside; undefined where it is none. Padding may be missing. */
export function fromBase64(text: string): Uint8Array | undefined {
  const plain = text.replace(/[ \t\r\n]+/g, '')
  if (!/^[A-Za-z0-9+/]+={0,2}$/.test(plain) || plain.replace(/={1,2}$/, '').length % 4 === 1) return undefined
  return Uint8Array.from(atob(plain.replace(/={1,2}$/, '')), (sign) => sign.charCodeAt(0))
}

export function toBase64(octets: Uint8Array): string {
  let text = ''
  for (const octet of octets) text += String.fromCharCode(octet)
  return btoa(text)
}

/** One value of DER at `at`: its tag, and where its content begins and ends; undefined where it does not fit. */
function derAt(octets: Uint8Array, at: number, end: number): { tag: number; from: number; to: number } | undefined {
  if (at + 2 > end) return undefined
  let from = at + 2
  let length = octets[at + 1]!
  if (length & 0x80) {
    const count = length & 0x7f
    if (count === 0 || count > 4 || from + count > end) return undefined
    length = 0
    for (let i = 0; i < count; i++) length = length * 256 + octets[from++]!
  }
  return from + length > end ? undefined : { tag: octets[at]!, from, to: from + length }
}

const RSA_OID = [0x2a, 0x86, 0x48, 0x86, 0xf7, 0x0d, 0x01, 0x01, 0x01]
const ED25519_INFO = [0x30, 0x2a, 0x30, 0x05, 0x06, 0x03, 0x2b, 0x65, 0x70, 0x03, 0x21, 0x00]

const isEd25519Info = (key: Uint8Array): boolean =>
  key.length === 44 && sameOctets(key.subarray(0, 12), Uint8Array.from(ED25519_INFO))

/** The size of the modulus of an RSA public key, as SubjectPublicKeyInfo (RFC 5280 §4.1) or RSAPublicKey (RFC 8017 §A.1.1); undefined where it is neither, whole. */
export function rsaBits(key: Uint8Array): number | undefined {
  const outer = derAt(key, 0, key.length)
  if (outer?.tag !== 0x30 || outer.to !== key.length) return undefined
  const first = derAt(key, outer.from, outer.to)
  if (!first) return undefined
  if (first.tag === 0x30) {
    const oid = derAt(key, first.from, first.to)
    const bits = derAt(key, first.to, outer.to)
    if (oid?.tag !== 0x06 || !sameOctets(key.subarray(oid.from, oid.to), Uint8Array.from(RSA_OID))) return undefined
    if (bits?.tag !== 0x03 || bits.to !== outer.to || key[bits.from] !== 0) return undefined
    return rsaBits(key.subarray(bits.from + 1, bits.to))
  }
  const exponent = derAt(key, first.to, outer.to)
  if (first.tag !== 0x02 || exponent?.tag !== 0x02 || exponent.to !== outer.to || exponent.to === exponent.from)
    return undefined
  let at = first.from
  while (at < first.to && key[at] === 0) at++
  return at === first.to ? undefined : (first.to - at - 1) * 8 + (32 - Math.clz32(key[at]!))
}

/** A key record of a public key: of RSA as SubjectPublicKeyInfo or RSAPublicKey, of Ed25519 its 32 octets. */
export const keyText = (type: 'rsa' | 'ed25519', key: Uint8Array): string => `v=DKIM1; k=${type}; p=${toBase64(key)}`

/** Whether two records publish the same key. */
export function sameKey(a: string, b: string): boolean {
  const [one, other] = [parseKey(a).record.key, parseKey(b).record.key]
  return one !== undefined && other !== undefined && toBase64(one) === toBase64(other)
}

/** A key record of what people have in hand: a PEM file, base64 alone, a whole record as it was sent (quotes, owner and parentheses with it). Or what is wrong with it. */
export function keyFromPasted(pasted: string): { text: string } | Refused {
  if (/-----BEGIN[A-Z ]*PRIVATE KEY/.test(pasted))
    return { refused: 'that is a private key, which must never be published. Give the matching public key' }
  const pem = /-----BEGIN [A-Z ]*PUBLIC KEY-----([^-]*)-----END/.exec(pasted)
  const quoted = [...pasted.matchAll(/"((?:\\[\s\S]?|[^"\\])*)("|$)/g)]
    .filter(([, , end]) => end === '"')
    .map(([, string = '']) => string.replace(/\\(.)/g, '$1'))
  const joined = (quoted.length > 0 ? quoted.join('') : pasted).trim()
  if (!pem && /(?:^|[\s;])p\s*=/.test(joined)) {
    const from = joined.search(/(?:^|[\s;(])(?:v\s*=\s*DKIM1|k\s*=|p\s*=)/i)
    const text = joined
      .slice(Math.max(from, 0))
      .replace(/^[\s;(]+/, '')
      .replace(/(?<![\s)])[\s)]+$/, '')
    const { problems } = parseKey(text)
    const [bad] = problems.filter(({ kind }) => ['syntax', 'key-missing', 'key-unreadable'].includes(kind))
    return bad
      ? { refused: `the record cannot be used: ${bad.message} (expected ${bad.wanted})` }
      : { text: whole(text) }
  }
  const key = fromBase64(pem ? pem[1]! : joined)
  if (!key) return { refused: 'that is neither a PEM file, nor base64, nor a key record' }
  if (isEd25519Info(key)) return { text: keyText('ed25519', key.subarray(-32)) }
  if (key.length === 32) return { text: keyText('ed25519', key) }
  if (rsaBits(key) === undefined)
    return { refused: 'that is not an RSA or Ed25519 public key: it was truncated, or is something else' }
  return { text: keyText('rsa', key) }
}

/** A record as it is usually written, its key without the white space that it was pasted with. */
const whole = (text: string): string =>
  parseTags(text)
    .tags.map(({ name, value }) => `${name}=${name === 'p' ? value.replace(/\s+/g, '') : value}`)
    .join('; ')
