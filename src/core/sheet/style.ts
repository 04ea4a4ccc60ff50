/** How a web form takes records: a set of switches. Hosting companies’ forms differ in these, and in little else. */
import type { Seconds } from '../model/zones.ts'

/** What a form may call its fields. */
export const FIELD_NAMES = [
  'action',
  'type',
  'owner',
  'value',
  'ttl',
  'preference',
  'priority',
  'weight',
  'port',
  'target',
  'service',
  'protocol',
] as const
export type FieldName = (typeof FIELD_NAMES)[number]

export interface Style {
  label: string
  /** How the form names the zone itself. */
  apex: '@' | 'blank' | 'full'
  /** How it takes owners. */
  names: 'relative' | 'full'
  /** Whether full names end with a dot. */
  finalDot: boolean
  /** Whether the preference of MX has a field of its own. */
  preference: 'field' | 'value'
  /** SRV: all in the value; the priority apart; each in a field, service and protocol too. */
  srv: 'value' | 'three' | 'fields'
  /** TXT: strings in quotes, without, or joined into one in quotes. */
  text: 'quoted' | 'bare' | 'joined'
  /** The unit of TTLs; none where the form has no field for them. */
  ttl: 'seconds' | 'minutes' | 'units' | 'none'
  /** The least TTL that the host takes. */
  ttlFloor: Seconds
  /** A row a record, or a row a set. */
  rows: 'record' | 'set'
  labels: Partial<Record<FieldName, string>>
}

/** What a switch is that nothing is said of. */
export const PLAIN: Omit<Style, 'label'> = {
  apex: '@',
  names: 'relative',
  finalDot: false,
  preference: 'field',
  srv: 'fields',
  text: 'bare',
  ttl: 'seconds',
  ttlFloor: 0,
  rows: 'record',
  labels: {},
}

/** Styles that come along; together they have every switch each way. */
export const STYLES: readonly Style[] = [
  { ...PLAIN, label: 'short' },
  {
    ...PLAIN,
    label: 'blank-apex',
    apex: 'blank',
    srv: 'three',
    text: 'joined',
    ttl: 'minutes',
    labels: { owner: 'Subdomain', value: 'Content', preference: 'Priority' },
  },
  {
    ...PLAIN,
    label: 'full-names',
    apex: 'full',
    names: 'full',
    preference: 'value',
    srv: 'value',
    text: 'quoted',
    ttl: 'units',
    labels: { owner: 'Name' },
  },
  {
    ...PLAIN,
    label: 'zone-file',
    finalDot: true,
    preference: 'value',
    srv: 'value',
    text: 'quoted',
    rows: 'set',
    labels: { owner: 'Name', value: 'Data' },
  },
  { ...PLAIN, label: 'no-ttl', apex: 'full', names: 'full', finalDot: true, ttl: 'none', text: 'bare' },
]

/** The TTL that a set has once it was typed in; without a field for it, whatever the host gives. */
export function shownTtl(ttl: Seconds, { ttl: unit, ttlFloor }: Style, given: Seconds): Seconds {
  if (unit === 'none') return given
  const least = Math.max(ttl, ttlFloor)
  return unit === 'minutes' ? Math.ceil(least / 60) * 60 : least
}
