import { array, boolean, type InferType, mixed, number, type ObjectSchema, object, string } from 'yup'
import { type ServerEntry, urlVantage } from '../core/confirm/vantage.ts'
import { parseAddress } from '../core/names/address.ts'
import { toName } from '../core/names/name.ts'
import { octetsOf } from '../core/names/octets.ts'
import { parseTtl } from '../core/records/ttl.ts'
import { ruleOf } from '../core/rules/catalogue.ts'
import type { Exception, Follow, Front } from '../core/rules/rule.ts'
import { FIELD_NAMES } from '../core/sheet/style.ts'
import { asJsonSchema } from './json-schema.ts'

export interface ZoneEntry {
  zone?: string
  file: string
  audience?: 'public' | 'private'
  complete?: boolean
  signed?: 'server' | 'file' | 'no'
  view?: string
  sheet?: string
}

/** The vantages that need no description: those of the zone itself, and those of this machine. */
export const BUILT_IN = ['authoritative', 'system'] as const
export type BuiltIn = (typeof BUILT_IN)[number]

export interface VantageEntry {
  label: string
  address?: string
  port?: number
  transport?: (typeof TRANSPORTS)[number]
  name?: string
  authority?: string
  url?: string
  method?: 'post' | 'get'
}

const TRANSPORTS = ['udp', 'tcp', 'tls', 'https'] as const

const domainName = string().test(
  'name',
  '${path} must be a domain name, as in example.com',
  (value) => value === undefined || toName(value) !== undefined,
)

export const zoneEntry: ObjectSchema<ZoneEntry> = object({
  zone: domainName.meta({ says: 'the zone; without it, the file says which it is for' }),
  file: string().required().meta({ says: 'the zone file, seen from the workspace’s folder' }),
  audience: string()
    .oneOf(['public', 'private'] as const)
    .meta({ says: 'who asks for it; a private zone may have private addresses' }),
  complete: boolean()
    .strict()
    .meta({ says: 'false if others add names that are not in the file: then no name counts as missing' }),
  signed: string()
    .oneOf(['server', 'file', 'no'] as const)
    .meta({ says: 'who signs it: the server, the file is signed, or nobody' }),
  view: string().meta({ says: 'the view that this version of the zone belongs to, if there are several' }),
  sheet: string().meta({
    says: 'the label of the style of the web form at which the zone is kept',
  }),
}).noUnknown()

const address = string().test(
  'address',
  '${path} must be an IPv4 or IPv6 address',
  (value) => value === undefined || parseAddress(value) !== undefined,
)
const port = number().strict().integer().min(1).max(65_535)

const authority = string().meta({
  says: 'a PEM file (relative to the workspace) with the certificate authorities to trust instead of the system’s',
})

export const vantageEntry: ObjectSchema<VantageEntry> = object({
  label: string().required().meta({ says: 'what it is called in output, and with --at' }),
  address: address.meta({ says: 'its IPv4 or IPv6 address; may be left out where there is a url' }),
  port: port.meta({ says: 'where it listens (default: 53, over TLS 853, over HTTPS that of the url)' }),
  transport: string().oneOf(TRANSPORTS).meta({ says: 'udp (over to TCP where needed; default), tcp, tls or https' }),
  name: domainName.meta({ says: 'the name that its certificate must be for' }),
  authority,
  url: string()
    .test(
      'url',
      '${path} must be an https:// URL, as in https://dns.example.net/dns-query',
      (value) => value === undefined || urlVantage('', value) !== undefined,
    )
    .meta({ says: 'where it answers over HTTPS' }),
  method: string()
    .oneOf(['post', 'get'] as const)
    .meta({ says: 'how it is asked over HTTPS (default: post)' }),
})
  .noUnknown()
  .test('reach', '${path} needs an address or a url', (value) => value.address !== undefined || value.url !== undefined)
  .meta({ anyOf: [{ required: ['address'] }, { required: ['url'] }] })

const serverEntry: ObjectSchema<ServerEntry> = object({
  name: domainName.required().meta({ says: 'the name server, as NS records name it' }),
  address: address.required().meta({ says: 'the address at which it answers' }),
  port: port.default(53),
}).noUnknown()

const RANGE = /^([0-9a-f.:]+)(?:\/(\d{1,3}))?$/i
const frontEntry: ObjectSchema<Front> = object({
  label: string().required().meta({ says: 'what it is called in findings' }),
  ranges: array(
    string()
      .required()
      .test('range', '${path} must be a network, as in 203.0.113.0/24', (value) => {
        const [, address, bits] = RANGE.exec(value ?? '') ?? []
        const octets = address === undefined ? undefined : parseAddress(address)
        return octets !== undefined && Number(bits ?? 0) <= octets.length * 8
      }),
  )
    .default([])
    .meta({ says: 'the networks that it answers from' }),
  names: array(domainName.required()).default([]).meta({ says: 'names that lead to it, including their subdomains' }),
}).noUnknown()

const followEntry: ObjectSchema<Follow> = object({
  owner: domainName.required().meta({ says: 'the zone apex' }),
  target: domainName.required().meta({ says: 'the name that it follows' }),
}).noUnknown()

const exceptionEntry: ObjectSchema<Pick<Exception, 'rule' | 'at' | 'reason'>> = object({
  rule: string()
    .required()
    .test(
      'rule',
      ({ path, value }) => `${path} must be the code of a rule, as in mx/single; ${value} is not one`,
      (value) => value === undefined || ruleOf(value) !== undefined || /^file\//.test(value),
    )
    .meta({ says: 'the rule whose findings are accepted' }),
  at: domainName.meta({ says: 'the owner; without it, wherever they are' }),
  reason: string().required().meta({ says: 'why' }),
}).noUnknown()

const deliveryEntry = object({
  label: string().required().meta({ says: 'what it is called with --to' }),
  zones: array(string().required()).required().meta({ says: 'patterns of zone names; * crosses dots' }),
  by: string()
    .oneOf(['update', 'file'] as const)
    .required()
    .meta({ says: 'update: dynamic update (RFC 2136); file: a file in a folder' }),
  view: string().meta({ says: 'the view that it is for; without it, only files that belong to no view are delivered' }),
  audience: string()
    .oneOf(['public', 'private'] as const)
    .meta({ says: 'who asks there; a private zone goes only where this says private, or where the views agree' }),
  catalog: domainName.meta({ says: 'the catalog zone that lists its zones (RFC 9432), kept in step by publish' }),
  address: address.meta({ says: 'the server that takes updates' }),
  port: port.meta({ says: 'where it listens (default: 53, over TLS 853)' }),
  key: string().meta({ says: 'the file of the transaction key, seen from the workspace’s folder' }),
  transport: string()
    .oneOf(['tcp', 'tls'] as const)
    .meta({ says: 'how updates go (default: tcp)' }),
  name: domainName.meta({ says: 'the name that its certificate must be for' }),
  authority,
  folder: string().meta({ says: 'where files go' }),
  after: array(string().required()).meta({
    says: 'a command to run afterwards, as a list of arguments; the file’s path is the last',
  }),
})
  .noUnknown()
  .test('reach', '${path} needs an address (by: update) or a folder (by: file)', (value) =>
    value.by === 'file' ? value.folder !== undefined : value.address !== undefined,
  )
  .meta({
    anyOf: [
      { properties: { by: { const: 'update' } }, required: ['address'] },
      { properties: { by: { const: 'file' } }, required: ['folder'] },
    ],
  })

export type DeliveryEntry = InferType<typeof deliveryEntry>

const sheetEntry = object({
  label: string().required().meta({ says: 'what the style is called' }),
  apex: string()
    .oneOf(['@', 'blank', 'full'] as const)
    .meta({ says: 'how the form names the zone itself' }),
  names: string()
    .oneOf(['relative', 'full'] as const)
    .meta({ says: 'how it takes owners' }),
  'final-dot': boolean().strict().meta({ says: 'whether full names end with a dot' }),
  preference: string()
    .oneOf(['field', 'value'] as const)
    .meta({ says: 'whether the preference of MX has a field of its own' }),
  srv: string()
    .oneOf(['value', 'three', 'fields'] as const)
    .meta({ says: 'SRV: all in the value; the priority apart; each in a field' }),
  text: string()
    .oneOf(['quoted', 'bare', 'joined'] as const)
    .meta({ says: 'TXT: strings in quotes, without, or joined into one' }),
  ttl: string()
    .oneOf(['seconds', 'minutes', 'units', 'none'] as const)
    .meta({ says: 'the unit of TTLs; none where the form has no field for them' }),
  'ttl-floor': string()
    .test(
      'time',
      '${path} must be a time, as in 300 or 5m',
      (value) => value === undefined || parseTtl(octetsOf(value), 0, octetsOf(value).length) >= 0,
    )
    .meta({ says: 'the least TTL that the host takes' }),
  rows: string()
    .oneOf(['record', 'set'] as const)
    .meta({ says: 'a row a record, or a row a set' }),
  labels: object(Object.fromEntries(FIELD_NAMES.map((each) => [each, string()])))
    .noUnknown()
    .meta({ says: 'what the form calls its fields' }),
}).noUnknown()

export type SheetEntry = InferType<typeof sheetEntry>

const count = number().strict().integer().min(1)
const backupsEntry = object({
  days: count.meta({ says: 'how many days backups are kept (default: for good)' }),
  copies: count.meta({ says: 'how many are kept of a zone (default: all)' }),
}).noUnknown()
const policyStepsEntry = object({
  days: count.meta({
    says: 'how long a step of a DMARC policy must have been published before the next (default: 14)',
  }),
  messages: count.meta({ says: 'how many messages reports must have seen by then (default: 100)' }),
}).noUnknown()

export const schema = object({
  zones: array(
    mixed<string | ZoneEntry>()
      .required()
      .test(
        'entry',
        '${path} must be a file pattern, or an entry with a file',
        (value) => typeof value === 'string' || (typeof value === 'object' && value !== null),
      )
      .meta({ either: [{ type: 'string', description: 'a file pattern, as in zones/*.zone' }, zoneEntry] }),
  )
    .default([])
    .meta({
      says: 'your zone files: patterns, or entries that say more about one',
    }),
  vantages: array(
    mixed<string | VantageEntry>()
      .required()
      .test('entry', '${path} must be authoritative, system, or an entry with a label', (value) =>
        typeof value === 'string'
          ? BUILT_IN.some((word) => word === value)
          : typeof value === 'object' && value !== null,
      )
      .meta({ either: [{ enum: BUILT_IN }, vantageEntry] }),
  )
    .default([])
    .meta({
      says: 'whom confirm asks; authoritative (the zone’s own servers) and system (this machine’s resolvers) are built in, and asked where there is no entry',
    }),
  servers: array(serverEntry.required())
    .default([])
    .meta({ says: 'where name servers really listen, if DNS says otherwise' }),
  fronts: array(frontEntry.required())
    .default([])
    .meta({ says: 'reverse proxies and edge networks that answer with their own addresses' }),
  follows: array(followEntry.required()).default([]).meta({ says: 'zone apexes that follow another name' }),
  exceptions: array(exceptionEntry.required()).default([]).meta({ says: 'accepted findings' }),
  deliveries: array(deliveryEntry.required())
    .default([])
    .meta({ says: 'how zones get to their servers, for bramblefront publish' }),
  sheets: array(sheetEntry.required())
    .default([])
    .meta({ says: 'styles of web forms at which zones are kept, for bramblefront sheet' }),
  backups: backupsEntry.meta({ says: 'how long backups are kept, for bramblefront history --prune' }),
  'policy-steps': policyStepsEntry.meta({
    says: 'when the next step of a DMARC policy may be taken',
  }),
}).noUnknown()

/** The keys that each place knows, for naming the nearest one. */
export const KEYS: Record<string, string[]> = {
  '': Object.keys(schema.fields),
  zones: Object.keys(zoneEntry.fields),
  vantages: Object.keys(vantageEntry.fields),
  servers: Object.keys(serverEntry.fields),
  fronts: Object.keys(frontEntry.fields),
  follows: Object.keys(followEntry.fields),
  exceptions: Object.keys(exceptionEntry.fields),
  deliveries: Object.keys(deliveryEntry.fields),
  sheets: Object.keys(sheetEntry.fields),
  'sheets.labels': [...FIELD_NAMES],
  backups: Object.keys(backupsEntry.fields),
  'policy-steps': Object.keys(policyStepsEntry.fields),
}

/** How lists are written, where something else stands in their place. */
export const EXAMPLES: Record<string, string> = {
  '': 'zones: [zones/*.zone]',
  zones: '- zones/*.zone',
  vantages: '- authoritative',
  servers: '- {name: HOST, address: ADDRESS, port: PORT}',
  fronts: '- {label: LABEL, ranges: [NETWORK]}',
  follows: '- {owner: NAME, target: NAME}',
  exceptions: '- {rule: CODE, at: NAME, reason: WHY}',
  deliveries: '- {label: LABEL, zones: [PATTERN], by: file, folder: FOLDER}',
  sheets: '- {label: LABEL}',
}

/** The file as a JSON Schema (draft 2020-12), made of the same description that it is checked by. */
export function configSchema(): object {
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'bramblefront.yaml',
    description: 'A workspace: what a zone file cannot hold.',
    ...asJsonSchema(schema),
  }
}
