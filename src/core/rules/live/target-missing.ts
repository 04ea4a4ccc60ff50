import { bare } from '../../names/name.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { isKeyOwner, leading, leadingOut, network, reportLeading, saidOf, without } from '../shared/leading-out.ts'

const GONE = 'gone.larkpost.example.'

export const liveTargetMissing: Rule = {
  code: 'live/target-missing',
  severity: 'error',
  source: 'RFC 1034 §3.6.2, RFC 5321 §5.1, RFC 2782',
  title: 'CNAME, MX, NS or SRV target outside your zones that does not exist',
  why: 'The record is served as it should be, and leads nowhere: the other side was renamed or given up, or the name was mistyped.',
  remedy: 'Ask whoever runs the target for its present name.',
  live: true,
  bad: [
    without('shop CNAME gone.larkpost.example.', 'larkpost.example.', GONE),
    without('_imaps._tcp SRV 0 1 993 gone.larkpost.example.', 'larkpost.example.', GONE),
    without('isle NS gone.larkpost.example.\nisle NS ns2.upland-dns.example.', 'larkpost.example.', GONE),
  ],
  good: [
    {
      zones: { 'hollowmere.example': 'shop CNAME gone.larkpost.example.' },
      around: network(() => ({ outcome: 'unknown' })),
    },
    {
      zones: { 'hollowmere.example': 'shop CNAME shops.larkpost.example.' },
      around: network((owner, type) => ({ outcome: 'data', set: { owner, type, ttl: 60, data: [new Uint8Array(4)] } })),
    },
    'shop CNAME gone.larkpost.example.',
  ],
  visit: {
    ...leadingOut([TYPE.CNAME, TYPE.MX, TYPE.NS, TYPE.SRV]),
    async finish(cx) {
      await Promise.all(
        leading(cx).map(async (one) => {
          const owner = cx.name(cx.zones.owner(one.record))
          if (one.type === TYPE.CNAME && isKeyOwner(owner)) return
          const [said] = (await saidOf(cx, one.name, [TYPE.A])) ?? []
          if (said?.outcome === 'no-name')
            reportLeading(cx, one, {
              message: `${typeText(one.type)} at ${owner} points to ${bare(one.name)}, which does not exist`,
              effect: 'Whoever follows it gets NXDOMAIN.',
              fix: ['ask whoever runs it for the present name, or remove the record'],
            })
        }),
      )
    },
  },
}
