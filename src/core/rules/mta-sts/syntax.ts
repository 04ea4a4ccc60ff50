import type { TextRule } from '../shared/text-rules.ts'
import type { TransportReading } from '../shared/transport-text.ts'
import { HOST } from './example.ts'
import { NO_POLICY } from './reading.ts'

export const mtaStsSyntax: TextRule<TransportReading> = {
  code: 'mta-sts/syntax',
  severity: 'error',
  source: 'RFC 8461 §3.1',
  title: 'a record at _mta-sts that senders cannot read',
  why: 'It says that there is a policy, and by its id when that has changed. Without it, the policy is not looked for.',
  remedy: 'Write v=STSv1; id= and letters and digits that are others at each change.',
  effect: NO_POLICY,
  bad: [
    `_mta-sts TXT "v=STSv1;"\n${HOST}`,
    `_mta-sts TXT "v=STSv1; id=2026-11-23"\n${HOST}`,
    `_mta-sts TXT "v=STS1; id=1"\n${HOST}`,
  ],
  good: [`_mta-sts TXT "v=STSv1; id=20261123T1;"\n_mta-sts TXT "ferry-proof=41c2"\n${HOST}`],
}
