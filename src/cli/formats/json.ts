/** The documents of check and show, entry by entry. */
import { entryParts } from '../../core/file/entry.ts'
import { LineIndex } from '../../core/file/places.ts'
import { serialOf } from '../../core/file/serial.ts'
import { GENERATED, OUT_OF_ZONE, type Source, type Zone, type Zones } from '../../core/model/zones.ts'
import { foldName } from '../../core/names/name.ts'
import { jsonText } from '../../core/printable.ts'
import { typeText } from '../../core/records/types.ts'
import { RecordView } from '../../core/view/record-set.ts'
import type { CheckDocument } from '../documents/findings.ts'
import type { ShownSet } from '../documents/show.ts'
import { findingJson } from '../output/findings.ts'
import type { Format } from './format.ts'

export const FORMAT: Format = {
  *findings({ findings, excepted, counts, unanswered }) {
    yield '{\n  "format": 1,\n  "findings": '
    yield* entries(findings, (each): CheckDocument['findings'][number] => findingJson(each))
    yield `,\n  "counts": ${indented(counts)},\n  "excepted": `
    yield* entries(excepted, ({ finding, reason }): CheckDocument['excepted'][number] => ({
      ...findingJson(finding),
      reason,
    }))
    yield `,\n  "unanswered": `
    yield* entries(unanswered, ({ name, type, why }): CheckDocument['unanswered'][number] => ({
      name,
      type: typeText(type),
      why,
    }))
    yield '\n}\n'
  },

  *sets({ zones, chosen }) {
    const [only] = chosen.length === 1 ? chosen : []
    yield `{\n  "format": 1,\n  "zone": ${jsonText(only ? foldName(only.name) : null)},\n  "serial": ${(only && serialOf(zones, only)) ?? null},\n  "sets": [`
    let first = true
    for (const zone of chosen)
      for (const set of setsOf(zones, zone)) {
        yield `${first ? '' : ','}\n    ${jsonText(only ? set : { zone: foldName(zone.name), ...set })}`
        first = false
      }
    yield `${first ? '' : '\n  '}]\n}\n`
  },
}

/** A value inside a document, its lines set in. */
export const indented = (value: unknown, lead = '  '): string => jsonText(value, 2).replaceAll('\n', `\n${lead}`)

/** A list inside a document. */
export function* entries<T>(values: Iterable<T>, made: (value: T) => object, lead = '  '): Generator<string> {
  let first = true
  for (const value of values) {
    yield `${first ? '[' : ','}\n${lead}  ${indented(made(value), `${lead}  `)}`
    first = false
  }
  yield first ? '[]' : `\n${lead}]`
}

/** The zone's sets in the order of their first records. */
function* setsOf(zones: Zones, zone: Zone): Generator<ShownSet> {
  const lines = new Map<Source, LineIndex>()
  const told = new Set<number>()
  for (const record of zones.recordsIn(zone)) {
    const owner = zones.owner(record)
    const type = zones.type(record)
    const outside = (zones.flags(record) & OUT_OF_ZONE) !== 0
    if (!outside && told.has(owner * 65_536 + type)) continue
    const records = outside ? [record] : zones.records(owner, type, zone.index)
    // Most sets are one record; only the others come by again.
    if (records.length > 1) told.add(owner * 65_536 + type)
    const source = zones.source(record)
    let index = lines.get(source)
    if (!index) lines.set(source, (index = new LineIndex(source.octets)))
    const { line } = index.place(
      zones.flags(record) & GENERATED ? zones.start(record) : entryParts(zones, record).type[0],
    )
    yield {
      owner: foldName(zones.tree.text(owner)),
      type: typeText(type),
      ttl: zones.ttl(record),
      records: records.map((each) => new RecordView(type, zones.rdata(each)).value),
      line,
    }
  }
}
