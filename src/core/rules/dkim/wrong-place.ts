import type { RecordId, Zones } from '../../model/zones.ts'
import { labelsOf } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { domainkeyAbove, isSelector, recordsOf } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { TAGGED_TEXT } from '../traits.ts'
import { GOOD, TEST_KEY } from './examples.ts'
import { KEYS } from './reading.ts'

/** Keys that stand where nobody asks for them, unless an alias leads there. */
const astray = (cx: Context): RecordId[] => cx.memory((): RecordId[] => [])

/** Names that an alias leads to from a selector: a key may stand there. */
function aliasedKeys(zones: Zones): Set<NameId> {
  const found = new Set<NameId>()
  for (const record of recordsOf(zones, TYPE.CNAME))
    if (isSelector(zones, zones.owner(record))) found.add(zones.target(record))
  return found
}

export const dkimWrongPlace: Rule = {
  code: 'dkim/wrong-place',
  severity: 'warning',
  source: 'RFC 6376 §3.6.2.1',
  title: 'DKIM key record that is not at a selector below _domainkey',
  why: 'Verifiers build the name from the selector and the domain in the signature. They never look anywhere else.',
  remedy: 'Write it at SELECTOR._domainkey below the domain that signs.',
  bad: [
    `@ TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1.domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkeys TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkey._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
  ],
  good: [
    `march2005.reykjavik._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    GOOD,
    `s1._domainkey CNAME key\nkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    '_domainkey TXT "o=-"',
    '_adsp._domainkey TXT "dkim=all"',
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: TAGGED_TEXT,
        visit(set, cx) {
          const { zones } = cx
          // What a wildcard answers with is another rule’s.
          if (zones.tree.isWildcard(set.owner)) return
          const above = domainkeyAbove(zones, set.owner)
          if (above !== NONE && !isSelector(zones, above)) return
          const key = set.records.find((record) => KEYS.reading(zones, record, set))
          if (key !== undefined) astray(cx).push(key)
        },
      },
    },
    finish(cx) {
      const { zones } = cx
      if (astray(cx).length === 0) return
      const aliased = aliasedKeys(zones)
      for (const record of astray(cx)) {
        const owner = zones.owner(record)
        const name = cx.name(owner)
        if (aliased.has(owner) || /^(?:_domainkey|_adsp)\./i.test(name)) continue
        const labels = labelsOf(name)
        const selector = labels[0]!.startsWith('_') ? 'SELECTOR' : labels[0]
        const again = labels.filter((each) => /domain-?keys?$/i.test(each)).length > 1
        cx.report({
          record,
          part: 'owner',
          message: again
            ? `${name} contains _domainkey twice`
            : `${name} has a DKIM key record but is not below _domainkey`,
          effect: 'Verifiers look at SELECTOR._domainkey.DOMAIN and find no key.',
          fix: [`write it at ${selector}._domainkey.${zones.zoneOfRecord(record).name}`],
        })
      }
    },
  },
}
