import type { Rule } from '../rule.ts'
import { GOOD, TEST_KEY } from './examples.ts'
import { hasKeptKeys, keptAs, keptKeys } from './kept-keys.ts'

export const dkimPrivateKeyUnreadable: Rule = {
  code: 'dkim/private-key-unreadable',
  severity: 'warning',
  source: 'practice',
  title: 'unreadable DKIM private key in the workspace',
  why: 'It cannot be compared with the published key, and a mail server could not sign with it.',
  remedy: 'Replace the file with the right key, or remove it.',
  bad: [
    {
      zones: { 'hollowmere.example': GOOD },
      around: { keys: [keptAs({ refused: 'no private key of RSA or Ed25519' })] },
    },
  ],
  good: [{ zones: { 'hollowmere.example': GOOD }, around: { keys: [keptAs({ key: TEST_KEY })] } }],
  visit: {
    applies: hasKeptKeys,
    async finish(cx) {
      for (const { kept, records } of keptKeys(cx)) {
        const half = await kept.publicHalf()
        if ('refused' in half)
          cx.report({
            record: records[0],
            part: 'owner',
            message: `${kept.file}, the private key of ${cx.name(cx.zones.owner(records[0]!))}, cannot be read: ${half.refused}`,
            effect: 'It cannot be compared with the published key.',
            fix: [`replace ${kept.file} with the right key, or remove it`],
          })
      }
    },
  },
}
