/** What single cells say: types, numbers, times, names, addresses; cleaned of what pasting brings. */
import { addressText, parseAddress } from '../names/address.ts'
import { toAsciiName } from '../names/idna.ts'
import { nameToWire } from '../names/name.ts'
import { parseType, TYPE } from '../records/types.ts'

/** The types that instructions state. */
const STATED = new Set<string>(
  'A AAAA CAA CNAME DNAME DS HTTPS LOC MX NAPTR NS OPENPGPKEY PTR SMIMEA SOA SPF SRV SSHFP SVCB TLSA TXT URI'.split(
    ' ',
  ),
)

/** A type that a cell names; SPF, which some forms have for it, is TXT (RFC 7208 §3.1). */
export function typeIn(text: string): number | undefined {
  const match =
    /^[\s"'`(*]*([A-Za-z]{1,10})(?:[- ]?(?:records?|recs?|-?eintrag|-?einträge|rr|type|set)|[ ]?\([\w ]{0,30}\))?[\s"'`):*.,]*$/i.exec(
      text,
    )
  const word =
    match?.[1]?.toUpperCase() ??
    /^(?:records?|registro|record|enregistrement|type)\s+(?:de type\s+)?([A-Z]{1,10})$/i
      .exec(text.trim())?.[1]
      ?.toUpperCase()
  if (word === undefined || !STATED.has(word)) {
    // “DKIM (TXT)”: the type explains the word.
    const inner = /^[\w ]{1,30}\(([A-Z]{1,10})(?: record)?\)$/.exec(text.trim())?.[1]
    return inner === undefined || !STATED.has(inner) ? undefined : parseType(inner)
  }
  return word === 'SPF' ? TYPE.TXT : parseType(word)
}

const UNITS: Record<string, number> = { s: 1, m: 60, h: 3600, d: 86_400, w: 604_800 }
const UNIT_WORDS: [RegExp, number][] = [
  [/^(?:s|secs?|seconds?|sekunden?|secondes?|segundos?|secondi|secondo|seconden|sek)$/i, 1],
  [/^(?:m|mins?|minutes?|minuten?|minutos?|minut[io]|minuty?|minuter)$/i, 60],
  [/^(?:h|hrs?|hours?|stunden?|std|heures?|horas?|or[ae]|uur|uren|godzin[ay]?|timm(?:e|ar)|timer?)$/i, 3600],
  [/^(?:d|days?|tage?|jours?|d[ií]as?|giorn[oi]|dag(?:en|ar)?|dni|dzień)$/i, 86_400],
  [/^(?:w|weeks?|wochen?|semaines?|semanas?|settiman[ae]|week|weken)$/i, 604_800],
]
const AUTOMATIC =
  /^(?:auto(?:matic|matisch|matique|mático|matico|matisk)?|default|standard|défaut|par défaut|predeterminado|predefinito|standaard|domyślny)$/i

/** A TTL in seconds; `auto` where the host shall choose; undefined where it is no time. `bare` numbers count as seconds. */
export function ttlIn(text: string, bare = false): number | 'auto' | undefined {
  const plain = text.trim()
  if (AUTOMATIC.test(plain)) return 'auto'
  if (bare && /^\d{1,3}(?:[ .,'’]\d{3}){1,2}$/.test(plain)) return Number(plain.replace(/\D/g, ''))
  if (/^1\/2 (?:hour|stunde|heure|hora|ora|uur)$/i.test(plain)) return 1800
  if (/^\d{1,10}$/.test(plain)) return bare ? Number(plain) : undefined
  if (/^(?:\d{1,9}[smhdw]){1,5}$/i.test(plain))
    return [...plain.matchAll(/(?<!\d)(\d+)([smhdw])/gi)].reduce(
      (sum, [, n, unit]) => sum + Number(n) * UNITS[unit!.toLowerCase()]!,
      0,
    )
  const [, number, word] = /^(\d{1,9}|[a-z]{3,5})\s+(\p{L}{1,9})\.?$/iu.exec(plain) ?? []
  if (number === undefined) return undefined
  const count = /^\d/.test(number)
    ? Number(number)
    : /^(?:one|eine?|une?|una?|uno|een|um)$/i.test(number)
      ? 1
      : undefined
  const unit = UNIT_WORDS.find(([words]) => words.test(word!))?.[1]
  return count === undefined || unit === undefined ? undefined : count * unit
}

/** The preference that a cell tells with its word: `prio 10`. */
export const preferenceIn = (text: string): string | undefined =>
  /^(?:priority|prio|preference|pref|prior\p{L}*)\.?[:\s]\s*(\d{1,5})$/iu.exec(text.trim())?.[1]

/** Whether a word is one that stands behind the owner in a line of a zone file: a TTL, the class, or a type (RFC 1035 §5.1). */
export const isBehindOwner = (word: string): boolean =>
  typeIn(word) !== undefined || /^IN$/i.test(word) || isNumber(word)

export const isNumber = (text: string): boolean => /^\d{1,10}$/.test(text.trim())

/** An address as it is written, without brackets, port, scheme and path. */
export function addressIn(text: string): { text: string; octets: Uint8Array; cleaned: string[] } | undefined {
  const plain = unwrapped(text)
  let inner = plain.replace(/^https?:\/\//i, '')
  inner =
    /^\[([0-9a-f:.]+)\](?::\d+)?(?:\/.*)?$/i.exec(inner)?.[1] ??
    inner.replace(/^(\d+\.\d+\.\d+\.\d+)(?::\d{1,5})?(?:\/[^\s]*)?$/, '$1')
  // A range is no address; one of a single address is.
  inner = inner.replace(/^([\d.]+)\/32$|^([0-9a-f:.]+)\/128$/i, '$1$2')
  if (!/\/(?:32|128)$/.test(plain) && /\/\d{1,3}$/.test(plain) && !/^https?:/i.test(plain)) return undefined
  const octets = parseAddress(inner)
  if (!octets) return undefined
  return { text: addressText(octets), octets, cleaned: inner === plain ? [] : [`${plain} read as ${inner}`] }
}

/** A cell without the signs that stand around words: quotes, code marks, a comma or colon behind. */
export function unwrapped(text: string): string {
  let plain = text.trim()
  for (let i = 0; i < 3; i++) {
    const inner = /^(["'`_]{1,3})([^"'`]*)\1[,;]?$/.exec(plain)?.[2] ?? /^\*([^*]+)\*$/.exec(plain)?.[1]
    if (inner === undefined || inner === '' || /^_/.test(plain)) break
    plain = inner.trim()
  }
  return plain.replace(/^[`"'(]+|(?<![`"'),;])[`"'),;]+$/g, '')
}

/** A host as instructions write it: without scheme, path and port. The final dot tells that it is absolute. */
export function hostIn(text: string): { name: string; cleaned: string[] } | undefined {
  const plain = unwrapped(text)
  const cleaned: string[] = []
  let name = plain
  const clean = (cleaner: string, what: string): void => {
    if (cleaner !== name) cleaned.push(what)
    name = cleaner
  }
  clean(name.replace(/^[a-z][a-z0-9+.-]{1,9}:\/\//i, ''), 'the scheme of a URL removed')
  clean(name.replace(/[/?#][\s\S]*$/, ''), 'the path of a URL removed')
  clean(name.replace(/:\d{1,5}$/, ''), 'a port removed')
  if (name === '@') return { name, cleaned }
  if (name === '' || /[\s@,;:="<>(){}|\\]/.test(name) || parseAddress(name.replace(/\.$/, ''))) return undefined
  if (/^(?:IN|CH)$/.test(name) || /^\d+$/.test(name) || name.includes('...') || name.includes('…')) return undefined
  const ascii = toAsciiName(name)
  if ('refused' in ascii || typeof nameToWire(ascii.name.endsWith('.') ? ascii.name : `${ascii.name}.`) === 'string')
    return undefined
  clean(ascii.name, 'letters beyond ASCII written as A-labels')
  clean(name.toLowerCase(), 'written in lower case')
  return /[a-z0-9_*]/.test(name) ? { name, cleaned } : undefined
}

/** Whether a host has several labels, or says by its dot that it is whole. */
export const isWhole = (name: string): boolean => /\..+/.test(name.replace(/\.$/, '')) || name.endsWith('.')

/** Up to its closing quote, or to the end: so that an open one is looked at once. */
const QUOTED = /"(?:\\[\s\S]?|[^"\\])*(?:"|$)/g

/** The strings in quotes that a cell consists of, without their escapes; undefined where something stands beside them. */
export function quotedStrings(text: string): string[] | undefined {
  const found = [...text.matchAll(QUOTED)]
  if (found.length === 0 || found.some(([whole]) => whole.length < 2 || !whole.endsWith('"'))) return undefined
  const beside = text.replace(QUOTED, '').replace(/[\s(),]/g, '')
  return beside === '' ? found.map(([whole]) => unescaped(whole.slice(1, -1))) : undefined
}

export const unescaped = (text: string): string => text.replace(/\\(["\\;])/g, '$1')
