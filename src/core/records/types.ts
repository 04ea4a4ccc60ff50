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

export { CLASS_IN, parseClass, parseType, TYPE, typeText } from './type-names.ts'

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

type Options = Pick<TypeRow, 'target' | 'compressible' | 'folds'>

const row = (type: number, mnemonic: string, fields: [string, FieldKind][], options: Options = {}): TypeRow => ({
  type,
  mnemonic,
  fields: fields.map(([label, kind]) => ({ label, kind })),
  ...options,
})

const OLD: Options = { compressible: true, folds: true }
const FOLDS: Options = { folds: true }

const keyFields: [string, FieldKind][] = [
  ['the flags', u16],
  ['the protocol', u8],
  ['the algorithm', algorithm],
  ['the public key', base64Rest],
]
const digestFields: [string, FieldKind][] = [
  ['the key tag', u16],
  ['the algorithm', algorithm],
  ['the digest type', u8],
  ['the digest', hexRest],
]
const certificateFields: [string, FieldKind][] = [
  ['the usage', u8],
  ['the selector', u8],
  ['the matching type', u8],
  ['the certificate data', hexRest],
]
const serviceFields: [string, FieldKind][] = [
  ['the priority', u16],
  ['the target', name],
  ['the parameters', parameters],
]
const hashFields: [string, FieldKind][] = [
  ['the hash algorithm', u8],
  ['the flags', u8],
  ['the iterations', u16],
  ['the salt', salt],
]
const signatureFields: [string, FieldKind][] = [
  ['the type covered', typeCovered],
  ['the algorithm', algorithm],
  ['the number of labels', u8],
  ['the original TTL', seconds],
  ['the expiration', moment],
  ['the inception', moment],
  ['the key tag', u16],
  ['the signer', name],
  ['the signature', base64Rest],
]
const preferred = (label: string, kind: FieldKind): [string, FieldKind][] => [
  ['the preference', u16],
  [label, kind],
]

const ROWS: TypeRow[] = [
  row(1, 'A', [['an IPv4 address', ipv4]]),
  row(2, 'NS', [['the name server', name]], { ...OLD, target: 0 }),
  row(3, 'MD', [['the host', name]], OLD),
  row(4, 'MF', [['the host', name]], OLD),
  row(5, 'CNAME', [['the target', name]], { ...OLD, target: 0 }),
  row(
    6,
    'SOA',
    [
      ['the primary server', name],
      ['the mailbox', name],
      ['the serial', u32],
      ['refresh', seconds],
      ['retry', seconds],
      ['expire', seconds],
      ['minimum', seconds],
    ],
    OLD,
  ),
  row(7, 'MB', [['the host', name]], OLD),
  row(8, 'MG', [['the mailbox', name]], OLD),
  row(9, 'MR', [['the mailbox', name]], OLD),
  row(11, 'WKS', [
    ['an IPv4 address', ipv4],
    ['the protocol and ports', wellKnownServices],
  ]),
  row(12, 'PTR', [['the target', name]], { ...OLD, target: 0 }),
  row(13, 'HINFO', [
    ['the processor', string],
    ['the system', string],
  ]),
  row(
    14,
    'MINFO',
    [
      ['the mailbox of whoever is responsible', name],
      ['the mailbox for errors', name],
    ],
    OLD,
  ),
  row(15, 'MX', preferred('the exchange', name), { ...OLD, target: 1 }),
  row(16, 'TXT', [['a text', strings]]),
  row(
    17,
    'RP',
    [
      ['the mailbox', name],
      ['the name of the texts', name],
    ],
    FOLDS,
  ),
  row(
    18,
    'AFSDB',
    [
      ['the subtype', u16],
      ['the host', name],
    ],
    { ...FOLDS, target: 1 },
  ),
  row(19, 'X25', [['the address', string]]),
  row(20, 'ISDN', [
    ['the address', string],
    ['the subaddress', optionalString],
  ]),
  row(21, 'RT', preferred('the intermediate host', name), { ...FOLDS, target: 1 }),
  row(22, 'NSAP', [['the address', nsapAddress]]),
  row(23, 'NSAP-PTR', [['the target', name]]),
  row(24, 'SIG', signatureFields, FOLDS),
  row(25, 'KEY', keyFields),
  row(
    26,
    'PX',
    [
      ['the preference', u16],
      ['the domain', name],
      ['the domain of X.400', name],
    ],
    FOLDS,
  ),
  row(27, 'GPOS', [
    ['the longitude', string],
    ['the latitude', string],
    ['the altitude', string],
  ]),
  row(28, 'AAAA', [['an IPv6 address', ipv6]]),
  row(29, 'LOC', [['the place', place]]),
  row(
    30,
    'NXT',
    [
      ['the next name', name],
      ['the types', typeBits],
    ],
    FOLDS,
  ),
  row(31, 'EID', [['the identifier', hexRest]]),
  row(32, 'NIMLOC', [['the locator', hexRest]]),
  row(
    33,
    'SRV',
    [
      ['the priority', u16],
      ['the weight', u16],
      ['the port', u16],
      ['the target', name],
    ],
    { ...FOLDS, target: 3 },
  ),
  row(
    35,
    'NAPTR',
    [
      ['the order', u16],
      ['the preference', u16],
      ['the flags', string],
      ['the service', string],
      ['the expression', string],
      ['the replacement', name],
    ],
    { ...FOLDS, target: 5 },
  ),
  row(36, 'KX', preferred('the exchanger', name), { ...FOLDS, target: 1 }),
  row(37, 'CERT', [
    ['the kind', certificateKind],
    ['the key tag', u16],
    ['the algorithm', algorithm],
    ['the certificate', base64Rest],
  ]),
  row(39, 'DNAME', [['the target', name]], { ...FOLDS, target: 0 }),
  row(42, 'APL', [['the prefixes', prefixes]]),
  row(43, 'DS', digestFields),
  row(44, 'SSHFP', [
    ['the algorithm', u8],
    ['the fingerprint type', u8],
    ['the fingerprint', hexRest],
  ]),
  row(45, 'IPSECKEY', [['the gateway and key', gatewayKey]]),
  row(46, 'RRSIG', signatureFields, FOLDS),
  row(47, 'NSEC', [
    ['the next name', name],
    ['the types', typeList],
  ]),
  row(48, 'DNSKEY', keyFields),
  row(49, 'DHCID', [['the identifier', base64Rest]]),
  row(50, 'NSEC3', [...hashFields, ['the next hashed name', hashedName], ['the types', typeList]]),
  row(51, 'NSEC3PARAM', hashFields),
  row(52, 'TLSA', certificateFields),
  row(53, 'SMIMEA', certificateFields),
  row(55, 'HIP', [['the host identity', hostIdentity]]),
  row(56, 'NINFO', [['a text', strings]]),
  row(57, 'RKEY', keyFields),
  row(58, 'TALINK', [
    ['the previous name', name],
    ['the next name', name],
  ]),
  row(59, 'CDS', digestFields),
  row(60, 'CDNSKEY', keyFields),
  row(61, 'OPENPGPKEY', [['the key', base64Rest]]),
  row(62, 'CSYNC', [
    ['the serial', u32],
    ['the flags', u16],
    ['the types', typeList],
  ]),
  row(63, 'ZONEMD', [
    ['the serial', u32],
    ['the scheme', u8],
    ['the hash algorithm', u8],
    ['the digest', hexRest],
  ]),
  row(64, 'SVCB', serviceFields, { target: 1 }),
  row(65, 'HTTPS', serviceFields, { target: 1 }),
  row(66, 'DSYNC', [
    ['the type', typeCovered],
    ['the scheme', scheme],
    ['the port', u16],
    ['the target', name],
  ]),
  row(67, 'HHIT', [['the identity', base64Rest]]),
  row(68, 'BRID', [['the identity', base64Rest]]),
  row(99, 'SPF', [['a text', strings]]),
  row(104, 'NID', preferred('the node identifier', node64)),
  row(105, 'L32', preferred('the locator', ipv4)),
  row(106, 'L64', preferred('the locator', node64)),
  row(107, 'LP', preferred('the name of the locators', name), { target: 1 }),
  row(108, 'EUI48', [['the address', eui48]]),
  row(109, 'EUI64', [['the address', eui64]]),
  row(256, 'URI', [
    ['the priority', u16],
    ['the weight', u16],
    ['the target', quotedText],
  ]),
  row(257, 'CAA', [
    ['the flags', u8],
    ['the tag', tag],
    ['the value', anyText],
  ]),
  row(258, 'AVC', [['a text', strings]]),
  row(259, 'DOA', [
    ['the enterprise', u32],
    ['the type', u32],
    ['the location', u8],
    ['the media type', string],
    ['the data', base64OrNone],
  ]),
  row(260, 'AMTRELAY', [['the relay', relay]]),
  row(261, 'RESINFO', [['a text', strings]]),
  row(262, 'WALLET', [['a text', strings]]),
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
