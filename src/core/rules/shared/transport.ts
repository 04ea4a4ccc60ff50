/** How mail must be carried to a domain (MTA-STS), and where reports of it go (TLS-RPT). */

import { locateName, UNKNOWN } from '../../knowledge/answer.ts'
import { isSts, isTlsReports, parseSts, parseTlsReports } from '../../mail/transport.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { hostAddresses } from '../look.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { corrected, reportText } from '../text.ts'
import { SCOPED } from '../traits.ts'

type Kind = 'mta-sts' | 'tls-rpt'

/** What a scoped name is for, by its labels. */
function kindOf({ tree }: Zones, owner: number): Kind | undefined {
  const label = tree.labelText(owner)
  return label === '_mta-sts'
    ? 'mta-sts'
    : label === '_smtp' && tree.labelText(tree.parent(owner)) === '_tls'
      ? 'tls-rpt'
      : undefined
}

const COUNTS: Record<Kind, (text: string) => boolean> = { 'mta-sts': isSts, 'tls-rpt': isTlsReports }

const parse = (kind: Kind, text: string) => (kind === 'mta-sts' ? parseSts(text) : parseTlsReports(text))

const VERSIONS: Record<Kind, RegExp> = { 'mta-sts': /sts/i, 'tls-rpt': /tls-?rpt/i }

const THEN: Record<Kind, string> = {
  'mta-sts': 'Senders take it that there is no policy.',
  'tls-rpt': 'No reports come.',
}

export const VISIT: Rule['visit'] = {
  set: {
    [TYPE.TXT]: {
      when: SCOPED,
      visit(set, cx) {
        const kind = kindOf(cx.zones, set.owner)
        if (kind === undefined) return
        const texts = new Map(set.records.map((record) => [joined(cx.zones.rdata(record)), record]))
        const counting = [...texts].filter(([text]) => COUNTS[kind](text))
        if (counting.length > 1)
          cx.report({
            code: kind === 'mta-sts' ? 'mta-sts/several' : 'tls-rpt/several',
            record: counting[1][1],
            message: `${cx.name(set.owner)} has ${counting.length} records; the first is at ${cx.where(counting[0][1], counting[1][1])}`,
            consequence: THEN[kind],
            fix: [`keep only one, for instance: ${cx.name(set.owner)} ${cx.record(counting[0][1])}`],
          })
        for (const [text, record] of texts) {
          const code = kind === 'mta-sts' ? 'mta-sts/syntax' : 'tls-rpt/syntax'
          if (COUNTS[kind](text)) {
            for (const problem of parse(kind, text).problems)
              reportText(cx, record, problem, {
                code,
                message: `${cx.name(set.owner)}: ${problem.message}`,
                consequence: THEN[kind],
                fix: corrected(cx, record, text, problem, (other) => parse(kind, other).problems.length === 0),
              })
          } else if (VERSIONS[kind].test(text.slice(0, 20)) && counting.length === 0) {
            const version = kind === 'mta-sts' ? 'v=STSv1' : 'v=TLSRPTv1'
            reportText(
              cx,
              record,
              { start: 0, end: Math.max(1, text.search(/[;\s]|$/)) },
              {
                code,
                message: `${cx.name(set.owner)} does not begin with ${version};`,
                consequence: THEN[kind],
                fix: [`begin with ${version};`],
              },
            )
          }
        }
        if (kind === 'mta-sts' && counting.length === 1) hostOf(cx, set, counting[0][1])
      },
    },
  },
}

/** The host that senders fetch the policy from. */
function hostOf(cx: Context, set: SetView, record: RecordId): void {
  const domain = cx.name(cx.zones.tree.parent(set.owner))
  const host = `mta-sts.${domain}`
  const node = locateName(cx.zones, host)
  if (node === UNKNOWN) return
  const found = node < 0 ? undefined : hostAddresses(cx.zones, node)
  if (node >= 0 && (!found || found.records.length > 0)) return
  cx.report({
    code: 'mta-sts/host-missing',
    record,
    part: 'owner',
    message: `${host} has no address, and ${cx.name(set.owner)} says that a policy is to be had there`,
    consequence: 'Senders cannot fetch the policy, and act as if there were none.',
    fix: [`write the address of the web server that has the policy at ${host}`],
  })
}
