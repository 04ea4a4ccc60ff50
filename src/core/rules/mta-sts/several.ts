import type { Rule } from '../rule.ts'
import { VISIT } from '../shared/transport.ts'
import { HOST } from './example.ts'

export const mtaStsSeveral: Rule = {
  code: 'mta-sts/several',
  severity: 'error',
  source: 'RFC 8461 §3.1',
  title: 'more than one record at _mta-sts',
  why: 'Senders that find several take it that there is no policy.',
  remedy: 'Keep one.',
  bad: [`_mta-sts TXT "v=STSv1; id=1"\n_mta-sts TXT "v=STSv1; id=2"\n${HOST}`],
  good: [`_mta-sts TXT "v=STSv1; id=1"\n${HOST}`],
  visit: VISIT,
}
