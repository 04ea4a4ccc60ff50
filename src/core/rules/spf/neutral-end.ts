import { targetOf } from '../../mail/spf/budget.ts'
import { withEnd } from '../../mail/spf/merge.ts'
import type { Zones } from '../../model/zones.ts'
import { labelsOf } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import { SPF_READ, type SpfReading } from '../shared/spf-text.ts'
import type { TextRule } from '../shared/text-rules.ts'
import { line, reportText } from '../text.ts'
import { bare } from './examples.ts'
import { spfMemory } from './memory.ts'

/** The names that a kept record includes or redirects to, in lower case. */
function includedNames(zones: Zones): Set<string> {
  const found = new Set<string>()
  for (let record = 0; record < zones.count; record++) {
    if (zones.type(record) !== TYPE.TXT) continue
    const { record: spf } = SPF_READ.of(zones, record)
    for (const term of spf?.terms ?? [])
      if (term.name === 'include' || term.name === 'redirect') {
        const target = targetOf(term, zones.tree.text(zones.owner(record)))
        if (target) found.add(target.toLowerCase())
      }
  }
  return found
}

export const spfNeutralEnd: TextRule<SpfReading> = {
  code: 'spf/neutral-end',
  severity: 'warning',
  source: 'RFC 7208 §4.7',
  title: 'SPF record that says nothing about unlisted senders',
  why: 'With ?all, or with neither “all” nor redirect, an unlisted sender gets the result neutral, as if there were no record.',
  remedy: 'End with ~all, or with -all if nothing else sends.',
  effect: 'It says nothing about unlisted senders: forged mail is neither rejected nor suspicious.',
  bad: ['mx ?all', 'mx', 'include:_spf.larkpost.example'].map(bare),
  good: [
    '@ TXT "v=spf1 mx ~all"',
    '_spf TXT "v=spf1 ip4:192.0.2.25 ?all"',
    '@ TXT "v=spf1 include:spf.hollowmere.example -all"\nspf TXT "v=spf1 ip4:192.0.2.25"',
    '@ TXT "v=spf1 redirect=_spf.larkpost.example"',
  ],
  inZone(cx, record, { text, record: spf }, set) {
    const { all, redirect, mechanisms } = spf!
    if (all ? all.qualifier !== '?' : redirect) return
    // Records that exist to be included need no end of their own.
    if (labelsOf(cx.name(set.owner))[0]?.startsWith('_')) return
    const memory = spfMemory(cx)
    memory.included ??= includedNames(cx.zones)
    if (memory.included.has(cx.name(set.owner).toLowerCase())) return
    reportText(cx, record, all ?? mechanisms.at(-1) ?? { start: 0, end: text.length }, {
      code: 'spf/neutral-end',
      message: `SPF at ${cx.name(set.owner)} ${all ? `ends with ${all.text}` : 'ends with neither “all” nor redirect='}`,
      fix: [line(cx, record, withEnd(text, '~'))],
    })
  },
}
