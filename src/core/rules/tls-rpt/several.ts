import { isTlsReports } from '../../mail/transport.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { policies, reportSeveral } from '../shared/several.ts'
import { SCOPED } from '../traits.ts'
import { NO_REPORTS, REPORT_TEXTS } from './reading.ts'

export const tlsRptSeveral: Rule = {
  code: 'tls-rpt/several',
  severity: 'error',
  source: 'RFC 8460 §3',
  title: 'more than one TLS-RPT record',
  why: 'Senders that find several send no reports.',
  remedy: 'Keep one; it can hold several addresses, separated by commas.',
  effect: NO_REPORTS,
  bad: [
    '_smtp._tls TXT "v=TLSRPTv1; rua=mailto:a@larkpost.example"\n_smtp._tls TXT "v=TLSRPTv1; rua=mailto:b@larkpost.example"',
  ],
  good: ['_smtp._tls TXT "v=TLSRPTv1; rua=mailto:a@larkpost.example"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          if (REPORT_TEXTS.isAt?.(cx.zones, set.owner))
            reportSeveral(cx, set, 'records', policies(set, cx, isTlsReports))
        },
      },
    },
  },
}
