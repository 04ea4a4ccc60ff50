/** One record of the parts of a candidate: its owner in the zone, its data, what was cleaned, what is odd about it. */

import { trimmedLines } from '../lines.ts'
import { keyFromPasted } from '../mail/dkim/key.ts'
import { foldName, isAtOrBelow, labelsOf, NAME_TROUBLE_TEXT, type Name, nameToWire } from '../names/name.ts'
import { publicSuffixOf } from '../names/public-suffix.ts'
import { parseRdata, type Rdata, rdataText } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import { textData } from '../records/views.ts'
import { isRefused } from '../result.ts'
import { shortened } from '../shortened.ts'
import { isEmpty } from './candidate.ts'
import { damageOf, type Kind, kindOf, oddName, PRIVATE_KEY } from './kinds.ts'
import type { Role } from './labels.ts'
import type { Likely, Parts } from './parts.ts'
import { addressIn, hostIn, isNumber, isWhole, quotedStrings, unescaped, unwrapped } from './values.ts'

/** A record that a text states. */
export interface Row {
  /** Where it begins in the text, from one. */
  line: number
  /** The text that it stands in, where there are several. */
  of?: string
  owner: Name
  type: number
  /** Seconds; undefined where none is stated. */
  ttl?: number
  data: Rdata
  /** The data in presentation format. */
  value: string
  kind: Kind
  cleaned: string[]
  /** Why it must not be written as it is. */
  damage?: string
  /** It is a private key: never shown. */
  secret: boolean
  /** What is worth a second look. */
  odd?: string
  /** The sentence that makes it depend on something that only the reader knows. */
  condition?: string
  /** Why it is not certain: it is asked about, and not written by itself. */
  asked?: string
  /** The other reading, where there are just two. */
  other?: Row
}

export interface Around {
  /** The zone that the text is for. */
  zone: Name
  /** The domain that the text itself names above, where it names one. */
  domain?: Name
  /** Names elsewhere in the text are full. */
  full: boolean
}

/** Makes a record, or says why the parts are none. */
export function recordFrom(parts: Parts, around: Around, line: number, origin?: string): Row | { unread: string } {
  const made = recordOf(parts, around, line, origin)
  const other = 'unread' in made ? parts.instead?.() : undefined
  const second = other && recordOf(other, around, line, origin)
  return second && !('unread' in second) ? second : made
}

function recordOf(parts: Parts, around: Around, line: number, origin?: string): Row | { unread: string } {
  const cleaned: string[] = []
  const owner = ownerFrom(parts, around, cleaned, origin)
  if ('unread' in owner)
    return parts.owner === undefined ? { unread: withoutName(parts, around) ?? owner.unread } : owner
  // The name may be one only before the zone’s name, or a stated origin, stands behind it.
  const wire = nameToWire(owner.name)
  if (typeof wire === 'string')
    return { unread: `“${shortened(owner.name)}” is not a valid name: ${NAME_TROUBLE_TEXT[wire]}` }
  const made = dataFrom(parts, around, cleaned, origin)
  if ('unread' in made) return made
  const { data, text } = made
  const kind = kindOf(parts.type, owner.name, text)
  if (parts.ttl === 'auto') cleaned.push('the TTL is left to the zone’s default')
  return {
    line,
    owner: owner.name,
    type: parts.type,
    ttl: typeof parts.ttl === 'number' ? parts.ttl : undefined,
    data,
    value: rdataText(parts.type, data),
    kind,
    cleaned,
    secret: PRIVATE_KEY.test(text),
    damage: parts.type === TYPE.TXT ? damageOf(kind, text) : undefined,
    odd: parts.type === TYPE.TXT ? oddName(kind, owner.name, text) : undefined,
  }
}

/** Of words that have no name of their own: what is wrong with the last of them, or that they are several; undefined where they are one value. */
function withoutName({ type, value, ...parts }: Parts, around: Around): string | undefined {
  const words = value.trim().split(/\s+/)
  if (
    words.length < 2 ||
    words.length > 3 ||
    type === TYPE.TXT ||
    type === TYPE.CAA ||
    words.slice(0, -1).every(isNumber)
  )
    return undefined
  const made = dataFrom({ ...parts, type, value: words.at(-1)! }, around, [])
  return 'unread' in made ? made.unread : `“${shortened(value)}” is more than one value, and not a name with its value`
}

const APEX_WORDS =
  /^(?:@|root|apex|\(root\)|root domain|domain root|bare domain|naked domain|domain itself|the domain itself|your domain|hauptdomain|domain apex)$/i

/** How likely a text names an owner in the zone: the apex, a name below it, a relative one. */
export const likelyOwner =
  (around: Around): Likely =>
  (text) => {
    const plain = unwrapped(text)
    if (APEX_WORDS.test(plain) || isEmpty(plain)) return 4
    const name = hostIn(plain)?.name
    if (name === undefined) return -2
    if (isAtOrBelow(name.endsWith('.') ? name : `${name}.`, around.zone)) return 3
    if (name.startsWith('_') || name.includes('._domainkey')) return 3
    return !isWhole(name) ? 2 : isForeign(name, around) ? -1 : 1
  }

function ownerFrom(
  parts: Parts,
  around: Around,
  cleaned: string[],
  origin?: string,
): { name: Name } | { unread: string } {
  const base = around.domain ?? around.zone
  const { service, protocol } = parts.others
  let text = (parts.owner ?? '').trim()
  if (parts.owner === undefined && around.domain === undefined) return { unread: 'it states no name' }
  if (parts.type === TYPE.SRV && service !== undefined) {
    const host = text === service ? '' : text
    const labels = [service, ...(protocol === undefined ? [] : [protocol])].flatMap((each) =>
      unwrapped(each).split('.').filter(Boolean),
    )
    text = `${labels.join('.')}${isEmpty(host) || APEX_WORDS.test(host) ? '' : `.${host}`}`
  }
  text = unwrapped(text.replace(/(?<!\s)\s*\([^()]*\)$/, '')).replace(
    /(?<!\s)\s+(?:or|oder|ou|o|of)\s+(?:leave )?(?:it )?(?:blank|empty|leer|vide)$/i,
    '',
  )
  if (isEmpty(text) || APEX_WORDS.test(text)) {
    if (text !== '@') cleaned.push(`${text === '' ? 'an empty name' : `“${text}”`} read as the domain itself`)
    return { name: foldName(origin ?? base) }
  }
  const host = hostIn(text)
  if (!host || host.name === '@') return { unread: `“${shortened(text)}” is not a valid name` }
  cleaned.push(...host.cleaned)
  const name = parts.type === TYPE.SRV ? underscored(host.name, cleaned) : host.name
  return { name: absolute(name, around, cleaned, origin) }
}

/** The name in full: one that ends in the zone’s is full already, one of another domain stays that. */
function absolute(name: string, around: Around, cleaned: string[], origin?: string): Name {
  const zone = foldName(around.zone)
  const full = name.endsWith('.') ? name : `${name}.`
  if (isAtOrBelow(full, zone)) {
    const rest = full === zone ? '' : full.slice(0, -zone.length)
    if (rest === '' || !isAtOrBelow(rest, zone)) return full
    cleaned.push('the zone’s name stood twice')
    return rest
  }
  // The zone’s name cut off in front of its last labels: a form adds them.
  const base = foldName(origin ?? around.domain ?? around.zone)
  // Below a stated domain a name may be said from the zone all the same: it ends as that one does.
  if (
    origin === undefined &&
    around.domain !== undefined &&
    base !== zone &&
    isAtOrBelow(base, zone) &&
    isAtOrBelow(`${name}.${zone}`, base)
  )
    return `${name}.${zone}`
  if (full === name || (origin === undefined && isForeign(name, around))) return full
  return `${name}.${base}`
}

/** Whether a name without its final dot is one of another domain, and not a relative one of several labels. */
function isForeign(name: string, { full }: Around): boolean {
  const labels = labelsOf(`${name}.`)
  const last = labels.at(-1)!
  if (labels.length < 2 || labels.slice(-2).some((label) => label.startsWith('_'))) return false
  if (last === 'example') return true
  if (publicSuffixOf(name) === undefined) return false
  return /^(?:com|net|org|info|biz|eu|co)$/.test(last) || (full && labels.length > 2 && last.length === 2)
}

const PROTOCOLS = /^_?(?:tcp|udp|tls|sctp)$/

/** The owner of SRV with the underscores that people leave out (RFC 2782). */
function underscored(name: string, cleaned: string[]): string {
  const labels = name.split('.')
  if (labels.length < 2 || !PROTOCOLS.test(labels[1]!)) return name
  const made = labels.map((label, i) => (i < 2 && !label.startsWith('_') ? `_${label}` : label)).join('.')
  if (made !== name) cleaned.push('the underscores of service and protocol added')
  return made
}

type Made = { data: Rdata; text: string } | { unread: string }

/** Types whose whole value is the name of a host. */
export const HOST_TYPES = new Set<number>([TYPE.CNAME, TYPE.NS, TYPE.PTR, TYPE.DNAME])

function dataFrom(parts: Parts, around: Around, cleaned: string[], origin?: string): Made {
  const { type, value } = parts
  if (type === TYPE.TXT) return textFrom(value, cleaned)
  if (type === TYPE.A || type === TYPE.AAAA) {
    const address = addressIn(value)
    if (!address) return { unread: addressTrouble(value, type) }
    if ((address.octets.length === 4) !== (type === TYPE.A))
      return {
        unread: `${address.text} is an ${type === TYPE.A ? 'IPv6' : 'IPv4'} address, and the type says ${typeText(type)}`,
      }
    cleaned.push(...address.cleaned)
    return { data: address.octets, text: '' }
  }
  const target = (text: string): string | undefined => targetFrom(text, around, cleaned, origin)
  if (HOST_TYPES.has(type)) {
    const name = target(trimmedLines(value).join(''))
    return name === undefined ? { unread: `“${shortened(value)}” is not the name of a host` } : asData(type, name)
  }
  if (type === TYPE.MX) return mxFrom(parts, target, cleaned)
  if (type === TYPE.SRV) return srvFrom(parts, target)
  const { flags, tag, usage, selector, matching } = parts.others
  const text = value.trim()
  if (type === TYPE.CAA) {
    const front = /^\d+\s/.test(text) ? '' : `${flags ?? '0'} ${unwrapped(tag ?? '')} `
    const [, head = '', rest = ''] = /^(\d+\s+\S+\s+)(.*)$/s.exec(front + text) ?? []
    return asData(
      type,
      `${head.toLowerCase()}"${quotedStrings(rest)?.join('') ?? (rest.trim() === ';' ? ';' : unwrapped(rest))}"`,
    )
  }
  if (type === TYPE.TLSA && usage !== undefined)
    return asData(type, `${usage} ${selector ?? ''} ${matching ?? ''} ${text}`)
  return asData(type, text)
}

function asData(type: number, text: string): Made {
  const parsed = parseRdata(type, text, ROOT)
  if ('wire' in parsed) return { data: parsed.wire, text }
  return { unread: `${typeText(type)} ${shortened(text)}: ${parsed.message} (expected ${parsed.wanted})` }
}
const ROOT = new Uint8Array([0])

function addressTrouble(text: string, type: number): string {
  const letters = /^[\dlIOo|]+(?:\.[\dlIOo|]+){3}$/.test(text.trim())
  if (letters && type === TYPE.A) return `“${text.trim()}” is not an address: one of its digits is a letter`
  return `“${shortened(text)}” is not an ${type === TYPE.A ? 'IPv4' : 'IPv6'} address`
}

/** A target in full. */
function targetFrom(text: string, around: Around, cleaned: string[], origin?: string): Name | undefined {
  if (unwrapped(text) === '.') return '.'
  const host = hostIn(text)
  // One that ends in a hyphen goes on elsewhere.
  if (!host || /-\.?$/.test(host.name)) return undefined
  cleaned.push(...host.cleaned)
  const base = foldName(origin ?? around.domain ?? around.zone)
  if (host.name === '@') return base
  if (host.name.endsWith('.')) return host.name
  if (isWhole(host.name)) {
    const relative =
      origin !== undefined &&
      !isForeign(host.name, { ...around, full: true }) &&
      !isAtOrBelow(`${host.name}.`, around.zone)
    return relative ? `${host.name}.${base}` : `${host.name}.`
  }
  return typeof nameToWire(`${host.name}.${base}`) === 'string' ? undefined : `${host.name}.${base}`
}

/** The preference in a field of its own, before or behind the host. */
function mxFrom({ value, others }: Parts, target: (text: string) => string | undefined, cleaned: string[]): Made {
  const words = value
    .replace(/[()[\],:;"'`]/g, ' ')
    .replace(/^\s*\.(?=\s*\S)/, '')
    .trim()
    .split(/\s+/)
  const numbers = words.filter(isNumber)
  const hosts = words.filter((word) => !isNumber(word) && !PREFERENCE_WORDS.test(word))
  if (hosts.length !== 1) {
    const name = value.includes('://') || value.includes(':') ? target(value) : undefined
    if (name === undefined || others.priority === undefined)
      return { unread: `“${shortened(value)}” is not a mail exchanger with its preference` }
    return asData(TYPE.MX, `${others.priority.trim()} ${name}`)
  }
  const preference = numbers[0] ?? others.priority?.trim()
  if (preference === undefined || !isNumber(preference)) return { unread: 'it states no preference' }
  if (
    numbers.length > 1 ||
    (numbers.length === 1 &&
      others.priority !== undefined &&
      isNumber(others.priority) &&
      Number(others.priority) !== Number(numbers[0]))
  )
    return { unread: 'it states two preferences' }
  if (numbers.length === 1 && words.length > 1 && others.priority === undefined && words.indexOf(numbers[0]!) > 0)
    cleaned.push('the preference stood behind the host')
  const name = target(hosts[0]!)
  return name === undefined
    ? { unread: `“${hosts[0]}” is not the name of a host` }
    : asData(TYPE.MX, `${preference} ${name}`)
}

const PREFERENCE_WORDS = /^(?:mx|priority|prio|preference|pref|priorit\p{L}*|prioridad\p{L}*)\.?$/iu

/** The numbers of SRV told by their labels in one cell. */
const SERVICE_PARTS: [Role, RegExp][] = [
  ['priority', /\bprior\p{L}{0,12}\s{0,8}[:=]\s{0,8}(\d{1,5})/iu],
  ['weight', /\b(?:weight|gewicht\p{L}{0,12}|poids|peso|waga|vikt)\s{0,8}[:=]\s{0,8}(\d{1,5})/iu],
  ['port', /\b(?:port|puerto|porta|poort)\s*[:=]\s*(\d{1,5})/iu],
]

/** Priority, weight, port and target: apart, or some of them together. */
function srvFrom({ value, others }: Parts, target: (text: string) => string | undefined): Made {
  const told = SERVICE_PARTS.map(([role, words]) => [role, words.exec(value)?.[1]] as const).filter(
    ([, number]) => number !== undefined,
  )
  if (told.length === 3) {
    const name = target(
      value
        .trim()
        .split(/[\s,:=]+/)
        .at(-1) ?? '',
    )
    const numbers = told.map(([, number]) => number).join(' ')
    return name === undefined ? { unread: 'it states no target' } : asData(TYPE.SRV, `${numbers} ${name}`)
  }
  const words = value.trim().split(/[\s,]+/)
  const host = words.at(-1) ?? ''
  const port = /:(\d{1,5})$/.exec(host)?.[1]
  const inside = words.slice(0, -1)
  const apart = [others.priority, others.weight, others.port ?? port].map((text) => text?.trim())
  const numbers =
    inside.length === 3 ? inside : inside.length === 2 ? [apart[0], ...inside] : inside.length === 0 ? apart : []
  const [priority, weight, number] = numbers
  if (numbers.length !== 3 || priority === undefined || weight === undefined || number === undefined)
    return { unread: 'an SRV record needs priority, weight, port and target' }
  const name = target(host)
  return name === undefined
    ? { unread: `“${shortened(host)}” is not the name of a host` }
    : asData(TYPE.SRV, `${priority} ${weight} ${number} ${name}`)
}

/** A text without its quotes, wraps and escapes. Its words stay as they are; blanks go only out of base64. */
function textFrom(value: string, cleaned: string[]): Made {
  let text = value.trim()
  const clean = (cleaner: string, what: string): void => {
    if (cleaner !== text) cleaned.push(what)
    text = cleaner
  }
  if (PRIVATE_KEY.test(text)) return { data: textData(''), text }
  if (/-----BEGIN/.test(text)) {
    const key = keyFromPasted(text)
    if (isRefused(key)) return { unread: key.refused }
    clean(key.text, 'a key record made of a PEM file')
  }
  clean(text.replace(WHOLE_LINE, '$1'), 'the name and type of a whole line removed')
  const strings = quotedStrings(text)
  if (strings) clean(strings.join(''), strings.length > 1 ? 'the strings of the text joined' : 'quotes removed')
  else clean(text.replace(/^(["'`])([^"'`]*)\1[.,;]?$/, '$2'), 'quotes removed')
  clean(unescaped(text), 'backslashes removed')
  if (text.includes('\n')) {
    const isTags = /^v=(?!spf1)/i.test(text)
    // Tags have blanks behind their semicolons alone; words are parted by them.
    const joined = /(?:^|[;\s])p=[A-Za-z0-9+/]{20}/.test(text)
      ? unwrapped64(text.replace(/\n+/g, ' '))
      : isTags
        ? trimmedLines(text)
            .map((line) => (line.endsWith(';') ? `${line} ` : line))
            .join('')
            .trimEnd()
        : trimmedLines(text).join(' ')
    clean(joined, 'line breaks removed')
  }
  if (/(?:^|;)\s*(?:v=DKIM1|k=|p=)/i.test(text)) clean(unwrapped64(text), 'blanks removed from the key')
  if (text === '') return { unread: 'the text is empty' }
  if (PENDING.test(text)) return { unread: `“${text}” stands for a text that is still to come` }
  return { data: textData(text), text }
}

const PENDING = /^(?:tb[ad]|todo|pending|x{3,}|\?+|-+)$/i
/** A record of a zone file that was pasted as a value. */
const WHOLE_LINE = /^\S+\s+(?:\d{1,10}\s+)?IN\s+TXT\s+(".*")$/

/** A key without the blanks in its base64. */
const unwrapped64 = (text: string): string =>
  text.replace(/((?:^|[;\s])p=)([A-Za-z0-9+/=\s]+)/, (_, tag: string, key: string) => tag + key.replace(/\s+/g, ''))
