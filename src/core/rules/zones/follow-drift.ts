import type { RecordId } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { addressesAt, hostAddresses, listed, named } from '../look.ts'
import type { Rule } from '../rule.ts'

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
  ],
  good: [
    {
      zones: { 'hollowmere.example': '@ A 192.0.2.11\nwww CNAME @\nsite A 192.0.2.11' },
      around: { follows: [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }] },
    },
  ],
  visit: {
    finish(cx) {
      const { zones } = cx
      for (const { owner, target } of cx.around.follows ?? []) {
        const idOf = (each: string): NameId => named(zones, each.endsWith('.') ? each : `${each}.`)
        const top = idOf(owner)
        const name = idOf(target)
        const zone = top === NONE ? undefined : zones.zoneOf(top)
        const host = name === NONE ? undefined : hostAddresses(zones, name)
        if (!zone || !host || host.records.length === 0 || !cx.isAbout(top)) continue
        const have = addressesAt(zones, top)
        const texts = (records: readonly RecordId[]): string[] => records.map((record) => cx.record(record)).sort()
        if (texts(have).join() === texts(host.records).join()) continue
        cx.report({
          record: have[0],
          zone,
          owner: top,
          message: `${cx.name(top)} follows ${cx.name(name)}, which has ${listed(texts(host.records))}; the apex has ${listed(texts(have)) || 'none'}`,
          effect: 'The apex still leads to the old addresses.',
          fix: texts(host.records).map((text) => `${cx.name(top)} ${text}`),
        })
      }
    },
  },
}
