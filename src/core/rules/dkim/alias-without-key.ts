import { TYPE } from '../../records/types.ts'
import { isSelector } from '../look.ts'
import type { Rule } from '../rule.ts'
import { withoutText } from '../shared/without-text.ts'
import { SELECTOR } from '../traits.ts'
import { TEST_KEY } from './examples.ts'

export const dkimAliasWithoutKey: Rule = {
  code: 'dkim/alias-without-key',
  severity: 'error',
  source: 'RFC 6376 §3.6.2',
  title: 'CNAME at a DKIM selector whose target has no key record',
  why: 'Verifiers follow the CNAME and find nothing: signatures with this selector fail.',
  remedy: 'Write the key record at the target, or use the target that the provider names.',
  silences: ['cname/target-missing'],
  bad: ['s1._domainkey CNAME key', 's1._domainkey CNAME key\nkey A 192.0.2.10'],
  good: [
    `s1._domainkey CNAME key\nkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    's1._domainkey CNAME s1.keys.larkpost.example.',
  ],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: SELECTOR,
        visit(set, cx) {
          if (isSelector(cx.zones, set.owner)) withoutText(cx, set.records[0]!, 'key')
        },
      },
    },
  },
}
