import { mergeSpf } from '../../mail/spf/merge.ts'
import { isSpf } from '../../mail/spf/record.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { policies, reportSeveral } from '../shared/several.ts'
import { textLine } from '../text.ts'
import { SEVERAL } from '../traits.ts'

export const spfSeveral: Rule = {
  code: 'spf/several',
  severity: 'error',
  source: 'RFC 7208 §3.2, §4.5',
  title: 'more than one SPF record at a name',
  why: 'Receivers treat this as a permanent error (permerror): no record is used, and mail from every sender fails SPF.',
  remedy:
    'Merge them into one record: one v=spf1, all mechanisms, one “all” at the end. This does it: bramblefront write spf DOMAIN',
  effect: 'Receivers treat this as a permanent error (permerror): mail from every sender fails SPF.',
  bad: ['@ TXT "v=spf1 ip4:192.0.2.25 -all"\n@ TXT "v=spf1 include:_spf.quillwing.example ~all"'],
  good: ['@ TXT "v=spf1 ip4:192.0.2.25 -all"\n@ TXT "ferry-proof=41c2"', '@ TXT "v=spf1 -all"\nnews TXT "v=spf1 ~all"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SEVERAL,
        visit(set, cx) {
          const found = policies(set, cx, isSpf)
          reportSeveral(cx, set, 'SPF records', found, () => {
            const merged = found
              .map((record) => joined(cx.zones.rdata(record)))
              .reduce(
                (one: ReturnType<typeof mergeSpf>, other) => ('refused' in one ? one : mergeSpf(one.text, other)),
                {
                  text: joined(cx.zones.rdata(found[0]!)),
                  dropped: [],
                },
              )
            return 'text' in merged ? textLine(cx.name(set.owner), merged.text) : `join them by hand: ${merged.refused}`
          })
        },
      },
    },
  },
}
