/** Fills the blanks of a recipe. A line is cut into its fields first, and a value goes into one of them, escaped: it can become neither a second field nor a second record. */
import { foldName, isAtOrBelow, type Name, nameToWire, toName } from '../names/name.ts'
import { octetsOf, textOf } from '../names/octets.ts'
import { parseRdata, rdataText } from '../records/rdata.ts'
import { scanEntry } from '../records/scan.ts'
import { TokenCursor } from '../records/tokens.ts'
import { parseTtl } from '../records/ttl.ts'
import { parseClass, parseType, rowOf, TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import { isRefused, type Refused, type Result } from '../result.ts'
import { damageOf, kindOf } from '../transcribe/kinds.ts'
import type { Row } from '../transcribe/record.ts'
import { absoluteIn, type Blank, type Recipe, sampleOf, valueFor } from './recipe.ts'

/** A field of a line as it is written, without its quotes. */
interface Field {
  text: string
  quoted: boolean
}

interface Line {
  owner: Field
  ttl?: number
  type: number
  data: Field[]
}

const BLANK = /\$\{([^{}]*)\}/g

/** The names of the blanks in a line, each once. */
export const blanksIn = (line: string): string[] => [...new Set([...line.matchAll(BLANK)].map(([, name]) => name!))]

export interface Filled {
  rows: Row[]
  /** Blanks without a value, each with the first record that needs it, from one. */
  open: { blank: Blank; line: number }[]
}

/** The records of a recipe at or below `base` with these values, which fit their blanks (`valueFor`); where one is missing, the records that need it are left out. */
export function fill(recipe: Recipe, values: ReadonlyMap<string, string>, base: Name): Result<Filled> {
  const rows: Row[] = []
  const open = new Map<string, Filled['open'][number]>()
  for (const [i, text] of recipe.records.entries()) {
    const missing = blanksIn(text).filter((name) => !values.has(name))
    const blanks = missing.map((name) => recipe.blanks.find((each) => each.name === name)!)
    if (!blanks.some(({ optional }) => optional))
      for (const blank of blanks) if (!open.has(blank.name)) open.set(blank.name, { blank, line: i + 1 })
    if (missing.length > 0) continue
    const row = rowOfLine(text, i + 1, recipe.blanks, values, base)
    if (isRefused(row)) return row
    rows.push(row)
  }
  return { rows, open: [...open.values()] }
}

/** What is wrong with a recipe, by the record that it is about (from zero), or with one of its blanks: found by filling it with samples. */
export function faultsIn(recipe: Recipe): { record?: number; blank?: number; says: string }[] {
  const { blanks, records } = recipe
  const names = blanks.map(({ name }) => name)
  const used = new Set(records.flatMap(blanksIn))
  const faults: { record?: number; blank?: number; says: string }[] = []
  for (const [i, blank] of blanks.entries()) {
    const { name, kind, choices, default: stated, example } = blank
    if (names.indexOf(name) < i) faults.push({ blank: i, says: `there are two blanks “${name}”` })
    if (!used.has(name)) faults.push({ blank: i, says: `no record has the blank \${${name}}` })
    if (kind === 'choice' && !choices?.length) faults.push({ blank: i, says: 'a choice needs choices: [A, B]' })
    for (const [key, value] of Object.entries({ default: stated, example })) {
      const made = value === undefined ? '' : valueFor(blank, value)
      if (isRefused(made)) faults.push({ blank: i, says: `its ${key} does not fit: ${made.refused}` })
    }
  }
  if (faults.length > 0) return faults
  const samples = new Map(
    blanks.map((blank) => {
      const made = valueFor(blank, sampleOf(blank))
      return [blank.name, isRefused(made) ? '' : made]
    }),
  )
  for (const [i, text] of records.entries()) {
    const unknown = blanksIn(text).find((name) => !names.includes(name))
    const row = unknown === undefined ? rowOfLine(text, i + 1, blanks, samples, SAMPLE_ZONE) : undefined
    if (unknown !== undefined) faults.push({ record: i, says: `\${${unknown}} is not among the blanks` })
    else if (isRefused(row)) faults.push({ record: i, says: row.refused })
  }
  return faults
}

const SAMPLE_ZONE = 'example.com.'

function rowOfLine(
  text: string,
  number: number,
  blanks: readonly Blank[],
  values: ReadonlyMap<string, string>,
  base: Name,
): Result<Row> {
  const used = blanksIn(text).map((name) => `${name} “${values.get(name)}”`)
  const because = (why: string): Refused => ({
    refused: `record ${number} (${text}): ${why}${used.length > 0 ? `; with ${used.join(', ')}` : ''}`,
  })
  const line = lineOf(text)
  if (isRefused(line)) return because(line.refused)
  const put = (field: Field, isName: boolean): string => filled(field, isName, blanks, values, base)
  const owner = toName(absoluteIn(put(line.owner, true), base))
  if (owner === undefined) return because('its owner is not a valid domain name')
  if (!isAtOrBelow(owner, base)) return because(`its owner ${owner} is outside ${base}`)
  const { type, ttl } = line
  const fields = rowOf(type)?.fields
  const data = line.data
    .map((field, i) => put(field, fields?.[i]?.kind.isName === true))
    .map((field) => (type === TYPE.TXT ? inStrings(field) : field))
    .join(' ')
  const parsed = parseRdata(type, data, nameToWire(base) as Uint8Array)
  if (!('wire' in parsed)) return because(`${parsed.message} (expected: ${parsed.wanted})`)
  const plain = type === TYPE.TXT ? joined(parsed.wire) : ''
  const kind = kindOf(type, owner, plain)
  return {
    line: number,
    owner: foldName(owner),
    type,
    ttl,
    data: parsed.wire,
    value: rdataText(type, parsed.wire),
    kind,
    cleaned: [],
    damage: type === TYPE.TXT ? damageOf(kind, plain) : undefined,
    secret: false,
  }
}

/** The fields of a line: owner, perhaps a TTL and a class, type, data. */
function lineOf(text: string): Result<Line> {
  const octets = octetsOf(text)
  const cursor = new TokenCursor(octets)
  const { problem, end } = scanEntry(octets, 0, cursor)
  if (problem) return { refused: problem.message }
  if (end < octets.length) return { refused: 'it is more than one line' }
  const fields: Field[] = []
  for (let i = 0; i < cursor.count; i++)
    fields.push({ text: textOf(octets.subarray(cursor.starts[i], cursor.ends[i])), quoted: cursor.quoted[i] === 1 })
  const [owner, ...rest] = fields
  let ttl: number | undefined
  while (rest[0] && !rest[0].quoted && parseType(rest[0].text) === undefined) {
    const stated = octetsOf(rest[0].text)
    const seconds = parseTtl(stated, 0, stated.length)
    if (seconds < 0 && parseClass(rest[0].text) === undefined) break
    if (seconds >= 0) ttl ??= seconds
    rest.shift()
  }
  const type = rest[0] && !rest[0].quoted ? parseType(rest[0].text) : undefined
  if (!owner || type === undefined) return { refused: 'it is not OWNER TYPE VALUE, as in a zone file' }
  return { owner, ttl, type, data: rest.slice(1) }
}

/** A field with its blanks filled, as text that reads back as that one field. In texts, names stand in full, without a final dot. */
function filled(
  { text, quoted }: Field,
  isName: boolean,
  blanks: readonly Blank[],
  values: ReadonlyMap<string, string>,
  base: Name,
): string {
  const put = text.replace(BLANK, (_, name: string, at: number, all: string) => {
    const { kind } = blanks.find((each) => each.name === name)!
    const value = values.get(name)!
    const isLast = all.indexOf('}', at) === all.length - 1
    if (kind !== 'name') return escaped(value, quoted, kind === 'text' ? '' : '.')
    if (isName)
      return escaped(
        isLast ? value : value.replace(/\.$/, ''),
        quoted,
        '.',
        value === '@' && text.length === name.length + 3,
      )
    return escaped(absoluteIn(value, base).replace(/\.$/, ''), quoted, '.')
  })
  return quoted ? `"${put}"` : put
}

/** A quoted text in as many strings as it needs, none longer than it may be (RFC 1035 §3.3). */
function inStrings(field: string): string {
  if (!field.startsWith('"') || field.length <= LONGEST_STRING) return field
  const strings = ['']
  let length = 0
  for (const [sign] of field.slice(1, -1).matchAll(/\\\d{3}|\\[\s\S]|[^\\]/gu)) {
    const octets = sign.startsWith('\\') ? 1 : new TextEncoder().encode(sign).length
    if (length + octets > LONGEST_STRING) {
      strings.push('')
      length = 0
    }
    strings[strings.length - 1] += sign
    length += octets
  }
  return strings.map((each) => `"${each}"`).join(' ')
}

const LONGEST_STRING = 255

/** Each octet that a field’s end, a comment or an escape could be made of is written as \DDD. `plain` is not. */
function escaped(value: string, quoted: boolean, plain: string, isApex = false): string {
  if (isApex) return '@'
  let text = ''
  for (const octet of new TextEncoder().encode(value)) {
    const sign = String.fromCharCode(octet)
    const isPlain = quoted
      ? octet >= 0x20 && octet < 0x7f && sign !== '"' && sign !== '\\'
      : /[\w+/=:-]/.test(sign) || plain.includes(sign)
    text += isPlain ? sign : `\\${String(octet).padStart(3, '0')}`
  }
  return text
}
