/** Names and numbers of record types, classes and the types that nobody stores. */

/** Types that code speaks of by name. */
export const TYPE = {
  A: 1,
  NS: 2,
  CNAME: 5,
  SOA: 6,
  PTR: 12,
  MX: 15,
  TXT: 16,
  KEY: 25,
  AAAA: 28,
  SRV: 33,
  NAPTR: 35,
  DNAME: 39,
  OPT: 41,
  DS: 43,
  SSHFP: 44,
  RRSIG: 46,
  NSEC: 47,
  DNSKEY: 48,
  NSEC3: 50,
  NSEC3PARAM: 51,
  TLSA: 52,
  CDS: 59,
  CDNSKEY: 60,
  ZONEMD: 63,
  SVCB: 64,
  HTTPS: 65,
  SPF: 99,
  ANY: 255,
  CAA: 257,
} as const

const NUMBERS = new Map<string, number>(Object.entries(TYPE).filter(([name]) => name !== 'OPT' && name !== 'ANY'))
const NAMES = new Map<number, string>([...NUMBERS].map(([name, number]) => [number, name]))

/** Makes a type's mnemonic known; the type table does this for each of its rows. */
export function nameType(mnemonic: string, type: number): void {
  NUMBERS.set(mnemonic, type)
  NAMES.set(type, mnemonic)
}

/** A type's mnemonic, or `TYPE123` (RFC 3597 §5). */
export const typeText = (type: number): string => NAMES.get(type) ?? `TYPE${type}`

/** A type's number from its mnemonic or `TYPE123`, any case; or undefined. */
export function parseType(text: string): number | undefined {
  const upper = text.toUpperCase()
  return NUMBERS.get(upper) ?? numbered(upper, 'TYPE')
}

const CLASSES = new Map([
  ['IN', 1],
  ['CH', 3],
  ['HS', 4],
])
export const CLASS_IN = 1
/** Classes that only dynamic updates and signatures of messages have (RFC 2136 §1.3). */
export const CLASS_NONE = 254
export const CLASS_ANY = 255

/** A class's number from its mnemonic or `CLASS123`, any case; or undefined. */
export function parseClass(text: string): number | undefined {
  const upper = text.toUpperCase()
  return CLASSES.get(upper) ?? numbered(upper, 'CLASS')
}

/** A class as text: its mnemonic, else `CLASS123` (RFC 3597 §5). */
export const classText = (klass: number): string =>
  [...CLASSES].find(([, number]) => number === klass)?.[0] ?? `CLASS${klass}`

function numbered(text: string, word: string): number | undefined {
  const number = text.startsWith(word) ? /^\d{1,5}$/.exec(text.slice(word.length)) : null
  return number && Number(number[0]) <= 0xffff ? Number(number[0]) : undefined
}

/** What may be at the name of an alias: what signs it, or proves that nothing else is there (RFC 2181 §10.1, RFC 4035 §2.5). Some servers refuse KEY there. */
export const BESIDE_ALIAS: ReadonlySet<number> = new Set([TYPE.RRSIG, TYPE.NSEC, TYPE.KEY])

/** What signing makes (RFC 4034, RFC 5155, RFC 7344, RFC 8976): a server that signs has its own. */
export const TYPES_OF_SIGNING: ReadonlySet<number> = new Set([
  TYPE.RRSIG,
  TYPE.NSEC,
  TYPE.NSEC3,
  TYPE.NSEC3PARAM,
  TYPE.DNSKEY,
  TYPE.CDS,
  TYPE.CDNSKEY,
  TYPE.ZONEMD,
  // Where named keeps how far it is with signing (sig-signing-type).
  65_534,
])
