/** Record sets as rows of a web form, in its style: what to type into which field, and what to watch for. */
import type { RecordSet, Seconds, Zone } from '../model/zones.ts'
import { bare, foldName, isAtOrBelow, labelsOf, type Name, relativeName } from '../names/name.ts'
import { rdataFields, rdataText } from '../records/rdata.ts'
import { rowOf, TYPE, typeText } from '../records/types.ts'
import { joined, strings } from '../records/views.ts'
import { type FieldName, type Style, shownTtl } from './style.ts'

export interface SheetField {
  name: FieldName
  /** What the form calls it. */
  label: string
  value: string
}

export interface SheetRow {
  owner: Name
  type: number
  fields: SheetField[]
  /** What to watch for in this form; whole sentences. */
  hints: string[]
}

const LABELS: Record<FieldName, string> = {
  action: 'Action',
  type: 'Type',
  owner: 'Host',
  value: 'Value',
  ttl: 'TTL',
  preference: 'Preference',
  priority: 'Priority',
  weight: 'Weight',
  port: 'Port',
  target: 'Target',
  service: 'Service',
  protocol: 'Protocol',
}

/** What the form calls a field. */
export const labelIn = (style: Style, name: FieldName): string => style.labels[name] ?? LABELS[name]

/** The rows for a set: one for each record, or one for all of them with a record a line. */
export function rowsFor(set: RecordSet, zone: Zone, style: Style): SheetRow[] {
  const records = set.data.map((data) => new Entry(set, data, zone, style))
  const hints = hintsFor(set, zone, style)
  const row = (fields: SheetField[]): SheetRow => ({ owner: foldName(set.owner), type: set.type, fields, hints })
  if (style.rows === 'record' || records.length < 2) return records.map((each) => row(each.fields))
  const [first] = records
  return [
    row(
      first!.fields.map((field, i) => {
        const values = records.map((each) => each.fields[i]!.value)
        return {
          ...field,
          value: new Set(values).size === 1 && !OF_DATA.has(field.name) ? field.value : values.join('\n'),
        }
      }),
    ),
  ]
}

/** Fields that each record of a set has for itself. */
const OF_DATA = new Set<FieldName>(['value', 'preference', 'priority', 'weight', 'port', 'target'])

/** One record in the form. */
class Entry {
  private readonly set: RecordSet
  private readonly data: Uint8Array
  private readonly zone: Zone
  private readonly style: Style

  constructor(set: RecordSet, data: Uint8Array, zone: Zone, style: Style) {
    this.set = set
    this.data = data
    this.zone = zone
    this.style = style
  }

  get fields(): SheetField[] {
    const { set, style } = this
    const ttl: [FieldName, string][] = style.ttl === 'none' ? [] : [['ttl', ttlIn(set.ttl, style)]]
    return ([['type', typeText(set.type)], ...this.middle(), ...ttl] as [FieldName, string][]).map(([name, value]) => ({
      name,
      label: labelIn(style, name),
      value,
    }))
  }

  private middle(): [FieldName, string][] {
    const { set, style, data } = this
    const owner = this.host(set.owner)
    if (set.type === TYPE.MX) {
      const [preference, exchange] = this.named()
      return style.preference === 'field'
        ? [
            ['owner', owner],
            ['preference', preference!],
            ['value', exchange!],
          ]
        : [
            ['owner', owner],
            ['value', `${preference} ${exchange}`],
          ]
    }
    if (set.type === TYPE.SRV) return this.service(owner)
    if (set.type === TYPE.TXT)
      return [
        ['owner', owner],
        ['value', textIn(data, style)],
      ]
    return [
      ['owner', owner],
      ['value', this.named().join(' ') || rdataText(set.type, data)],
    ]
  }

  private service(owner: string): [FieldName, string][] {
    const [priority, weight, port, target] = this.named() as [string, string, string, string]
    const { srv } = this.style
    if (srv === 'value')
      return [
        ['owner', owner],
        ['value', `${priority} ${weight} ${port} ${target}`],
      ]
    if (srv === 'three')
      return [
        ['owner', owner],
        ['priority', priority],
        ['value', `${weight} ${port} ${target}`],
      ]
    const [service = '', protocol = ''] = labelsOf(this.set.owner)
    const below = labelsOf(this.set.owner).slice(2)
    const host = below.length === 0 ? '.' : `${below.join('.')}.`
    // Where its owner is of another form, or the rest of it outside the zone, the fields for its parts do not fit.
    const isPlain = /^_/.test(service) && /^_/.test(protocol) && isAtOrBelow(host, this.zone.name)
    const where: [FieldName, string][] = isPlain
      ? [
          ['service', service],
          ['protocol', protocol],
          ['owner', this.host(host)],
        ]
      : [['owner', owner]]
    return [...where, ['priority', priority], ['weight', weight], ['port', port], ['target', target]]
  }

  /** The data’s fields, with its names as the form takes them. */
  private named(): string[] {
    const fields = rowOf(this.set.type)?.fields ?? []
    return rdataFields(this.set.type, this.data).map((value, i) =>
      fields[i]?.kind.isName ? this.target(value) : value,
    )
  }

  /** Names that records point to are in full; the root stays a dot. */
  private target(name: Name): string {
    return name === '.' || this.style.finalDot ? name : bare(name)
  }

  private host(owner: Name): string {
    const { style, zone } = this
    const isApex = foldName(owner) === foldName(zone.name)
    const full = style.finalDot ? owner : bare(owner)
    if (isApex) return style.apex === '@' ? '@' : style.apex === 'blank' ? '' : full
    return style.names === 'full' ? full : relativeName(owner, zone.name)
  }
}

/** The text of a TXT record as the form takes it. */
function textIn(data: Uint8Array, { text }: Style): string {
  const all = strings(data)
  const quoted = (each: string): string => rdataText(TYPE.TXT, oneString(each))
  if (text === 'quoted') return all.map(quoted).join(' ')
  const whole = joined(data)
  const shown = text === 'bare' ? shownBare(whole) : undefined
  return shown ?? `"${escapedText(whole)}"`
}

/** A text as people read it: without quotes and escapes, where whoever reads it back gets the same octets; undefined where not. */
function shownBare(octets: string): string | undefined {
  const text = decoded(octets)
  if (text === undefined || text === '' || /^["\s]|\s$|\\["\\;]/.test(text)) return undefined
  return /^[\x20-\x7e\p{L}\p{N}]*$/u.test(text) && text.normalize('NFKC') === text ? text : undefined
}

/** Octets as UTF-8; undefined where they are none. */
function decoded(octets: string): string | undefined {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Uint8Array.from(octets, (sign) => sign.charCodeAt(0)))
  } catch {
    return undefined
  }
}

const oneString = (text: string): Uint8Array =>
  new Uint8Array([text.length, ...Array.from(text, (sign) => sign.charCodeAt(0))])

/** Octets as a quoted text has them (RFC 1035 §5.1). */
const escapedText = (text: string): string =>
  text.replace(/["\\]|[^\x20-\x7e]/g, (sign) =>
    sign === '"' || sign === '\\' ? `\\${sign}` : `\\${String(sign.charCodeAt(0)).padStart(3, '0')}`,
  )

const UNITS: readonly [Seconds, string][] = [
  [86_400, 'd'],
  [3600, 'h'],
  [60, 'm'],
  [1, 's'],
]

/** A TTL as the form takes it, no lower than its floor; in minutes rounded up. */
function ttlIn(ttl: Seconds, style: Style): string {
  const least = shownTtl(ttl, style, ttl)
  const { ttl: unit } = style
  if (unit === 'minutes') return String(least / 60)
  if (unit !== 'units') return String(least)
  let [left, text] = [least, '']
  for (const [seconds, sign] of UNITS) {
    const count = Math.floor(left / seconds)
    if (count > 0) text += `${count}${sign}`
    left -= count * seconds
  }
  return text || '0s'
}

function hintsFor({ owner, type, ttl, data }: RecordSet, zone: Zone, style: Style): string[] {
  const hints: string[] = []
  const pointsTo = rowOf(type)?.fields.some((field) => field.kind.isName) === true
  if (pointsTo && !style.finalDot) hints.push('Enter the target without a final dot.')
  if (pointsTo && style.finalDot)
    hints.push('The final dot belongs to the target: without it, the form adds the zone’s name.')
  if (style.names === 'relative' && foldName(owner) !== foldName(zone.name))
    hints.push(`The form appends ${bare(zone.name)} to the host.`)
  if (style.apex === 'blank' && foldName(owner) === foldName(zone.name))
    hints.push('Leave the host empty: that is the domain itself.')
  if (type === TYPE.TXT && style.text === 'bare') hints.push('No quotes around the text.')
  if (type === TYPE.TXT && style.text !== 'quoted' && data.some((each) => strings(each).length > 1))
    hints.push('The text is one piece here; the form splits it by itself.')
  if (style.ttl !== 'none' && ttl < style.ttlFloor) hints.push(`The host takes no TTL below ${style.ttlFloor} seconds.`)
  if (style.ttl === 'minutes') hints.push('The TTL is in minutes.')
  if (style.ttl === 'minutes' && Math.max(ttl, style.ttlFloor) % 60 !== 0)
    hints.push('The TTL is rounded up to whole minutes.')
  return hints
}
