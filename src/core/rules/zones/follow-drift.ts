import { zoneOfName } from '../../knowledge/answer.ts'
import type { Name } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { rdataText } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { addressesAt, hostAddresses, listed, named } from '../look.ts'
import type { Context, Rule, Surroundings } from '../rule.ts'
import { network, saidOf } from '../shared/leading-out.ts'

/** A target outside your zones, with an address, or where nobody says. */
const outside = (outcome: 'data' | 'unknown'): Surroundings => ({
  ...network((owner, type) =>
    outcome === 'data' && type === TYPE.A
      ? { outcome, set: { owner, type, ttl: 60, data: [new Uint8Array([192, 0, 2, 11])] } }
      : { outcome: outcome === 'data' ? 'no-data' : 'unknown' },
  ),
  follows: [{ owner: 'hollowmere.example', target: 'site.larkpost.example' }],
})

export const keptFollowDrift: Rule = {
  code: 'zones/follow-drift',
  severity: 'warning',
  source: 'practice',
  title: 'apex addresses that no longer match the name that the apex follows',
  why: 'A CNAME cannot stand at the apex, so the target’s addresses were written there. The target’s addresses have changed since.',
  remedy: 'Write the target’s current addresses at the apex.',
  bad: [
    {
      zones: { 'hollowmere.example': '@ A 192.0.2.10\nwww CNAME @\nsite A 192.0.2.11' },
      around: { follows: [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }] },
    },
    { zones: { 'hollowmere.example': '@ A 192.0.2.10' }, around: outside('data') },
  ],
  good: [
    { zones: { 'hollowmere.example': '@ A 192.0.2.11' }, around: outside('data') },
    { zones: { 'hollowmere.example': '@ A 192.0.2.10' }, around: outside('unknown') },
    {
      zones: { 'hollowmere.example': '@ A 192.0.2.11\nwww CNAME @\nsite A 192.0.2.11' },
      around: { follows: [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }] },
    },
  ],
  visit: {
    async finish(cx) {
      const { zones } = cx
      for (const { owner, target } of cx.around.follows ?? []) {
        const top = named(zones, absolute(owner))
        const zone = top === NONE ? undefined : zones.zoneOf(top)
        if (!zone || !cx.isAbout(top)) continue
        const now = await addressesOf(cx, absolute(target))
        if (!now || now.length === 0) continue
        const have = addressesAt(zones, top)
        const texts = have.map((record) => cx.record(record)).sort()
        if (texts.join() === now.join()) continue
        cx.report({
          record: have[0],
          zone,
          owner: top,
          message: `${cx.name(top)} follows ${absolute(target)}, which has ${listed(now)}; the apex has ${listed(texts) || 'none'}`,
          effect: 'The apex still leads to the old addresses.',
          fix: isKept(cx, target) ? now.map((text) => `${cx.name(top)} ${text}`) : ['bramblefront follow'],
        })
      }
    },
  },
}

/** Whether the target is in your zones; one outside is looked up anew by the command. */
const isKept = ({ zones }: Context, target: string): boolean => zoneOfName(zones, absolute(target)) !== undefined

const absolute = (name: string): Name => (name.endsWith('.') ? name : `${name}.`)

/** The addresses that a name has in your zones, or, where servers may be asked, as they say; undefined where nobody knows. */
async function addressesOf(cx: Context, target: Name): Promise<string[] | undefined> {
  const name = named(cx.zones, target)
  const host = name === NONE ? undefined : hostAddresses(cx.zones, name)
  if (host) return host.records.map((record) => cx.record(record)).sort()
  if (!cx.around.askedOfEach || isKept(cx, target)) return undefined
  const said = await saidOf(cx, target, [TYPE.A, TYPE.AAAA])
  return said
    ?.flatMap(({ set }) => set?.data.map((data) => `${typeText(set.type)} ${rdataText(set.type, data)}`) ?? [])
    .sort()
}
