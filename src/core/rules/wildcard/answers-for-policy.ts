import { isDmarc } from '../../mail/dmarc/record.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { WILDCARD } from '../traits.ts'

const isKey = (text: string): boolean =>
  /(?:^|;)\s*p\s*=\s*[A-Za-z0-9+/]/.test(text) && /^\s*(?:v\s*=\s*DKIM1|k\s*=|p\s*=)/i.test(text)

export const wildcardAnswersForPolicy: Rule = {
  code: 'wildcard/answers-for-policy',
  severity: 'advice',
  source: 'RFC 7489, RFC 6376 §3.6.2',
  title: 'wildcard TXT that answers for mail policies and keys',
  why: 'It answers for _dmarc, for every selector below _domainkey and for report consents of all names that do not exist. A policy or key in it applies to all of them.',
  remedy: 'Write texts at the names that need them.',
  bad: [
    '* TXT "hello"',
    '* TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"',
    '* TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
  ],
  good: ['*._domainkey TXT "v=DKIM1; p="', '*._report._dmarc TXT "v=DMARC1"', 'www TXT "hello"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: WILDCARD,
        visit(set, cx) {
          const { tree } = cx.zones
          if (!tree.isWildcard(set.owner)) return
          // Below such labels the text is meant for them.
          let below = false
          for (let here = tree.parent(set.owner); here > ROOT; here = tree.parent(here))
            below ||= /^_(?:dmarc|report)$/.test(tree.labelText(here))
          const selector = tree.labelText(tree.parent(set.owner)) === '_domainkey'
          const policy = set.records.find((record) => {
            const text = joined(cx.zones.rdata(record))
            return (isDmarc(text) && !below) || isKey(text)
          })
          if (policy === undefined && (below || selector)) return
          const [record] = policy === undefined ? set.records : [policy]
          cx.report({
            record,
            severity: policy === undefined ? 'advice' : 'error',
            message: `${cx.name(set.owner)} answers with ${policy === undefined ? 'a text' : 'a policy or a key'} for _dmarc, _domainkey and every other name below ${cx.name(tree.parent(set.owner))} that does not exist`,
            effect:
              policy === undefined
                ? 'Mail programs find this text where they look for a policy.'
                : 'It acts as the policy or key of every name, made-up ones included.',
            fix: ['write the text at the names that need it'],
          })
        },
      },
    },
  },
}
