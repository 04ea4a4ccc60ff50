import { listsExchange, parsePolicy } from '../../mail/transport.ts'
import { bare, foldName } from '../../names/name.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { named } from '../look.ts'
import type { Rule } from '../rule.ts'

const kept = (text: string) => ({
  policies: [{ domain: 'hollowmere.example.', file: 'policies/hollowmere.example.txt', text }],
})

const MAIL =
  '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"'

export const mtaStsExchangeNotListed: Rule = {
  code: 'mta-sts/exchange-not-listed',
  severity: 'error',
  source: 'RFC 8461 §4.1',
  title: 'MX host that the MTA-STS policy in the workspace does not list',
  why: 'Senders that follow the policy do not deliver to an MX host that it does not list; in testing mode they only report it.',
  remedy:
    'Write the policy again, with --also HOST for an MX host that is not in the MX set yet; publish it; then write the MX set.',
  bad: [
    {
      zones: { 'hollowmere.example': MAIL },
      around: kept('version: STSv1\nmode: enforce\nmx: mail.hollowmere.example\nmax_age: 604800\n'),
    },
    {
      zones: { 'hollowmere.example': MAIL },
      around: kept('version: STSv1\nmode: enforce\nmx: *.mx.larkpost.example\nmax_age: 604800\n'),
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': MAIL },
      around: kept('version: STSv1\nmode: enforce\nmx: *.larkpost.example\nmax_age: 604800\n'),
    },
    { zones: { 'hollowmere.example': MAIL }, around: kept('version: STSv1\nmode: none\nmax_age: 604800\n') },
  ],
  visit: {
    applies: (cx) => (cx.around.policies?.length ?? 0) > 0,
    finish(cx) {
      const { zones } = cx
      for (const { domain, file, text } of cx.around.policies ?? []) {
        const { policy } = parsePolicy(text)
        const name = named(zones, domain)
        if (policy.mode === undefined || policy.mode === 'none' || name < 0 || !cx.isAbout(name)) continue
        for (const record of zones.records(name, TYPE.MX)) {
          const exchange = zones.target(record)
          if (exchange === ROOT || listsExchange(policy, cx.name(exchange))) continue
          cx.report({
            record,
            part: 1,
            severity: policy.mode === 'enforce' ? 'error' : 'warning',
            message: `${cx.name(exchange)} is an MX host of ${foldName(domain)}, but the policy in ${file} (mode ${policy.mode}) does not list it`,
            effect:
              policy.mode === 'enforce'
                ? 'Senders that follow the policy do not deliver there.'
                : 'Senders report it as a failure; in enforce mode they would not deliver there.',
            fix: [`bramblefront write mta-sts ${bare(foldName(domain))} --also ${bare(foldName(cx.name(exchange)))}`],
          })
        }
      }
    },
  },
}
