/** A zone as text in several forms, piece by piece, so that a large one need not be held whole. */

import type { RecordId, Zone, Zones } from '../model/zones.ts'
import { labelText } from '../names/name.ts'
import { FOLD, octetsOf } from '../names/octets.ts'
import { type NameId, type NameTree, NONE, ROOT } from '../names/tree.ts'
import { stringText } from '../records/fields.ts'
import { canonicalRdata, genericText, type Rdata, rdataFields, rdataText } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'

export type Form = 'zone' | 'canonical' | 'generic'

/** The octets of two labels compared as RFC 4034 §6.1 has it: letters small, octet by octet, the shorter first. */
function compareLabels(a: Uint8Array, b: Uint8Array): number {
  const n = Math.min(a.length, b.length)
  for (let i = 0; i < n; i++) if (a[i] !== b[i] && FOLD[a[i]!] !== FOLD[b[i]!]) return FOLD[a[i]!]! - FOLD[b[i]!]!
  return a.length - b.length
}

/** All names at or below `top`, in canonical order (RFC 4034 §6.1): a name before what is below it, siblings by label. */
function* namesInOrder(tree: NameTree, top: NameId): Generator<NameId> {
  // Children of each name side by side, by counting; then each group in order, walked with a stack.
  const starts = new Int32Array(tree.count + 1)
  for (let id = 1; id < tree.count; id++) starts[tree.parent(id) + 1]!++
  for (let id = 0; id < tree.count; id++) starts[id + 1]! += starts[id]!
  const children = new Int32Array(tree.count)
  const filled = starts.slice()
  for (let id = 1; id < tree.count; id++) children[filled[tree.parent(id)]!++] = id
  const stack: NameId[] = [top]
  for (let id = stack.pop(); id !== undefined; id = stack.pop()) {
    yield id
    const below = Array.from(children.subarray(starts[id], starts[id + 1]))
    if (below.length > 1) below.sort((a, b) => compareLabels(tree.label(b), tree.label(a)))
    for (const child of below) stack.push(child)
  }
}

/** The zone's records at a name, by type (SOA and NS first where people read it) and then by data; equal records once. */
function recordsAt(zones: Zones, zone: Zone, name: NameId, forPeople: boolean): RecordId[] {
  const found: RecordId[] = []
  for (let record = zones.first(name); record !== NONE; record = zones.next(record))
    if (zones.zoneOfRecord(record) === zone) found.push(record)
  if (found.length < 2) return found
  const rank = (record: RecordId): number =>
    !forPeople
      ? zones.type(record)
      : zones.type(record) === TYPE.SOA
        ? -2
        : zones.type(record) === TYPE.NS
          ? -1
          : zones.type(record)
  const sorted = found
    .map((record) => ({ record, rank: rank(record), data: canonicalRdata(zones.type(record), zones.rdata(record)) }))
    .sort((a, b) => a.rank - b.rank || compareData(a.data, b.data))
  return sorted
    .filter(
      (each, i) => i === 0 || each.rank !== sorted[i - 1]!.rank || compareData(each.data, sorted[i - 1]!.data) !== 0,
    )
    .map((each) => each.record)
}

/** Octet order, the shorter first where one begins with the other (RFC 4034 §6.3). */
function compareData(a: Rdata, b: Rdata): number {
  const n = Math.min(a.length, b.length)
  for (let i = 0; i < n; i++) if (a[i] !== b[i]) return a[i]! - b[i]!
  return a.length - b.length
}

/** The names of a zone (sealed) in canonical order, each with its records; records outside the zone are left out. */
export function* ordered(
  zones: Zones,
  zone: Zone,
  forPeople = false,
): Generator<{ name: NameId; records: RecordId[] }> {
  for (const name of namesInOrder(zones.tree, zone.apex)) {
    const records = recordsAt(zones, zone, name, forPeople)
    if (records.length > 0) yield { name, records }
  }
}

/** The lower-case, absolute text of a name, made from its parent's where that was the last one. */
function folded(tree: NameTree, name: NameId): string {
  let text = ''
  for (let here = name; here !== ROOT; here = tree.parent(here)) {
    const label = tree.label(here)
    text += labelText(label, 0, label.length) + '.'
  }
  return (text || '.').replace(/[A-Z]+/g, (letters) => letters.toLowerCase())
}

/** One absolute record a line, in canonical order and form (RFC 4034 §6). */
function* canonicalLines(zones: Zones, zone: Zone): Generator<string> {
  for (const { name, records } of ordered(zones, zone)) {
    const owner = folded(zones.tree, name)
    for (const record of records)
      yield `${owner} ${zones.ttl(record)} IN ${typeText(zones.type(record))} ${rdataText(zones.type(record), canonicalRdata(zones.type(record), zones.rdata(record)))}\n`
  }
}

/** Every record with its type as a number and its data as octets (RFC 3597 §5), in canonical order. */
function* genericLines(zones: Zones, zone: Zone): Generator<string> {
  for (const { name, records } of ordered(zones, zone)) {
    const owner = zones.tree.text(name)
    for (const record of records)
      yield `${owner} ${zones.ttl(record)} IN TYPE${zones.type(record)} ${genericText(zones.rdata(record))}\n`
  }
}

const OWNER_WIDTH = 24
const LONG = 100

/** A tidy zone file: sorted, names relative, the commonest TTL as `$TTL`, an owner once for all its records. */
function* zoneLines(zones: Zones, zone: Zone): Generator<string> {
  const ttl = commonTtl(zones, zone)
  yield `$ORIGIN ${zone.name}\n$TTL ${ttl}\n`
  for (const { name, records } of ordered(zones, zone, true)) {
    let owner = ownerText(zones, zone, name)
    for (const record of records) {
      const type = zones.type(record)
      const stated = zones.ttl(record) === ttl ? '' : `${zones.ttl(record)} `
      yield `${owner.padEnd(OWNER_WIDTH - 1)} ${`${stated}${typeText(type)}`.padEnd(7)} ${tidyText(type, zones.rdata(record), zone.wire)}\n`
      owner = ''
    }
  }
}

function ownerText(zones: Zones, zone: Zone, name: NameId): string {
  if (name === zone.apex) return '@'
  const text = zones.tree.text(name)
  return zone.apex === ROOT ? text : text.slice(0, -zone.name.length - 1)
}

function tidyText(type: number, data: Rdata, origin: Uint8Array): string {
  const pad = ' '.repeat(OWNER_WIDTH + 8)
  if (type === TYPE.SOA) {
    const [primary, mailbox, ...numbers] = rdataFields(type, data, origin)
    const words = ['serial', 'refresh', 'retry', 'expire', 'minimum']
    return `${primary} ${mailbox} (\n${numbers.map((number, i) => `${pad}${number.padEnd(10)} ; ${words[i]}`).join('\n')}\n${pad})`
  }
  const text = rdataText(type, data, origin)
  if (type !== TYPE.TXT || text.length <= LONG) return text
  const strings: string[] = []
  for (let at = 0; at < data.length; at += data[at]! + 1) strings.push(stringText(data, at + 1, at + 1 + data[at]!))
  return strings.length === 1 ? text : `(\n${strings.map((each) => pad + each).join('\n')} )`
}

function commonTtl(zones: Zones, zone: Zone): number {
  const counts = new Map<number, number>()
  for (const record of zones.recordsIn(zone)) counts.set(zones.ttl(record), (counts.get(zones.ttl(record)) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]?.[0] ?? 3600
}

/** A zone (sealed) in one of the text forms; records outside the zone are left out. */
export function zoneInForm(zones: Zones, zone: Zone, form: Form): Generator<string> {
  return { zone: zoneLines, canonical: canonicalLines, generic: genericLines }[form](zones, zone)
}

/** A zone that is spread over several files as one tidy file: undefined where its own file is all of it. */
export const inOnePiece = (zones: Zones, zone: Zone): Uint8Array | undefined =>
  zones.sources.filter((source) => source.zone === zone.index).length > 1
    ? octetsOf([...zoneInForm(zones, zone, 'zone')].join(''))
    : undefined
