import type { RecordId } from '../../model/zones.ts'
import type { NameId } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { LARGE } from '../traits.ts'

/** What an answer over UDP may have at most, so that it crosses every usual path in one piece (RFC 9715). */
const OVER_UDP = 1400

/** Octets of an answer with the set: header, question, each record behind a compressed owner, and the OPT record. */
function answerSize(cx: Context, owner: NameId, records: readonly RecordId[]): number {
  let size = 12 + cx.zones.tree.wireLength(owner) + 4 + 11
  for (let i = 0; i < records.length; i++) size += 12 + cx.zones.dataOctets(records[i]!)
  return size
}

export const setAnswerOverUdp: Rule = {
  code: 'set/answer-over-udp',
  severity: 'advice',
  source: 'RFC 6891, RFC 9715',
  title: 'record set whose answer does not fit in 1400 octets',
  why: 'The answer is truncated (many servers truncate at 1232 octets), and the query has to be repeated over TCP, which takes longer and is blocked by some firewalls.',
  remedy: 'Remove what is no longer needed: old domain verification records, unused addresses.',
  bad: [
    Array.from({ length: 6 }, (_, i) => `@ TXT "proof${i}=${'x'.repeat(240)}"`).join('\n'),
    `key TXT ${`"${'x'.repeat(250)}" `.repeat(6)}`,
  ],
  good: [Array.from({ length: 5 }, (_, i) => `@ TXT "proof${i}=${'x'.repeat(240)}"`).join('\n')],
  visit: {
    several(set, cx) {
      if (set.type !== TYPE.RRSIG) sayIfLarge(cx, set.owner, set.type, set.records)
    },
    record: {
      when: LARGE,
      visit(record, cx) {
        const { zones } = cx
        const owner = zones.owner(record)
        if (zones.records(owner, zones.type(record)).length === 1) sayIfLarge(cx, owner, zones.type(record), [record])
      },
    },
  },
}

function sayIfLarge(cx: Context, owner: NameId, type: number, records: readonly RecordId[]): void {
  const size = answerSize(cx, owner, records)
  if (size <= OVER_UDP) return
  cx.report({
    record: records[0],
    message: `the answer with ${typeText(type)} at ${cx.name(owner)} has about ${size} octets; more than ${OVER_UDP} do not reliably fit over UDP`,
    effect: 'Every resolver has to retry over TCP.',
    fix: [
      records.length === 1
        ? 'shorten it if you can'
        : `remove those of the ${records.length} records that nobody needs`,
    ],
  })
}
