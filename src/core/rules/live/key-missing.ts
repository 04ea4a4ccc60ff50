import { looksLikeKey } from '../../mail/dkim/key.ts'
import { bare } from '../../names/name.ts'
import { octetsOf } from '../../names/octets.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import type { Rule, Surroundings } from '../rule.ts'
import { isKeyOwner, leading, leadingOut, network, reportLeading, saidOf, without } from '../shared/leading-out.ts'

const text = (value: string): Surroundings =>
  network((owner, type) => {
    const octets = octetsOf(value)
    return type === TYPE.TXT
      ? { outcome: 'data', set: { owner, type, ttl: 60, data: [new Uint8Array([octets.length, ...octets])] } }
      : {}
  })
const ALIAS = { 'hollowmere.example': 'lark1._domainkey CNAME lark1.keys.larkpost.example.' }

export const liveKeyMissing: Rule = {
  code: 'live/key-missing',
  severity: 'error',
  source: 'RFC 6376 §3.6.2',
  title: 'DKIM selector that is an alias of a name without a key',
  why: 'Providers have their customers point selectors at their own names; where the key there is removed, or was never made, signatures fail.',
  remedy: 'Ask the provider for the present names, or turn on signing there.',
  live: true,
  bad: [
    { zones: ALIAS, around: network(() => ({ outcome: 'no-data' })) },
    without('lark1._domainkey CNAME lark1.keys.larkpost.example.', 'larkpost.example.', 'keys.larkpost.example.'),
    { zones: ALIAS, around: text('a word of welcome') },
  ],
  good: [
    { zones: ALIAS, around: text('v=DKIM1; k=rsa; p=') },
    { zones: ALIAS, around: network(() => ({ outcome: 'unknown' })) },
    'lark1._domainkey CNAME lark1.keys.larkpost.example.',
  ],
  visit: {
    ...leadingOut([TYPE.CNAME]),
    async finish(cx) {
      await Promise.all(
        leading(cx).map(async (one) => {
          const owner = cx.name(cx.zones.owner(one.record))
          if (!isKeyOwner(owner)) return
          const [said] = (await saidOf(cx, one.name, [TYPE.TXT])) ?? []
          if (!said || said.set?.data.some((data) => looksLikeKey(joined(data)))) return
          const why = said.outcome === 'no-name' ? 'which does not exist' : 'where there is no DKIM key record'
          reportLeading(cx, one, {
            message: `${owner} is an alias of ${bare(one.name)}, ${why}`,
            effect: 'Verifiers find no key: signatures with this selector fail.',
            fix: ['ask the provider for the present name, or turn on signing there'],
          })
        }),
      )
    },
  },
}
