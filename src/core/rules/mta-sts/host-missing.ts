import type { Rule } from '../rule.ts'
import { VISIT } from '../shared/transport.ts'
import { HOST } from './example.ts'

export const mtaStsHostMissing: Rule = {
  code: 'mta-sts/host-missing',
  severity: 'error',
  source: 'RFC 8461 §3.3',
  title: 'no address for the host that has the policy',
  why: 'Senders fetch the policy from https://mta-sts.DOMAIN/.well-known/mta-sts.txt. Without the host there is none.',
  remedy: 'Write the address, or an alias, of the web server.',
  bad: ['_mta-sts TXT "v=STSv1; id=1"', '_mta-sts TXT "v=STSv1; id=1"\nmta-sts TXT "hello"'],
  good: [
    `_mta-sts TXT "v=STSv1; id=1"\n${HOST}`,
    '_mta-sts TXT "v=STSv1; id=1"\nmta-sts CNAME policies.larkpost.example.',
  ],
  visit: VISIT,
}
