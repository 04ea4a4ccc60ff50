/**
 * The table of record types: one row a type, from which its text and its wire form are read and written.
 * A new type is one row here and its vectors in test/core/records.
 */
import {
  anyText,
  type FieldKind,
  ipv4,
  ipv6,
  name,
  optionalString,
  quotedText,
  seconds,
  string,
  strings,
  u8,
  u16,
  u32,
} from './fields.ts'
import { tag } from './kinds/caa.ts'
import { algorithm, certificateKind, moment, scheme, typeCovered, typeList } from './kinds/dnssec.ts'
import { gatewayKey, hostIdentity, relay } from './kinds/hosts.ts'
import { nsapAddress, place } from './kinds/locations.ts'
import { base64OrNone, base64Rest, eui48, eui64, hashedName, hexRest, node64, salt } from './kinds/octets.ts'
import { parameters } from './kinds/parameters.ts'
import { prefixes } from './kinds/prefixes.ts'
import { typeBits, wellKnownServices } from './kinds/services.ts'
import { nameType } from './type-names.ts'

export {
  BESIDE_ALIAS,
  CLASS_ANY,
  CLASS_IN,
  CLASS_NONE,
  classText,
  parseClass,
  parseType,
  TYPE,
  TYPES_OF_SIGNING,
  typeText,
} from './type-names.ts'

export interface Field {
  kind: FieldKind
  /** The standard’s noun for it: `preference`. */
  label: string
  /** The same in a sentence: `the preference`. */
  phrase: string
}

const phraseOf = (label: string): string => `${/^IPv[46]/.test(label) ? 'an' : label === 'text' ? 'a' : 'the'} ${label}`

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

type Options = Pick<TypeRow, 'target' | 'compressible' | 'folds'>

const row = (type: number, mnemonic: string, fields: [string, FieldKind][], options: Options = {}): TypeRow => ({
  type,
  mnemonic,
  fields: fields.map(([label, kind]) => ({ label, kind, phrase: phraseOf(label) })),
  ...options,
})

const OLD: Options = { compressible: true, folds: true }
const FOLDS: Options = { folds: true }

const keyFields: [string, FieldKind][] = [
  ['flags', u16],
  ['protocol', u8],
  ['algorithm', algorithm],
  ['public key', base64Rest],
]
const digestFields: [string, FieldKind][] = [
  ['key tag', u16],
  ['algorithm', algorithm],
  ['digest type', u8],
  ['digest', hexRest],
]
const certificateFields: [string, FieldKind][] = [
  ['usage', u8],
  ['selector', u8],
  ['matching type', u8],
  ['certificate data', hexRest],
]
const serviceFields: [string, FieldKind][] = [
  ['priority', u16],
  ['target', name],
  ['parameters', parameters],
]
const hashFields: [string, FieldKind][] = [
  ['hash algorithm', u8],
  ['flags', u8],
  ['iterations', u16],
  ['salt', salt],
]
const signatureFields: [string, FieldKind][] = [
  ['type covered', typeCovered],
  ['algorithm', algorithm],
  ['number of labels', u8],
  ['original TTL', seconds],
  ['expiration', moment],
  ['inception', moment],
  ['key tag', u16],
  ['signer', name],
  ['signature', base64Rest],
]
const preferred = (label: string, kind: FieldKind): [string, FieldKind][] => [
  ['preference', u16],
  [label, kind],
]

const ROWS: TypeRow[] = [
  row(1, 'A', [['IPv4 address', ipv4]]),
  row(2, 'NS', [['name server', name]], { ...OLD, target: 0 }),
  row(3, 'MD', [['host', name]], OLD),
  row(4, 'MF', [['host', name]], OLD),
  row(5, 'CNAME', [['target', name]], { ...OLD, target: 0 }),
  row(
    6,
    'SOA',
    [
      ['MNAME', name],
      ['RNAME', name],
      ['serial', u32],
      ['refresh', seconds],
      ['retry', seconds],
      ['expire', seconds],
      ['minimum', seconds],
    ],
    OLD,
  ),
  row(7, 'MB', [['host', name]], OLD),
  row(8, 'MG', [['mailbox', name]], OLD),
  row(9, 'MR', [['mailbox', name]], OLD),
  row(11, 'WKS', [
    ['IPv4 address', ipv4],
    ['protocol and ports', wellKnownServices],
  ]),
  row(12, 'PTR', [['target', name]], { ...OLD, target: 0 }),
  row(13, 'HINFO', [
    ['processor', string],
    ['system', string],
  ]),
  row(
    14,
    'MINFO',
    [
      ['mailbox of whoever is responsible', name],
      ['mailbox for errors', name],
    ],
    OLD,
  ),
  row(15, 'MX', preferred('exchange', name), { ...OLD, target: 1 }),
  row(16, 'TXT', [['text', strings]]),
  row(
    17,
    'RP',
    [
      ['mailbox', name],
      ['name of the texts', name],
    ],
    FOLDS,
  ),
  row(
    18,
    'AFSDB',
    [
      ['subtype', u16],
      ['host', name],
    ],
    { ...FOLDS, target: 1 },
  ),
  row(19, 'X25', [['address', string]]),
  row(20, 'ISDN', [
    ['address', string],
    ['subaddress', optionalString],
  ]),
  row(21, 'RT', preferred('intermediate host', name), { ...FOLDS, target: 1 }),
  row(22, 'NSAP', [['address', nsapAddress]]),
  row(23, 'NSAP-PTR', [['target', name]]),
  row(24, 'SIG', signatureFields, FOLDS),
  row(25, 'KEY', keyFields),
  row(
    26,
    'PX',
    [
      ['preference', u16],
      ['domain', name],
      ['domain of X.400', name],
    ],
    FOLDS,
  ),
  row(27, 'GPOS', [
    ['longitude', string],
    ['latitude', string],
    ['altitude', string],
  ]),
  row(28, 'AAAA', [['IPv6 address', ipv6]]),
  row(29, 'LOC', [['place', place]]),
  row(
    30,
    'NXT',
    [
      ['next name', name],
      ['types', typeBits],
    ],
    FOLDS,
  ),
  row(31, 'EID', [['identifier', hexRest]]),
  row(32, 'NIMLOC', [['locator', hexRest]]),
  row(
    33,
    'SRV',
    [
      ['priority', u16],
      ['weight', u16],
      ['port', u16],
      ['target', name],
    ],
    { ...FOLDS, target: 3 },
  ),
  row(
    35,
    'NAPTR',
    [
      ['order', u16],
      ['preference', u16],
      ['flags', string],
      ['service', string],
      ['expression', string],
      ['replacement', name],
    ],
    { ...FOLDS, target: 5 },
  ),
  row(36, 'KX', preferred('exchanger', name), { ...FOLDS, target: 1 }),
  row(37, 'CERT', [
    ['kind', certificateKind],
    ['key tag', u16],
    ['algorithm', algorithm],
    ['certificate', base64Rest],
  ]),
  row(39, 'DNAME', [['target', name]], { ...FOLDS, target: 0 }),
  row(42, 'APL', [['prefixes', prefixes]]),
  row(43, 'DS', digestFields),
  row(44, 'SSHFP', [
    ['algorithm', u8],
    ['fingerprint type', u8],
    ['fingerprint', hexRest],
  ]),
  row(45, 'IPSECKEY', [['gateway and key', gatewayKey]]),
  row(46, 'RRSIG', signatureFields, FOLDS),
  row(47, 'NSEC', [
    ['next name', name],
    ['types', typeList],
  ]),
  row(48, 'DNSKEY', keyFields),
  row(49, 'DHCID', [['identifier', base64Rest]]),
  row(50, 'NSEC3', [...hashFields, ['next hashed name', hashedName], ['types', typeList]]),
  row(51, 'NSEC3PARAM', hashFields),
  row(52, 'TLSA', certificateFields),
  row(53, 'SMIMEA', certificateFields),
  row(55, 'HIP', [['host identity', hostIdentity]]),
  row(56, 'NINFO', [['text', strings]]),
  row(57, 'RKEY', keyFields),
  row(58, 'TALINK', [
    ['previous name', name],
    ['next name', name],
  ]),
  row(59, 'CDS', digestFields),
  row(60, 'CDNSKEY', keyFields),
  row(61, 'OPENPGPKEY', [['key', base64Rest]]),
  row(62, 'CSYNC', [
    ['serial', u32],
    ['flags', u16],
    ['types', typeList],
  ]),
  row(63, 'ZONEMD', [
    ['serial', u32],
    ['scheme', u8],
    ['hash algorithm', u8],
    ['digest', hexRest],
  ]),
  row(64, 'SVCB', serviceFields, { target: 1 }),
  row(65, 'HTTPS', serviceFields, { target: 1 }),
  row(66, 'DSYNC', [
    ['type', typeCovered],
    ['scheme', scheme],
    ['port', u16],
    ['target', name],
  ]),
  row(67, 'HHIT', [['identity', base64Rest]]),
  row(68, 'BRID', [['identity', base64Rest]]),
  row(99, 'SPF', [['text', strings]]),
  row(104, 'NID', preferred('node identifier', node64)),
  row(105, 'L32', preferred('locator', ipv4)),
  row(106, 'L64', preferred('locator', node64)),
  row(107, 'LP', preferred('name of the locators', name), { target: 1 }),
  row(108, 'EUI48', [['address', eui48]]),
  row(109, 'EUI64', [['address', eui64]]),
  row(256, 'URI', [
    ['priority', u16],
    ['weight', u16],
    ['target', quotedText],
  ]),
  row(257, 'CAA', [
    ['flags', u8],
    ['tag', tag],
    ['value', anyText],
  ]),
  row(258, 'AVC', [['text', strings]]),
  row(259, 'DOA', [
    ['enterprise', u32],
    ['type', u32],
    ['location', u8],
    ['media type', string],
    ['data', base64OrNone],
  ]),
  row(260, 'AMTRELAY', [['relay', relay]]),
  row(261, 'RESINFO', [['text', strings]]),
  row(262, 'WALLET', [['text', strings]]),
  row(32_768, 'TA', digestFields),
  row(32_769, 'DLV', digestFields),
]

const BY_TYPE: (TypeRow | undefined)[] = Array.from({ length: ROWS[ROWS.length - 1]!.type + 1 })
for (const each of ROWS) {
  BY_TYPE[each.type] = each
  nameType(each.mnemonic, each.type)
}

/** Types that are known by name, and read in the generic form alone: nobody has them but in old files and experiments. */
for (const [type, mnemonic] of [
  [10, 'NULL'],
  [34, 'ATMA'],
  [38, 'A6'],
  [40, 'SINK'],
  [100, 'UINFO'],
  [101, 'UID'],
  [102, 'GID'],
  [103, 'UNSPEC'],
  [263, 'CLA'],
  [264, 'IPN'],
] as const)
  nameType(mnemonic, type)

/** The row of a type, or undefined for one that is only known by number. */
export const rowOf = (type: number): TypeRow | undefined => (type < BY_TYPE.length ? BY_TYPE[type] : undefined)

/** All rows, in the order of their numbers. */
export const typeRows = (): readonly TypeRow[] => ROWS
