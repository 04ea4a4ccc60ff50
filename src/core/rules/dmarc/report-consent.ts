import { followAliases, locateName, locateWire, UNKNOWN } from '../../knowledge/answer.ts'
import { dataOf } from '../../knowledge/find.ts'
import { consentName } from '../../mail/dmarc/discovery.ts'
import { isDmarc } from '../../mail/dmarc/record.ts'
import type { RecordId } from '../../model/zones.ts'
import { foldName, isAtOrBelow, type Name, nameToWire } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { named } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { reportText, textLine } from '../text.ts'
import { SCOPED } from '../traits.ts'
import { policy, RUA } from './examples.ts'
import { domainOf, isAt, organizations, READ } from './reading.ts'

/** A policy, and the record by which it is a name's: the policy itself, or an alias of it. */
interface AskedFor {
  record: RecordId
  policy: RecordId
}

export const dmarcReportConsent: Rule = {
  code: 'dmarc/report-consent',
  severity: 'error',
  source: 'RFC 7489 §7.1',
  title: 'DMARC reports to another organization that does not accept them',
  why: 'So that nobody can flood others with reports, receivers ask the destination domain for its consent and send nothing without it.',
  remedy: 'Write the consent record in the destination’s zone.',
  bad: [
    {
      zones: {
        'hollowmere.example': policy('v=DMARC1; p=none; rua=mailto:dmarc@lakepass.example'),
        'lakepass.example':
          '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@lakepass.example"',
      },
    },
    {
      zones: {
        'hollowmere.example': '_dmarc CNAME _dmarc.lakepass.example.',
        'lakepass.example':
          '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@lakepass.example"',
      },
    },
  ],
  good: [
    {
      zones: {
        'hollowmere.example': policy('v=DMARC1; p=none; rua=mailto:dmarc@lakepass.example'),
        'lakepass.example':
          '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@lakepass.example"\n*._report._dmarc TXT "v=DMARC1"',
      },
    },
    policy(`v=DMARC1; p=none; ${RUA}`),
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          if (isAt(cx.zones, set.owner, '_dmarc'))
            for (const record of set.records) cx.memory((): AskedFor[] => []).push({ record, policy: record })
        },
      },
      [TYPE.CNAME]: {
        when: SCOPED,
        visit(set, cx) {
          // The policy of the name that it is an alias of asks for reports of this one.
          if (!isAt(cx.zones, set.owner, '_dmarc')) return
          const { end } = followAliases(cx.zones, nameToWire(cx.name(set.owner)) as Uint8Array)
          const node = end ? locateWire(cx.zones, end) : UNKNOWN
          if (node < 0) return
          for (const policy of cx.zones.records(node, TYPE.TXT))
            cx.memory((): AskedFor[] => []).push({ record: set.records[0]!, policy })
        },
      },
    },
    async finish(cx) {
      const { zones } = cx
      // Below most destinations nothing is kept: then there is nothing to ask of the kept zones.
      const nothingKept = new Map<Name, boolean>()
      const isOutside = (domain: Name): boolean => {
        const reports = `_report._dmarc.${domain}`
        if (!nothingKept.has(domain))
          nothingKept.set(domain, locateName(zones, reports) === UNKNOWN && named(zones, reports) === NONE)
        return nothingKept.get(domain)!
      }
      const outside = cx
        .memory((): AskedFor[] => [])
        .flatMap(({ record, policy }) => {
          const read = READ.of(zones, policy)
          if (!read.isPolicy) return []
          return [...read.record.rua, ...read.record.ruf].flatMap((each) => {
            const { domain } = each
            if (domain === undefined || (cx.around.asked === undefined && isOutside(domain))) return []
            const from = cx.name(domainOf(zones, zones.owner(record)))
            if (isAtOrBelow(domain, from)) return []
            return cx.around.asked !== undefined || locateName(zones, consentName(from, domain)) !== UNKNOWN
              ? [{ record, policy, from, ...each, domain }]
              : []
          })
        })
      if (outside.length === 0) return
      const organizational = await organizations()
      for (const { record, policy, from, domain, start, end, uri } of outside) {
        if (foldName(organizational(from)) === foldName(organizational(domain))) continue
        const consent = consentName(from, domain)
        const node = locateName(zones, consent)
        if (
          node >= 0 &&
          (zones.hasCname(node) || zones.records(node, TYPE.TXT).some((each) => READ.of(zones, each).isPolicy))
        )
          continue
        const isKept = node !== UNKNOWN
        if (!isKept && !(await refuses(cx, consent))) continue
        const report = {
          severity: isKept ? ('error' as const) : ('warning' as const),
          message: `${uri}: ${domain} does not consent to reports about ${from}`,
          effect: 'Receivers send no reports there.',
          fix: [textLine(consent, 'v=DMARC1')],
        }
        if (record === policy) reportText(cx, record, { start, end }, report)
        else cx.report({ record, part: 0, ...report })
      }
    },
  },
}

/** Whether a name outside the kept zones, where a domain would say that it takes reports, was asked for and says nothing of the kind. */
async function refuses({ around }: Context, consent: Name): Promise<boolean> {
  const found = await around.asked?.(consent, TYPE.TXT)
  return found !== undefined && found.outcome !== 'unknown' && !dataOf(found).map(joined).some(isDmarc)
}
