import { rangesOf } from '../../mail/spf/ranges.ts'
import { coversRange, parseSpf, spfText, termText } from '../../mail/spf/record.ts'
import { GENERATED, type RecordId, type Zones } from '../../model/zones.ts'
import { latin1Of } from '../../names/octets.ts'
import { listed } from '../look.ts'
import { intendedSpf, noteAbove, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { line, reportText } from '../text.ts'

const SPELLED = '_spf TXT "v=spf1 ip4:192.0.2.0/26 ip4:192.0.2.128/27 ~all"'

/** The note that is written above a record when an include is spelled out (see core/mail/changes.ts). */
const COPIED = /copied from include:(\S+) on (\d{4}-\d\d-\d\d): ([^;\r\n]*)/g

/** The comment lines right above a record’s entry. */
function notesAbove(zones: Zones, record: RecordId): string {
  if (zones.flags(record) & GENERATED) return ''
  const { octets } = zones.source(record)
  let notes = ''
  let end = zones.start(record)
  for (let start = noteAbove(octets, end); start >= 0; start = noteAbove(octets, end)) {
    notes += latin1Of(octets, start, end)
    end = start
  }
  return notes
}

export const spfCopiedRanges: TextRule<SpfReading> = {
  code: 'spf/copied-ranges-differ',
  severity: 'warning',
  source: 'practice',
  title: 'SPF addresses copied from an include that has changed since',
  why: 'Receivers read an include anew for each message; what was copied from it stays as it was. New servers of the service then fail, and old addresses may belong to somebody else.',
  remedy: 'Copy them again, or go back to the include.',
  bad: [
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/26\n@ TXT "v=spf1 ip4:192.0.2.0/26 -all"\n${SPELLED}`,
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/25\n@ TXT "v=spf1 ip4:192.0.2.0/25 ip4:192.0.2.128/27 -all"\n${SPELLED}`,
  ],
  good: [
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/26 ip4:192.0.2.128/27\n@ TXT "v=spf1 ip4:192.0.2.0/26 ip4:192.0.2.128/27 mx -all"\n${SPELLED}`,
    '; copied from include:_spf.larkpost.example on 2026-01-05: ip4:192.0.2.0/26\n@ TXT "v=spf1 ip4:192.0.2.0/26 -all"',
  ],
  inZone(cx, record, { text, record: spf }, set) {
    const notes = notesAbove(cx.zones, record)
    if (notes === '' || !spf) return
    const domain = cx.name(set.owner)
    for (const [, name = '', date, copied = ''] of notes.matchAll(COPIED)) {
      const now = rangesOf(`${name.replace(/\.$/, '')}.`, (each) => intendedSpf(cx.zones, each))
      if ('refused' in now) continue
      const current = now.terms.map(termText)
      const lacks = now.terms.filter((each) => !spf.mechanisms.some((own) => coversRange(own, each))).map(termText)
      const left = copied
        .split(' ')
        .filter(
          (each) => each !== '' && !current.includes(each) && spf.mechanisms.some((own) => termText(own) === each),
        )
      if (lacks.length === 0 && left.length === 0) continue
      const terms = spf.terms.filter((term) => !left.includes(termText(term)))
      const at = terms.findIndex(({ name: each }) => each === 'all')
      const added = parseSpf(`v=spf1 ${lacks.join(' ')}`).record.terms
      reportText(
        cx,
        record,
        { start: 0, end: text.length },
        {
          code: 'spf/copied-ranges-differ',
          message: `SPF at ${domain} has the ranges that ${name} had on ${date}${lacks.length > 0 ? `; it is missing ${listed(lacks)}` : ''}${left.length > 0 ? `; ${name} no longer has ${listed(left)}` : ''}`,
          effect:
            lacks.length > 0
              ? 'Mail sent from the missing ranges fails.'
              : 'Whoever has these addresses now can send in the domain’s name.',
          fix: [
            line(
              cx,
              record,
              spfText(at < 0 ? [...terms, ...added] : [...terms.slice(0, at), ...added, ...terms.slice(at)]),
            ),
          ],
        },
      )
    }
  },
}
