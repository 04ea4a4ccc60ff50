import { dataOf, findIntended } from '../../knowledge/find.ts'
import { targetOf } from '../../mail/spf/budget.ts'
import { MAX_EXCHANGES } from '../../mail/spf/check-host.ts'
import type { Mechanism } from '../../mail/spf/record.ts'
import type { RecordId } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context } from '../rule.ts'
import { SPF_READ, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { reportText, spfRecordAt } from '../text.ts'
import { SEVERAL } from '../traits.ts'
import { ownMx } from './budget.ts'

function tooManyExchanges(cx: Context, record: RecordId, domain: Name, mechanism: Mechanism, count: number): void {
  reportText(cx, record, mechanism, {
    code: 'spf/too-many-mx',
    message: `SPF at ${domain}: ${mechanism.text} stands for ${count} MX hosts`,
    effect: `Receivers look up ${MAX_EXCHANGES} at most and then give up on the whole record (permerror).`,
    fix: ['list the addresses of the MX hosts as ip4: and ip6: ranges'],
  })
}

export const spfTooManyMx: TextRule<SpfReading> = {
  code: 'spf/too-many-mx',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'SPF mx term for a domain with more than 10 MX hosts',
  why: 'Receivers look up the addresses of ten and give up on the record at the eleventh.',
  remedy: 'List ranges instead.',
  bad: [
    `@ TXT "v=spf1 mx -all"\n${Array.from({ length: 11 }, (_, i) => `@ MX ${i} m${i}.larkpost.example.`).join('\n')}`,
  ],
  good: [
    `@ TXT "v=spf1 mx -all"\n${Array.from({ length: 10 }, (_, i) => `@ MX ${i} m${i}.larkpost.example.`).join('\n')}`,
  ],
  inZone(cx, record, { record: spf, leads }, set) {
    if (!leads) return
    const domain = cx.name(set.owner)
    for (const mechanism of spf!.mechanisms) {
      const target = mechanism.name === 'mx' && mechanism.macros ? targetOf(mechanism, domain) : undefined
      const exchanges = target === undefined ? [] : dataOf(findIntended(cx.zones, target, TYPE.MX))
      if (exchanges.length > MAX_EXCHANGES) tooManyExchanges(cx, record, domain, mechanism, exchanges.length)
    }
  },
  beside: {
    [TYPE.MX]: {
      when: SEVERAL,
      visit(set, cx) {
        if (set.records.length <= MAX_EXCHANGES) return
        const text = spfRecordAt(cx.zones, set.owner)
        const own = text === NONE ? undefined : ownMx(SPF_READ.of(cx.zones, text))
        if (own) tooManyExchanges(cx, text, cx.name(set.owner), own, set.records.length)
      },
    },
  },
}
