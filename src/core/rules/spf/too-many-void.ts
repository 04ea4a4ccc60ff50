import { dataOf, findIntended } from '../../knowledge/find.ts'
import { askingTerms, type KnownSpf, targetOf } from '../../mail/spf/budget.ts'
import { MAX_EXCHANGES, MAX_VOID_LOOKUPS } from '../../mail/spf/check-host.ts'
import { readSpf, type SpfRecord } from '../../mail/spf/record.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { foldName, type Name, wireToName } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { listed } from '../look.ts'
import type { Context } from '../rule.ts'
import { SPF_READ, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText, spfRecordAt } from '../text.ts'
import { SEVERAL } from '../traits.ts'
import { ownMx } from './budget.ts'
import { recordsAt } from './memory.ts'

function tooManyVoid(
  cx: Context,
  record: RecordId,
  domain: Name,
  spf: SpfRecord,
  place: { start: number; end: number },
): void {
  for (const family of ['IPv4', 'IPv6'] as const) {
    const looked: Looked = { seen: new Set(), terms: 0, questions: 0, recordAt: recordsAt(cx) }
    const empty = voids(cx.zones, spf, domain, family === 'IPv4' ? 'A' : 'AAAA', looked)
    if (Math.max(empty.length, looked.questions) <= MAX_VOID_LOOKUPS) continue
    const byTerm = empty.length > MAX_VOID_LOOKUPS
    reportText(cx, record, place, {
      code: 'spf/too-many-void',
      severity: byTerm ? undefined : 'advice',
      message: byTerm
        ? `SPF at ${domain}: ${empty.length} void lookups for ${family} senders (${listed(empty)})`
        : `SPF at ${domain}: ${looked.questions} void lookups for ${family} senders, counted by query (${empty.length} counted by term)`,
      effect: byTerm
        ? `At the third void lookup, receivers give up on the record (permerror) for ${family} senders.`
        : `Receivers that count each MX host of an mx term give up on the record (permerror) for ${family} senders; those that count terms do not.`,
      fix: [`replace these terms with addresses (ip4:, ip6:), or remove them`],
    })
    break
  }
}

/** Receivers have long given up. */
const MOST_TERMS = 100

const MOST_INCLUDES = 20

interface Looked {
  seen: Set<string>
  terms: number
  /** Questions that find nothing, each exchange of an mx counted. */
  questions: number
  recordAt: (name: Name) => KnownSpf
}

/** The terms that find nothing at known names, those of known includes with them. */
function voids(zones: Zones, spf: SpfRecord, domain: Name, family: 'A' | 'AAAA', looked: Looked): string[] {
  return askingTerms(spf).flatMap((term): string[] => {
    if (term.name === 'ptr' || ++looked.terms > MOST_TERMS) return []
    const target = targetOf(term, domain)
    if (target === undefined) return []
    if (term.name === 'include' || term.name === 'redirect') {
      const key = foldName(target)
      if (looked.seen.has(key) || looked.seen.size === MOST_INCLUDES) return []
      looked.seen.add(key)
      const known = looked.recordAt(target)
      return typeof known === 'string' ? [] : voids(zones, readSpf(known.text).record, target, family, looked)
    }
    const isEmpty = (name: Name, type: number): boolean =>
      ['no-data', 'no-name'].includes(findIntended(zones, name, type).outcome)
    if (term.name !== 'mx') {
      if (!isEmpty(target, term.name === 'exists' ? TYPE.A : TYPE[family])) return []
      looked.questions++
      return [term.text]
    }
    const found = findIntended(zones, target, TYPE.MX)
    if (found.outcome === 'unknown') return []
    const exchanges = dataOf(found)
      .map((data) => wireToName(data.subarray(2)))
      .filter((each) => each !== '.')
    const empty = exchanges.slice(0, MAX_EXCHANGES).filter((each) => isEmpty(each, TYPE[family]))
    looked.questions += exchanges.length === 0 ? 1 : empty.length
    return empty.length === exchanges.length ? [term.text] : []
  })
}

export const spfTooManyVoid: TextRule<SpfReading> = {
  code: 'spf/too-many-void',
  severity: 'warning',
  source: 'RFC 7208 §4.6.4',
  title: 'SPF record with more than 2 void lookups',
  why: 'Receivers give up at the third. Some count terms, others each query, so that every MX host without an address counts. For IPv6 senders, hosts without IPv6 count as void, and the other way round.',
  remedy: 'Write addresses instead of such terms.',
  bad: [
    '@ TXT "v=spf1 a:one.hollowmere.example a:two.hollowmere.example a:three.hollowmere.example -all"\none A 192.0.2.1\ntwo A 192.0.2.2\nthree A 192.0.2.3',
    '@ TXT "v=spf1 mx -all"\n@ MX 1 one\n@ MX 2 two\n@ MX 3 three\none A 192.0.2.1\ntwo A 192.0.2.2\nthree A 192.0.2.3',
  ],
  good: [
    '@ TXT "v=spf1 a:one.hollowmere.example a:two.hollowmere.example a:x.larkpost.example -all"\none A 192.0.2.1\ntwo A 192.0.2.2',
  ],
  inZone(cx, record, { text, record: spf, leads }, set) {
    if (leads) tooManyVoid(cx, record, cx.name(set.owner), spf!, { start: 0, end: text.length })
  },
  beside: {
    [TYPE.MX]: {
      when: SEVERAL,
      visit(set, cx) {
        // More than ten are another rule’s.
        if (set.records.length <= MAX_VOID_LOOKUPS || set.records.length > MAX_EXCHANGES) return
        const text = spfRecordAt(cx.zones, set.owner)
        const reading = text === NONE ? undefined : SPF_READ.of(cx.zones, text)
        const own = reading && ownMx(reading)
        // What leads elsewhere is counted with that.
        if (own && !reading.leads) tooManyVoid(cx, text, cx.name(set.owner), reading.record!, own)
      },
    },
  },
}
