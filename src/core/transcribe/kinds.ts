/** What a record is for, by what is in it; and what looks wrong about it. */
import { fromBase64, looksLikeKey, parseKey } from '../mail/dkim/key.ts'
import { isDmarc } from '../mail/dmarc/record.ts'
import { isSpf } from '../mail/spf/record.ts'
import { labelsOf, type Name } from '../names/name.ts'
import { TYPE } from '../records/types.ts'

export const KINDS = [
  'mail-exchange',
  'spf',
  'dkim-key',
  'dkim-alias',
  'dmarc',
  'proof',
  'service',
  'alias',
  'address',
  'name-server',
  'caa',
  'tlsa',
  'text',
  'other',
] as const
export type Kind = (typeof KINDS)[number]

const BY_TYPE: Record<number, Kind> = {
  [TYPE.MX]: 'mail-exchange',
  [TYPE.SRV]: 'service',
  [TYPE.A]: 'address',
  [TYPE.AAAA]: 'address',
  [TYPE.NS]: 'name-server',
  [TYPE.CAA]: 'caa',
  [TYPE.TLSA]: 'tlsa',
}

const isBelowDomainkey = (owner: Name): boolean => labelsOf(owner).some((label) => label.toLowerCase() === '_domainkey')

export function kindOf(type: number, owner: Name, text: string): Kind {
  if (type === TYPE.CNAME) return isBelowDomainkey(owner) ? 'dkim-alias' : 'alias'
  return type === TYPE.TXT ? kindOfText(text, owner) : (BY_TYPE[type] ?? 'other')
}

/** A token by which somebody proves that a domain is theirs: a label and random letters, or letters alone. */
const PROOF =
  /^[\w.@-]{2,60}[=:]\s?[\w.+/=:-]{4,}$|^(?=[\w-]*verif)[\w-]+[=:].{4,}$|^[0-9a-f]{32,}$|^[\w-]{43,}={0,2}$/i

export function kindOfText(text: string, owner: Name = '.'): Kind {
  if (isSpf(text)) return 'spf'
  if (isDmarc(text)) return 'dmarc'
  if (isKey(text, owner)) return 'dkim-key'
  if (/^v=/i.test(text)) return 'text'
  const first = labelsOf(owner)[0] ?? ''
  const value = text.slice(text.search(/[=:]/) + 1)
  return PROOF.test(text) &&
    !value.startsWith('/') &&
    !/^_(?!acme|dnsauth|verif|.*(?:verif|challenge|auth))/i.test(first)
    ? 'proof'
    : 'text'
}

const isKey = (text: string, owner: Name): boolean =>
  /^v=DKIM1\b/i.test(text) || (/(?:^|;)\s*p=/.test(text) && (looksLikeKey(text) || isBelowDomainkey(owner)))

export const PRIVATE_KEY = /-----BEGIN[A-Z ]*PRIVATE KEY/

/** Why a text must not be written as it is; undefined where nothing is wrong with it. */
export function damageOf(kind: Kind, text: string): string | undefined {
  if (PRIVATE_KEY.test(text)) return 'it is a private key, which must never be published'
  if (/\.{3}|…/.test(text) && kind !== 'text') return 'it has been shortened: the rest is missing where the dots are'
  if (kind !== 'dkim-key') return undefined
  const key = /(?:^|;)\s*p=([^;]*)/.exec(text)?.[1]?.replace(/\s+/g, '') ?? ''
  if (key !== '' && !fromBase64(key)) return 'the key is not valid base64: part of it is missing or was changed'
  const [bad] = parseKey(text).problems.filter((each) =>
    ['syntax', 'key-missing', 'key-unreadable'].includes(each.kind),
  )
  return bad && `the key cannot be used: ${bad.message}`
}

/** What is worth a second look: a value of one purpose under a name for another. */
export function oddName(kind: Kind, owner: Name, text: string): string | undefined {
  const [first = '', second = ''] = labelsOf(owner).map((label) => label.toLowerCase())
  const below = isBelowDomainkey(owner)
  if (kind === 'spf' && (below || first === '_dmarc'))
    return `an SPF record stands under ${below ? 'the name of a DKIM key' : 'the name of a DMARC record'}`
  if (kind === 'dkim-key' && !below) return 'a DKIM key stands under a name without _domainkey: no verifier looks there'
  if (kind === 'dmarc' && first !== '_dmarc')
    return 'a DMARC record stands under another name than _dmarc: no receiver looks there'
  if (below && (kind === 'proof' || kind === 'text')) return 'a text that is no key stands under the name of a DKIM key'
  if (first === '_dmarc' && kind !== 'dmarc' && text !== '') return 'a text that is no DMARC record stands under _dmarc'
  if (kind === 'text' && /^[a-z0-9-]+(?:\.[a-z0-9-]+)+\.?$/i.test(text))
    return 'the text is the name of a host, as a CNAME has it'
  if (kind === 'text' && /^\d+\.\d+\.\d+\.\d+$/.test(text)) return 'the text is an address, as an A record has it'
  if (kind === 'text' && first === 'selector' && second === '') return undefined
  return undefined
}
