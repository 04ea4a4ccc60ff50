import { nameToWire, wireNameLength } from '../../names/name.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'

/** Octets of an answer before its records (RFC 1035 §4.1.1), beside the question’s name. */
const HEADER = 12

const QUESTION = 4

/** Of a record whose owner is a pointer: that, type, class, TTL and length. */
const RECORD = 12

const PLAIN_UDP = 512

export const spfLong: TextRule<SpfReading> = {
  code: 'spf/long',
  severity: 'advice',
  source: 'RFC 7208 §3.4',
  title: 'TXT answer with the SPF record that exceeds 512 octets',
  why: 'All TXT records of a name come in one answer. Above 512 octets it needs EDNS or TCP, which do not work everywhere.',
  remedy:
    'Move domain verification records and other texts elsewhere, or move ranges into a record of their own and include it.',
  bad: [
    `@ TXT "v=spf1 mx -all"\n@ TXT "${'ferry-proof='.padEnd(240, 'a')}"\n@ TXT "${'ferry-proof='.padEnd(240, 'b')}"`,
  ],
  good: [`@ TXT "v=spf1 mx -all"\n@ TXT "${'ferry-proof='.padEnd(240, 'a')}"`],
  inZone(cx, record, { text }, set) {
    const { zones } = cx
    if (text.length < 200 && set.records.length === 1) return
    const name = nameToWire(cx.name(set.owner)) as Uint8Array
    const size =
      HEADER +
      wireNameLength(name, 0) +
      QUESTION +
      set.records.reduce((sum, each) => sum + RECORD + zones.dataOctets(each), 0)
    if (size <= PLAIN_UDP) return
    reportText(
      cx,
      record,
      { start: 0, end: text.length },
      {
        code: 'spf/long',
        message: `the TXT answer of ${cx.name(set.owner)} has ${size} octets, ${zones.dataOctets(record)} of them for its SPF record`,
        effect: `Above ${PLAIN_UDP} octets, resolvers without EDNS have to retry over TCP, and some firewalls block both.`,
        fix: ['move other TXT records to names of their own, or senders to a record that you include'],
      },
    )
  },
}
