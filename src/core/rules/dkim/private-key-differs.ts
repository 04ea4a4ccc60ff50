import { toBase64 } from '../../mail/dkim/key.ts'
import type { Rule } from '../rule.ts'
import { line } from '../text.ts'
import { GOOD, OTHER_KEY, TEST_KEY } from './examples.ts'
import { hasKeptKeys, keptAs, keptKeys } from './kept-keys.ts'
import { READ } from './reading.ts'

export const dkimPrivateKeyDiffers: Rule = {
  code: 'dkim/private-key-differs',
  severity: 'error',
  source: 'RFC 6376 §3.6',
  title: 'DKIM key record that does not match the private key in the workspace',
  why: 'Signatures made with that private key cannot be verified with the published key: every signature fails.',
  remedy: 'Publish the public half of the key that signs.',
  bad: [
    {
      zones: { 'hollowmere.example': GOOD },
      around: { keys: [keptAs({ key: OTHER_KEY })] },
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': GOOD },
      around: { keys: [keptAs({ key: TEST_KEY })] },
    },
  ],
  visit: {
    applies: hasKeptKeys,
    async finish(cx) {
      for (const { kept, records } of keptKeys(cx)) {
        const half = await kept.publicHalf()
        if ('refused' in half) continue
        for (const record of records) {
          const { key } = READ.of(cx.zones, record).record
          if (!key || key.length === 0 || toBase64(key) === half.key) continue
          cx.report({
            record,
            part: 0,
            message: `the key at ${cx.name(cx.zones.owner(record))} does not match ${kept.file}`,
            effect: 'Signatures made with that private key fail.',
            fix: [line(cx, record, `v=DKIM1; k=${half.key.length === 44 ? 'ed25519' : 'rsa'}; p=${half.key}`)],
          })
        }
      }
    },
  },
}
