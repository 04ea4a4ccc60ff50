import { locateName } from '../../knowledge/answer.ts'
import { isDmarc } from '../../mail/dmarc/record.ts'
import type { RecordId } from '../../model/zones.ts'
import { foldName } from '../../names/name.ts'
import { latin1Of } from '../../names/octets.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { takesNoMail } from '../shared/known-targets.ts'
import { TextMemory } from '../text.ts'
import { SCOPED } from '../traits.ts'

export const mailReportBoxClosed: Rule = {
  code: 'mail/report-box-closed',
  severity: 'error',
  source: 'RFC 7489 §6.2, RFC 7505',
  title: 'report address at a domain that does not accept mail',
  why: 'Reports bounce, and their senders give up after a while: nobody learns who sends in the domain’s name, or who requests certificates.',
  remedy: 'Use an address at a domain that accepts mail.',
  bad: [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@hollowmere.example"\n@ MX 0 .\n@ TXT "v=spf1 -all"',
    {
      zones: {
        'hollowmere.example': '@ CAA 0 iodef "mailto:ca@lakepass.example"',
        'lakepass.example': '@ MX 0 .\n@ TXT "v=spf1 -all"',
      },
    },
  ],
  good: [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@larkpost.example!10m,mailto:d@hollowmere.example"\n@ MX 10 mx.larkpost.example.',
    '@ CAA 0 iodef "https://hollowmere.example/report"',
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          const label = cx.zones.tree.labelText(set.owner)
          if (label !== '_dmarc' && label !== '_smtp') return
          for (const record of set.records) {
            const { at, boxes } = REPORTS.of(cx.zones, record)
            if (at === label) for (const [address, domain] of boxes) say(cx, record, 0, domain, address)
          }
        },
      },
      [TYPE.CAA](set, cx) {
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          const value = latin1Of(data, 2 + data[1]!, data.length)
          for (const [address, domain] of mailtos(value)) say(cx, record, 2, domain, address)
        }
      },
    },
  },
}

/** The addresses behind `mailto:` in a text, and their domains. */
function mailtos(text: string): [string, string][] {
  return [...text.matchAll(/mailto:([^@,;:\s]+)@([a-z0-9._-]+)/gi)].map(([, local, domain = '']) => [
    `${local}@${domain}`,
    `${foldName(domain).replace(/\.$/, '')}.`,
  ])
}

/** Below which label a text asks for reports, and the mailboxes that it names. */
const REPORTS = new TextMemory((text) => ({
  at: isDmarc(text) ? '_dmarc' : /^v=TLSRPTv1/i.test(text) ? '_smtp' : undefined,
  boxes: mailtos(text),
}))

function say(cx: Context, record: RecordId, part: number, domain: string, what: string): void {
  const known = cx.memory(() => new Map<string, string | undefined>())
  if (!known.has(domain)) known.set(domain, takesNoMail(cx.zones, locateName(cx.zones, domain)))
  const because = known.get(domain)
  if (!because) return
  cx.report({
    record,
    part,
    message: `${what}: ${domain} ${because}`,
    effect: 'Reports sent there bounce.',
    fix: ['use an address at a domain that accepts mail'],
  })
}
