/** bramblefront.yaml: what a zone file cannot hold. All mistakes in it are told at once, each with its line. */
import { dirname, resolve } from 'node:path'
import type { Schema } from 'yup'
import type { Vantage } from '../core/confirm/observation.ts'
import { type ServerEntry, vantageOf } from '../core/confirm/vantage.ts'
import { foldName, type Name, toName } from '../core/names/name.ts'
import { octetsOf } from '../core/names/octets.ts'
import { parseTtl } from '../core/records/ttl.ts'
import type { Exception, Follow, Front } from '../core/rules/rule.ts'
import { PLAIN, STYLES, type Style } from '../core/sheet/style.ts'
import type { Retention } from './backups.ts'
import {
  type BuiltIn,
  type DeliveryEntry,
  EXAMPLES,
  KEYS,
  type SheetEntry,
  schema,
  vantageEntry,
  type ZoneEntry,
  zoneEntry,
} from './config-schema.ts'
import { type Mistake, mistakesIn } from './mistakes.ts'
import { nearest } from './nearest.ts'
import { Trouble } from './trouble.ts'
import { YamlText } from './yaml-text.ts'

export interface Config {
  zones: (string | ZoneEntry)[]
  vantages: (BuiltIn | Vantage)[]
  servers: ServerEntry[]
  fronts: Front[]
  follows: Follow[]
  exceptions: Exception[]
  /** How many days a step of a DMARC policy must have been published before the next. */
  stepDays: number
  /** Styles of web forms. */
  sheets: Style[]
  /** How long backups are kept. */
  retention: Retention
  deliveries: Delivery[]
}

/** How zones get to their servers. */
export type Delivery = {
  label: string
  zones: string[]
  /** The view that it is for; without one, only files that belong to no view. */
  view?: string
  /** Who asks there: a private zone goes to a public place under no circumstances. */
  audience?: 'public' | 'private'
  /** The catalog zone that lists its zones (RFC 9432). */
  catalog?: Name
} & (
  | {
      by: 'update'
      server: Vantage
      /** The file of its key. */
      key?: string
    }
  | {
      by: 'file'
      folder: string
      /** A command to run afterwards: its words. */
      after?: string[]
    }
)

/** Reads the text of a bramblefront.yaml; `file` is for messages. */
export function parseConfig(text: string, file: string): Config {
  const yaml = new YamlText(text, file)
  const mistakes = mistakesIn(schema, yaml.value, [], WORDS)
  const { zones, vantages } = yaml.value as { zones?: unknown; vantages?: unknown }
  mistakes.push(...entries(zoneEntry, zones, 'zones'), ...entries(vantageEntry, vantages, 'vantages'))
  if (mistakes.length === 0)
    mistakes.push(...labelledTwice(yaml.value as object), ...unknownSheets(yaml.value as object))
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
    sheets: config.sheets.map(styleOf),
    retention: config.backups ?? {},
    deliveries: config.deliveries.map((entry) => deliveryOf(entry, dirname(file))),
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

/** A style as it is stated; of what nothing is said, as most forms have it. */
function styleOf({ 'final-dot': finalDot, 'ttl-floor': floor, ...stated }: SheetEntry): Style {
  const octets = octetsOf(floor ?? '0')
  const said = Object.fromEntries(Object.entries(stated).filter(([, value]) => value !== undefined))
  const ttlFloor = parseTtl(octets, 0, octets.length)
  return {
    ...PLAIN,
    ...said,
    label: stated.label,
    finalDot: finalDot ?? PLAIN.finalDot,
    ttlFloor,
    labels: stated.labels ?? {},
  }
}

function deliveryOf(entry: DeliveryEntry, home: string): Delivery {
  const { label, zones, view, audience } = entry
  const common = {
    label,
    zones,
    ...(view === undefined ? {} : { view }),
    ...(audience === undefined ? {} : { audience }),
    ...(entry.catalog === undefined ? {} : { catalog: foldName(toName(entry.catalog)!) }),
  }
  if (entry.by === 'file')
    return {
      ...common,
      by: 'file',
      folder: resolve(home, entry.folder!),
      ...(entry.after ? { after: entry.after } : {}),
    }
  const { address, port, name, key, transport = 'tcp' } = entry
  const authority = entry.authority === undefined ? undefined : resolve(home, entry.authority)
  const server = vantageOf({ label, address, port, transport, name, authority })!
  return { ...common, by: 'update', server, ...(key === undefined ? {} : { key: resolve(home, key) }) }
}

const WORDS = { keys: KEYS, examples: EXAMPLES }

/** Mistakes in the entries of a list that holds words, too. */
const entries = (described: Schema, list: unknown, key: string): Mistake[] =>
  (Array.isArray(list) ? list : []).flatMap((entry, i) =>
    typeof entry === 'object' && entry !== null ? mistakesIn(described, entry, [key, i], WORDS) : [],
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

/** Styles that zones name, and nobody has. */
function unknownSheets({ zones = [], sheets = [] }: { zones?: unknown[]; sheets?: { label: string }[] }): Mistake[] {
  const known = [...sheets, ...STYLES].map(({ label }) => label)
  return zones.flatMap((entry, i) => {
    const sheet = (entry as { sheet?: string } | null)?.sheet
    return sheet === undefined || known.includes(sheet)
      ? []
      : [
          {
            path: ['zones', i, 'sheet'],
            says: `there is no style ${sheet} of web forms; ${nearest(sheet, known, 'styles')}`,
          },
        ]
  })
}
