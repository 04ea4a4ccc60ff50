import { locateName, UNKNOWN } from '../../knowledge/answer.ts'
import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { bare, foldName } from '../../names/name.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { dmarcBelow, isOfMail } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { hasSpf } from '../text.ts'
import { AT_TOP } from '../traits.ts'
import { policy, RUA } from './examples.ts'
import { organizations } from './reading.ts'

export const dmarcMissing: Rule = {
  code: 'dmarc/missing',
  severity: 'warning',
  source: 'RFC 7489 §6.6.3',
  title: 'domain with MX or SPF but without a DMARC record',
  why: 'Receivers cannot tell forged mail from the domain’s own, nobody gets reports, and large receivers reject bulk mail without a policy.',
  remedy: 'Start with p=none and a report address.',
  bad: ['@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"', '@ TXT "v=spf1 include:_spf.larkpost.example -all"'],
  good: [
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\nnews TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=none; ${RUA}`)}`,
    '_spf TXT "v=spf1 ip4:192.0.2.25 -all"',
  ],
  visit: {
    set: {
      [TYPE.MX]: (set, cx) => wantsPolicy(cx, set.records[0]!, set.owner, set.zone),
      [TYPE.TXT]: {
        // The SPF record of a host is for its greeting; only what takes mail, or is a zone’s top, is a domain of mail.
        when: AT_TOP,
        visit(set, cx) {
          if (set.owner === set.zone.apex && !cx.zones.has(set.owner, TYPE.MX) && hasSpf(cx.zones, set.owner))
            wantsPolicy(cx, set.records[0]!, set.owner, set.zone)
        },
      },
    },
    async finish(cx) {
      const { zones } = cx
      const { wanting } = wanted(cx)
      if (wanting.size === 0) return
      // What is in a zone of two labels is of that organization: the list need not be loaded for it.
      const isPlain = (name: NameId): boolean => isTwoLabels(zones, zones.zoneOf(name)!)
      const organizational = [...wanting.keys()].every(isPlain) ? undefined : await organizations()
      for (const [name, record] of wanting) {
        const domain = cx.name(name)
        const organization = isPlain(name) ? zones.zoneOf(name)!.name : organizational!(domain)
        const node = locateName(zones, `_dmarc.${organization}`)
        if (node === UNKNOWN) continue
        if (
          node >= 0 &&
          (zones.hasCname(node) ||
            zones.records(node, TYPE.TXT).some((each) => /dmarc/i.test(joined(zones.rdata(each)))))
        )
          continue
        cx.report({
          record,
          part: 'owner',
          message: `${domain} has ${zones.has(name, TYPE.MX) ? 'MX' : 'SPF'}, but there is no DMARC record at _dmarc.${domain}${foldName(organization) === foldName(domain) ? '' : ` or _dmarc.${organization}`}`,
          effect: 'Forged mail in its name is delivered, and nobody finds out.',
          fix: [`bramblefront write dmarc ${bare(organization)} --next --reports ADDRESS`],
        })
      }
    },
  },
}

/** Remembers a name without a policy of its own, unless that of its zone’s top counts for it. */
function wantsPolicy(cx: Context, record: RecordId, owner: NameId, zone: Zone): void {
  const { zones } = cx
  const { wanting, covering } = wanted(cx)
  let covered = covering.get(zone)
  // A zone of two labels is an organization’s, or a suffix itself: its policy is that of the names below it.
  if (covered === undefined)
    covering.set(zone, (covered = isTwoLabels(zones, zone) && dmarcBelow(zones, zone.apex) !== NONE))
  if (covered || zones.tree.isWildcard(owner) || !isOfMail(cx.zones, zone) || dmarcBelow(zones, owner) !== NONE) return
  wanting.set(owner, record)
}

const isTwoLabels = ({ tree }: Zones, { apex }: Zone): boolean =>
  apex !== ROOT && tree.parent(apex) !== ROOT && tree.parent(tree.parent(apex)) === ROOT

/** Names that want a policy, each with its record; zones whose top has one for all of their names. */
const wanted = (cx: Context) => cx.memory(noneWanted)

const noneWanted = () => ({ wanting: new Map<NameId, RecordId>(), covering: new Map<Zone, boolean>() })
