import type { TextRule } from '../shared/text-rules.ts'
import type { TransportReading } from '../shared/transport-text.ts'
import { HOST } from './example.ts'
import { NO_POLICY } from './reading.ts'

export const mtaStsSyntax: TextRule<TransportReading> = {
  code: 'mta-sts/syntax',
  severity: 'error',
  source: 'RFC 8461 §3.1',
  title: 'malformed MTA-STS record',
  why: 'The record announces the policy, and its id shows when the policy has changed. Without it, senders do not fetch the policy.',
  remedy: 'Write v=STSv1; id=ID, with an ID of letters and digits that differs after each change.',
  effect: NO_POLICY,
  bad: [
    `_mta-sts TXT "v=STSv1;"\n${HOST}`,
    `_mta-sts TXT "v=STSv1; id=2026-11-23"\n${HOST}`,
    `_mta-sts TXT "v=STS1; id=1"\n${HOST}`,
  ],
  good: [`_mta-sts TXT "v=STSv1; id=20261123T1;"\n_mta-sts TXT "ferry-proof=41c2"\n${HOST}`],
}
