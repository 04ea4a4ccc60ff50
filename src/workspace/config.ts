/** bramblefront.yaml: what a zone file cannot hold. Every mistake in it is named with its line. */
import { closest, distance } from 'fastest-levenshtein'
import { isMap, isScalar, LineCounter, parseDocument } from 'yaml'
import { array, boolean, mixed, number, type ObjectSchema, object, string, ValidationError } from 'yup'
import { parseAddress } from '../core/names/address.ts'
import { toName } from '../core/names/name.ts'
import { Trouble } from './trouble.ts'

export interface ZoneEntry {
  zone?: string
  file: string
  audience?: 'public' | 'private'
  complete?: boolean
  signed?: 'server' | 'file' | 'no'
}

export interface VantageEntry {
  label: string
  address: string
  port: number
}

export interface Config {
  zones: (string | ZoneEntry)[]
  vantages: VantageEntry[]
}

const domainName = string().test(
  'name',
  '${path} must be a domain name, as in hollowmere.example',
  (value) => value === undefined || toName(value) !== undefined,
)

const zoneEntry: ObjectSchema<ZoneEntry> = object({
  zone: domainName,
  file: string().required(),
  audience: string().oneOf(['public', 'private'] as const),
  complete: boolean().strict(),
  signed: string().oneOf(['server', 'file', 'no'] as const),
}).noUnknown()

const vantageEntry: ObjectSchema<VantageEntry> = object({
  label: string().required(),
  address: string()
    .required()
    .test('address', '${path} must be an IPv4 or IPv6 address', (value) => value === undefined || parseAddress(value) !== undefined),
  port: number().strict().integer().min(1).max(65_535).default(53),
}).noUnknown()

const schema = object({
  zones: array(
    mixed<string | ZoneEntry>()
      .required()
      .test(
        'entry',
        '${path} must be a file pattern, or an entry with a file',
        (value) => typeof value === 'string' || (typeof value === 'object' && value !== null),
      ),
  ).default([]),
  vantages: array(vantageEntry.required()).default([]),
}).noUnknown()

/** The keys that each place knows, for naming the nearest one. */
const KEYS: Record<string, string[]> = {
  '': ['zones', 'vantages'],
  zones: Object.keys(zoneEntry.fields),
  vantages: Object.keys(vantageEntry.fields),
}

/** The known word that was probably meant, or undefined. */
function nearest(word: string, words: string[]): string | undefined {
  const meant = closest(word, words)
  return distance(word, meant) <= 3 ? meant : undefined
}

/** Reads the text of a bramblefront.yaml; `file` is for messages. */
export function parseConfig(text: string, file: string): Config {
  const lineCounter = new LineCounter()
  const document = parseDocument(text, { lineCounter })
  const at = (offset: number | undefined): string => {
    if (offset === undefined) return file
    const { line, col } = lineCounter.linePos(offset)
    return `${file}:${line}:${col}`
  }
  const [error] = document.errors
  if (error) throw new Trouble(`${at(error.pos[0])}: not YAML: ${error.message.split('\n')[0].replace(/ at line.*$/, '')}`)
  const value: unknown = document.toJS() ?? {}
  const place = (path: string): string => {
    const keys = path
      .split(/[.[\]]+/)
      .filter(Boolean)
      .map((key) => (/^\d+$/.test(key) ? Number(key) : key))
    for (let n = keys.length; n >= 0; n--) {
      const parent = document.getIn(keys.slice(0, n - 1), true)
      const pair = n > 0 && isMap(parent) ? parent.items.find((item) => isScalar(item.key) && item.key.value === keys[n - 1]) : undefined
      const node = (pair?.key ?? document.getIn(keys.slice(0, n), true)) as { range?: number[] } | undefined
      if (node?.range) return at(node.range[0])
    }
    return file
  }
  try {
    // Strictly first: a cast would drop unknown keys without a word.
    schema.validateSync(value, { strict: true, abortEarly: true })
    const config = schema.cast(value)
    const zones = config.zones.map((entry, i) => {
      if (typeof entry === 'string') return entry
      try {
        return zoneEntry.validateSync(entry, { strict: true })
      } catch (error) {
        throw error instanceof ValidationError ? withPath(error, `zones[${i}]`) : error
      }
    })
    return { zones, vantages: config.vantages }
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    throw new Trouble(wording(error, place, value))
  }
}

function withPath(error: ValidationError, prefix: string): ValidationError {
  error.path = error.path ? `${prefix}.${error.path}` : prefix
  return error
}

function wording(error: ValidationError, place: (path: string) => string, value: unknown): string {
  const path = error.path ?? ''
  if (error.type !== 'noUnknown') return `${place(path)}: ${error.message.replace(/^this /, `${path || 'the file'} `)}`
  const known = KEYS[path.replace(/[[.].*$/, '')] ?? []
  let here = value as Record<string, unknown>
  for (const key of path.split(/[.[\]]+/).filter(Boolean)) here = here[key] as Record<string, unknown>
  const unknown = Object.keys(here).find((key) => !known.includes(key)) ?? ''
  const meant = nearest(unknown, known)
  return `${place(path === '' ? unknown : `${path}.${unknown}`)}: unknown key “${unknown}”; ${meant ? `is “${meant}” meant?` : `known here: ${known.join(', ')}`}`
}
