import { toBase64 } from '../../mail/dkim/key.ts'
import { DROPPED, type RecordId } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { isSelector } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { SELECTOR } from '../traits.ts'
import { GOOD, OTHER_KEY, TEST_KEY } from './examples.ts'
import { READ } from './reading.ts'

/** Keys at selectors, each with its octets in base64. */
function publishedKeys(cx: Context): Map<string, RecordId[]> {
  const { zones } = cx
  const found = new Map<string, RecordId[]>()
  for (let record = 0; record < zones.count; record++) {
    if (zones.type(record) !== TYPE.TXT || zones.flags(record) & DROPPED || !isSelector(zones, zones.owner(record)))
      continue
    const { key } = READ.of(zones, record).record
    if (!key || key.length === 0) continue
    const text = toBase64(key)
    found.set(text, [...(found.get(text) ?? []), record])
  }
  return found
}

export const dkimSameKey: Rule = {
  code: 'dkim/same-key',
  severity: 'advice',
  source: 'RFC 6376 §3.1',
  title: 'same DKIM key under two selectors or in two domains',
  why: 'Anyone who obtains the private key can sign for all of them, and revoking it in one place leaves the others valid.',
  remedy: 'Create a key for each, or use a CNAME to a single key record.',
  bad: [`${GOOD}\ns2._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`],
  good: [
    `${GOOD}\ns2._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`,
    `${GOOD}\ns2._domainkey CNAME s1._domainkey`,
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SELECTOR,
        visit(_, cx) {
          cx.memory(() => ({ seen: false })).seen = true
        },
      },
    },
    finish(cx) {
      if (!cx.memory(() => ({ seen: false })).seen) return
      for (const [first = NONE, ...others] of publishedKeys(cx).values()) {
        const again = others.find((record) => cx.zones.owner(record) !== cx.zones.owner(first))
        if (again === undefined || (!cx.isAbout(cx.zones.owner(again)) && !cx.isAbout(cx.zones.owner(first)))) continue
        cx.report({
          record: again,
          part: 0,
          message: `the key at ${cx.name(cx.zones.owner(again))} is the same as the one at ${cx.name(cx.zones.owner(first))} (${cx.where(first, again)})`,
          effect: 'Revoking it in one place leaves the other valid.',
          fix: ['create a separate key: bramblefront write dkim DOMAIN --selector SELECTOR'],
        })
      }
    },
  },
}
