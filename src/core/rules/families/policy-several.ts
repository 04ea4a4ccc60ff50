/** Policies of which a name may hold one only. */
import { isDmarc } from '../../mail/dmarc/record.ts'
import { mergeSpf } from '../../mail/spf/merge.ts'
import { isSpf } from '../../mail/spf/record.ts'
import type { RecordId } from '../../model/zones.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { textLine } from '../text.ts'
import { SEVERAL } from '../traits.ts'

/** The records of a TXT set whose text is such a policy, without repeats. */
function policies(set: SetView, cx: Context, isOne: (text: string) => boolean): RecordId[] {
  const found = new Map<string, RecordId>()
  for (const record of set.records) {
    const text = joined(cx.zones.rdata(record))
    if (isOne(text) && !found.has(text)) found.set(text, record)
  }
  return [...found.values()]
}

export const spfSeveral: Rule = {
  code: 'spf/several',
  severity: 'error',
  source: 'RFC 7208 §3.2, §4.5',
  title: 'more than one SPF record at a name',
  why: 'Receivers count this as a permanent error: neither record is used, and mail from every sender fails SPF.',
  remedy: 'Merge them into one record: one v=spf1, all mechanisms, one “all” at the end.',
  bad: ['@ TXT "v=spf1 ip4:192.0.2.25 -all"\n@ TXT "v=spf1 include:_spf.quillwing.example ~all"'],
  good: ['@ TXT "v=spf1 ip4:192.0.2.25 -all"\n@ TXT "ferry-proof=41c2"', '@ TXT "v=spf1 -all"\nnews TXT "v=spf1 ~all"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SEVERAL,
        visit(set, cx) {
          const found = policies(set, cx, isSpf)
          if (found.length < 2) return
          const merged = found
            .map((record) => joined(cx.zones.rdata(record)))
            .reduce((one: ReturnType<typeof mergeSpf>, other) => ('refused' in one ? one : mergeSpf(one.text, other)), {
              text: joined(cx.zones.rdata(found[0])),
              dropped: [],
            })
          cx.report({
            record: found[1],
            message: `${cx.name(set.owner)} has ${found.length} SPF records; the first is at ${cx.where(found[0], found[1])}`,
            consequence: 'Receivers treat this as a permanent error: mail of every sender fails SPF.',
            fix: 'text' in merged ? [textLine(cx.name(set.owner), merged.text)] : [`join them by hand: ${merged.refused}`],
          })
        },
      },
    },
  },
}

export const dmarcSeveral: Rule = {
  code: 'dmarc/several',
  severity: 'error',
  source: 'RFC 7489 §6.6.3',
  title: 'more than one DMARC record at a name',
  why: 'Receivers that find several apply none: the domain is as undefended as without a policy.',
  remedy: 'Keep the one that is meant.',
  bad: ['_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@larkpost.example"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:dmarc@larkpost.example"'],
  good: ['_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@larkpost.example"\n_dmarc TXT "ferry-proof=41c2"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SEVERAL,
        visit(set, cx) {
          if (!/^_dmarc\./i.test(cx.name(set.owner))) return
          const found = policies(set, cx, isDmarc)
          if (found.length < 2) return
          cx.report({
            record: found[1],
            message: `${cx.name(set.owner)} has ${found.length} DMARC records; the first is at ${cx.where(found[0], found[1])}`,
            consequence: 'Receivers apply none of them.',
            fix: [`keep only one, for instance: ${cx.name(set.owner)} ${cx.record(found[0])}`],
          })
        },
      },
    },
  },
}
