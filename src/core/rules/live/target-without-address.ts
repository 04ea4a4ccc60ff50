import { bare, labelsOf } from '../../names/name.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { type Leading, leading, leadingOut, network, reportLeading, saidOf } from '../shared/leading-out.ts'

const addressless = network(() => ({ outcome: 'no-data' }))

export const liveTargetWithoutAddress: Rule = {
  code: 'live/target-without-address',
  severity: 'error',
  source: 'RFC 5321 §5.1, RFC 2782, RFC 1912 §2.8',
  title: 'MX, SRV, NS or CNAME target outside your zones that has no address',
  why: 'The name exists, but there is no host to connect to.',
  remedy: 'Ask whoever runs the target for the name of the host.',
  live: true,
  bad: [
    { zones: { 'hollowmere.example': '_imaps._tcp SRV 0 1 993 imap.larkpost.example.' }, around: addressless },
    { zones: { 'hollowmere.example': 'shop CNAME shops.larkpost.example.' }, around: addressless },
  ],
  good: [
    {
      zones: { 'hollowmere.example': 'shop CNAME shops.larkpost.example.' },
      around: network((owner, type) =>
        type === TYPE.AAAA ? { outcome: 'data', set: { owner, type, ttl: 60, data: [new Uint8Array(16)] } } : {},
      ),
    },
    // A name with underscores is no host: what it leads to has other types.
    { zones: { 'hollowmere.example': '_mta-sts CNAME policies.larkpost.example.' }, around: addressless },
    'shop CNAME shops.larkpost.example.',
  ],
  visit: {
    ...leadingOut([TYPE.CNAME, TYPE.MX, TYPE.NS, TYPE.SRV]),
    async finish(cx) {
      await Promise.all(
        leading(cx).map(async (one) => {
          if (!(await hasNoAddress(cx, one))) return
          reportLeading(cx, one, {
            message: `${typeText(one.type)} at ${cx.name(cx.zones.owner(one.record))} points to ${bare(one.name)}, which has no address`,
            effect: 'There is no host to connect to.',
            fix: ['ask whoever runs it for the name of the host'],
            ...(one.type === TYPE.CNAME ? { severity: 'warning' as const } : {}),
          })
        }),
      )
    },
  },
}

async function hasNoAddress(cx: Context, { record, type, name }: Leading): Promise<boolean> {
  if (type === TYPE.CNAME && labelsOf(cx.name(cx.zones.owner(record))).some((label) => label.startsWith('_')))
    return false
  const said = await saidOf(cx, name, [TYPE.A, TYPE.AAAA])
  return said?.every(({ outcome }) => outcome === 'no-data') === true
}
