/** bramblefront.yaml: what a zone file cannot hold. All mistakes in it are told at once, each with its line. */
import { dirname, resolve } from 'node:path'
import { closest, distance } from 'fastest-levenshtein'
import { type Schema, ValidationError } from 'yup'
import type { Vantage } from '../core/confirm/observation.ts'
import { type ServerEntry, vantageOf } from '../core/confirm/vantage.ts'
import { foldName, toName } from '../core/names/name.ts'
import type { Exception, Follow, Front } from '../core/rules/rule.ts'
import { type BuiltIn, EXAMPLES, KEYS, schema, vantageEntry, type ZoneEntry, zoneEntry } from './config-schema.ts'
import { Trouble } from './trouble.ts'
import { type Path, YamlText } from './yaml-text.ts'

export interface Config {
  zones: (string | ZoneEntry)[]
  vantages: (BuiltIn | Vantage)[]
  servers: ServerEntry[]
  fronts: Front[]
  follows: Follow[]
  exceptions: Exception[]
  /** How many days a step of a DMARC policy must have been published before the next. */
  stepDays: number
}

/** Reads the text of a bramblefront.yaml; `file` is for messages. */
export function parseConfig(text: string, file: string): Config {
  const yaml = new YamlText(text, file)
  const mistakes = mistakesIn(schema, yaml.value, [])
  const { zones, vantages } = yaml.value as { zones?: unknown; vantages?: unknown }
  mistakes.push(...entries(zoneEntry, zones, 'zones'), ...entries(vantageEntry, vantages, 'vantages'))
  if (mistakes.length === 0) mistakes.push(...labelledTwice(yaml.value as object))
  if (mistakes.length > 0)
    throw new Trouble(mistakes.map(({ path, says }) => `${yaml.place(path)}: ${says}`).join('\n'))
  const config = schema.cast(yaml.value)
  return {
    zones: config.zones as (string | ZoneEntry)[],
    vantages: config.vantages.map((entry): BuiltIn | Vantage => {
      if (typeof entry === 'string') return entry as BuiltIn
      const made = vantageOf(entry)!
      return made.authority === undefined ? made : { ...made, authority: resolve(dirname(file), made.authority) }
    }),
    servers: config.servers,
    fronts: config.fronts,
    follows: config.follows,
    stepDays: config['policy-steps']?.days ?? 14,
    exceptions: config.exceptions.map((entry, i): Exception => {
      const [from, to] = yaml.rangeOf(['exceptions', i])!
      const { line, column } = yaml.lineAt(from)
      const length = text.slice(from, to).split('\n')[0]!.length
      return {
        ...entry,
        at: entry.at === undefined ? undefined : foldName(toName(entry.at)!),
        place: { file, line, column, text: yaml.lines[line - 1] ?? '', length },
      }
    }),
  }
}

interface Mistake {
  path: Path
  says: string
}

/** What is wrong with a value, and where in it. Strictly: a cast would drop unknown keys without a word. */
function mistakesIn(described: Schema, value: unknown, above: Path): Mistake[] {
  try {
    described.validateSync(value, { strict: true, abortEarly: false })
    return []
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    const all = error.inner.length > 0 ? error.inner : [error]
    return all.flatMap((each) => {
      const path = [...above, ...keysOf(each.path ?? '')]
      return each.type === 'noUnknown'
        ? unknownKeys(path, partOf(value, keysOf(each.path ?? '')))
        : [{ path, says: wording(each, path) }]
    })
  }
}

/** Mistakes in the entries of a list that holds words, too. */
const entries = (described: Schema, list: unknown, key: string): Mistake[] =>
  (Array.isArray(list) ? list : []).flatMap((entry, i) =>
    typeof entry === 'object' && entry !== null ? mistakesIn(described, entry, [key, i]) : [],
  )

/** Lists whose entries go by a label. */
const LABELLED = ['vantages', 'deliveries', 'sheets'] as const

function labelledTwice(value: object): Mistake[] {
  return LABELLED.flatMap((key) => {
    const list = (value as Record<string, { label?: string }[] | undefined>)[key] ?? []
    const labels = list.map((each) => (typeof each === 'string' ? each : each.label))
    return labels.flatMap((label, i) =>
      labels.indexOf(label) === i
        ? []
        : [{ path: [key, i], says: `there are two ${key} “${label}”; give each a label of its own` }],
    )
  })
}

const keysOf = (path: string): (string | number)[] =>
  path
    .split(/[.[\]"]+/)
    .filter(Boolean)
    .map((key) => (/^\d+$/.test(key) ? Number(key) : key))

const partOf = (value: unknown, path: Path): Record<string, unknown> =>
  path.reduce((here, key) => (here as Record<string | number, unknown>)?.[key], value) as Record<string, unknown>

const pathText = (path: Path): string =>
  path.reduce<string>(
    (text, key) => (typeof key === 'number' ? `${text}[${key}]` : text === '' ? key : `${text}.${key}`),
    '',
  )

function unknownKeys(path: Path, here: Record<string, unknown>): Mistake[] {
  const known = KEYS[path.filter((key) => typeof key === 'string').join('.')] ?? []
  return Object.keys(here)
    .filter((key) => !known.includes(key))
    .map((key) => {
      const meant = nearest(key, known)
      return {
        path: [...path, key],
        says: `unknown key “${key}”; ${meant ? `did you mean “${meant}”?` : `known keys: ${known.join(', ')}`}`,
      }
    })
}

const TYPES: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  boolean: 'true or false',
  object: 'an entry with keys',
  array: 'a list',
}

function wording({ type, message, params }: ValidationError, path: Path): string {
  const where = pathText(path) || 'the file'
  const { min, max, values } = (params ?? {}) as Record<string, unknown>
  const stated = params as { type?: string } | undefined
  switch (type) {
    case 'typeError': {
      const example = path.length < 2 ? EXAMPLES[path[0] ?? ''] : undefined
      return `${where} must be ${TYPES[stated?.type ?? ''] ?? 'another thing'}${example === undefined ? '' : `, as in: ${example}`}`
    }
    case 'optionality':
    case 'nullable':
    case 'required':
      return `${where} is missing`
    case 'oneOf':
      return `${where} must be ${String(values)}`.replace(/, ([^,]*)$/, ' or $1')
    case 'min':
      return `${where} must be at least ${min}`
    case 'max':
      return `${where} must be at most ${max}`
    case 'integer':
      return `${where} must be a whole number`
    default:
      return message.replace(/^this /, `${where} `).replace(/^\S+ must/, `${where} must`)
  }
}

/** The known word that was probably meant, or undefined. */
function nearest(word: string, words: string[]): string | undefined {
  const meant = closest(word, words)
  return distance(word, meant) <= 3 ? meant : undefined
}
