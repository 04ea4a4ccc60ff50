import type { RecordId, Zone } from '../../model/zones.ts'
import { bare } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { isOfMail } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { hasSpf, textLine } from '../text.ts'
import { NO_SPF, SCOPED } from '../traits.ts'

export const spfNotInherited: Rule = {
  code: 'spf/not-inherited',
  severity: 'advice',
  source: 'RFC 7208 §4',
  title: 'subdomain that receives or sends mail without an SPF record of its own',
  why: 'SPF is not inherited: receivers look at exactly the name after the “@”. The parent domain’s record says nothing about a name below it.',
  remedy: 'Write a record at that name, too; if the same hosts send, use redirect= to the parent domain’s record.',
  silences: ['spf/missing'],
  bad: [
    '@ TXT "v=spf1 ip4:192.0.2.25 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nnews MX 10 mx.larkpost.example.',
    '@ TXT "v=spf1 ip4:192.0.2.25 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\n_dmarc.news TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nnews A 192.0.2.30',
  ],
  good: [
    '@ TXT "v=spf1 ip4:192.0.2.25 -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\nnews MX 10 mx.larkpost.example.\nnews TXT "v=spf1 redirect=hollowmere.example"',
  ],
  visit: {
    set: {
      [TYPE.MX]: {
        when: NO_SPF,
        visit(set, cx) {
          const { zones } = cx
          if (
            set.owner === set.zone.apex ||
            hasSpf(zones, set.owner) ||
            !isOfMail(cx.zones, set.zone) ||
            zones.tree.isWildcard(set.owner) ||
            !hasSpf(zones, set.zone.apex)
          )
            return
          notInherited(cx, set.records[0]!, set.owner, set.zone, 'takes mail')
        },
      },
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          const { zones } = cx
          const { tree } = zones
          if (tree.labelOctet(set.owner, 0) !== 0x5f || tree.labelText(set.owner) !== '_dmarc') return
          const owner = tree.parent(set.owner)
          if (
            owner === set.zone.apex ||
            zones.first(owner) === NONE ||
            zones.has(owner, TYPE.MX) ||
            zones.hasCname(owner)
          )
            return
          if (hasSpf(zones, owner) || !isOfMail(cx.zones, set.zone) || !hasSpf(zones, set.zone.apex)) return
          notInherited(cx, set.records[0]!, owner, set.zone, 'has a DMARC policy')
        },
      },
    },
  },
}

function notInherited(cx: Context, record: RecordId, owner: NameId, zone: Zone, does: string): void {
  cx.report({
    record,
    part: 'owner',
    message: `${cx.name(owner)} ${does} but has no SPF record; the record of ${zone.name} does not apply to it`,
    effect: 'SPF gives no result for mail from it: anyone can send in its name.',
    fix: [textLine(cx.name(owner), `v=spf1 redirect=${bare(zone.name)}`)],
  })
}
