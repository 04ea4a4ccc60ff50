/**
 * The table of record types: one row a type, from which its text and its wire form are read and written.
 * A new type is one row here and its vectors in test/core/records.
 */
import { type FieldKind, ipv4, ipv6, name, seconds, strings, u16, u32 } from './fields.ts'

export interface Field {
  kind: FieldKind
  label: string
}

export interface TypeRow {
  type: number
  mnemonic: string
  fields: Field[]
  /** Which field is the name that the record points to. */
  target?: number
  /** Names in it may be compressed in messages (RFC 3597 §4: the types of RFC 1035 only). */
  compressible?: boolean
  /** Names in it are put in lower case in canonical form (RFC 4034 §6.2, RFC 6840 §5.1). */
  folds?: boolean
}

const field = (label: string, kind: FieldKind): Field => ({ label, kind })

export const TYPE = { A: 1, NS: 2, CNAME: 5, SOA: 6, PTR: 12, MX: 15, TXT: 16, AAAA: 28, SRV: 33, OPT: 41 } as const

/** Types that rules and answers speak of though their data is not read here: by number (RFC 4034, RFC 6672). */
export const META = { KEY: 25, DNAME: 39, DS: 43, RRSIG: 46, NSEC: 47, NSEC3: 50, NSEC3PARAM: 51, ANY: 255 } as const

const ROWS: TypeRow[] = [
  { type: TYPE.A, mnemonic: 'A', fields: [field('an IPv4 address', ipv4)] },
  { type: TYPE.NS, mnemonic: 'NS', fields: [field('the name server', name)], target: 0, compressible: true, folds: true },
  { type: TYPE.CNAME, mnemonic: 'CNAME', fields: [field('the target', name)], target: 0, compressible: true, folds: true },
  {
    type: TYPE.SOA,
    mnemonic: 'SOA',
    fields: [
      field('the primary server', name),
      field('the mailbox', name),
      field('the serial', u32),
      field('refresh', seconds),
      field('retry', seconds),
      field('expire', seconds),
      field('minimum', seconds),
    ],
    compressible: true,
    folds: true,
  },
  { type: TYPE.PTR, mnemonic: 'PTR', fields: [field('the target', name)], target: 0, compressible: true, folds: true },
  { type: TYPE.MX, mnemonic: 'MX', fields: [field('the preference', u16), field('the exchange', name)], target: 1, compressible: true, folds: true },
  { type: TYPE.TXT, mnemonic: 'TXT', fields: [field('a text', strings)] },
  { type: TYPE.AAAA, mnemonic: 'AAAA', fields: [field('an IPv6 address', ipv6)] },
  {
    type: TYPE.SRV,
    mnemonic: 'SRV',
    fields: [field('the priority', u16), field('the weight', u16), field('the port', u16), field('the target', name)],
    target: 3,
    folds: true,
  },
]

const BY_TYPE = new Map(ROWS.map((row) => [row.type, row]))
const BY_MNEMONIC = new Map(ROWS.map((row) => [row.mnemonic, row.type]))
const META_BY_MNEMONIC = new Map<string, number>(Object.entries(META))

/** The row of a type, or undefined for one that is only known by number. */
export const rowOf = (type: number): TypeRow | undefined => BY_TYPE.get(type)

/** All rows, in the order of their numbers. */
export const typeRows = (): readonly TypeRow[] => ROWS

/** A type's mnemonic, or `TYPE123` (RFC 3597 §5). */
export function typeText(type: number): string {
  const known = BY_TYPE.get(type)?.mnemonic
  if (known) return known
  for (const [mnemonic, number] of META_BY_MNEMONIC) if (number === type) return mnemonic
  return `TYPE${type}`
}

/** A type's number from its mnemonic or `TYPE123`, any case; or undefined. */
export function parseType(text: string): number | undefined {
  const upper = text.toUpperCase()
  const known = BY_MNEMONIC.get(upper) ?? META_BY_MNEMONIC.get(upper)
  if (known !== undefined) return known
  const number = /^TYPE(\d{1,5})$/.exec(upper)
  return number && Number(number[1]) <= 0xffff ? Number(number[1]) : undefined
}

const CLASSES = new Map([
  ['IN', 1],
  ['CH', 3],
  ['HS', 4],
])
export const CLASS_IN = 1

/** A class's number from its mnemonic or `CLASS123`, any case; or undefined. */
export function parseClass(text: string): number | undefined {
  const upper = text.toUpperCase()
  const known = CLASSES.get(upper)
  if (known !== undefined) return known
  const number = /^CLASS(\d{1,5})$/.exec(upper)
  return number && Number(number[1]) <= 0xffff ? Number(number[1]) : undefined
}
