import type { TextRule } from '../shared/text-rules.ts'
import { reportText } from '../text.ts'
import { GOOD } from './examples.ts'
import type { KeyReading } from './reading.ts'

export const dkimRevoked: TextRule<KeyReading> = {
  code: 'dkim/revoked',
  severity: 'advice',
  source: 'RFC 6376 §3.6.1',
  title: 'revoked DKIM key record',
  why: 'An empty p= says that the key is revoked. It may be there on purpose, and can be removed once no mail signed with the key is in transit.',
  remedy: 'Remove the record after a week.',
  effect: 'Mail that is still signed with it fails.',
  bad: ['s1._domainkey TXT "v=DKIM1; p="'],
  good: [GOOD, '*._domainkey TXT "v=DKIM1; p="'],
  inZone(cx, record, { problems }, set) {
    // At a wildcard, an empty key says on purpose that nobody signs.
    if (cx.zones.tree.isWildcard(set.owner)) return
    for (const problem of problems.filter(({ kind }) => kind === 'revoked'))
      reportText(cx, record, problem, {
        code: 'dkim/revoked',
        message: `key at ${cx.name(set.owner)}: ${problem.message}`,
        fix: [problem.advice!],
      })
  },
}
