import { locate } from '../../knowledge/answer.ts'
import type { Zones } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { ALIAS_TARGET } from '../traits.ts'

/** What an alias leads to inside the kept zones, one step; NONE where that is no alias. */
function step(zones: Zones, alias: NameId): NameId {
  const node = locate(zones, zones.target(zones.records(alias, TYPE.CNAME)[0]!))
  return node >= 0 && zones.hasCname(node) ? node : NONE
}

/** Longer chains are given up by some resolvers. */
const LONG = 8

export const cnameChain: Rule = {
  code: 'cname/chain',
  severity: 'advice',
  source: 'RFC 1034 §3.6.2',
  title: 'CNAME that points to another CNAME',
  why: 'Each step can cost another query and is one more thing that can break. Some resolvers give up after about eight steps.',
  remedy: 'Point the CNAME at the final name.',
  bad: ['www CNAME site\nsite CNAME host\nhost A 192.0.2.10'],
  good: ['www CNAME host\nsite CNAME host\nhost A 192.0.2.10', 'www CNAME site.northlight.example.'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: ALIAS_TARGET,
        visit(set, cx) {
          const { zones } = cx
          // The middle of a chain is spoken of at its beginning; most aliases lead to no alias.
          if (step(zones, set.owner) === NONE) return
          cx.memory((): NameId[] => []).push(set.owner)
        },
      },
    },
    finish(cx) {
      const { zones } = cx
      const heads = cx.memory((): NameId[] => [])
      if (heads.length === 0) return
      const pointedTo = new Set(heads.map((head) => step(zones, head)))
      for (const head of heads) {
        if (pointedTo.has(head)) continue
        const chain = [head]
        for (
          let here = step(zones, head);
          here !== NONE && chain.length <= 32 && !chain.includes(here);
          here = step(zones, here)
        )
          chain.push(here)
        if (chain.length > 32 || step(zones, chain[chain.length - 1]!) !== NONE) continue
        const [record] = zones.records(head, TYPE.CNAME)
        const end = zones.target(zones.records(chain[chain.length - 1]!, TYPE.CNAME)[0]!)
        cx.report({
          record,
          part: 0,
          severity: chain.length > LONG ? 'warning' : 'advice',
          message: `${cx.name(head)} reaches ${cx.name(end)} in ${chain.length} steps: ${listed([...chain.slice(1), end].map(cx.name), 4)}`,
          effect:
            chain.length > LONG
              ? 'Some resolvers give up before the end.'
              : 'Resolvers may need a query for each step.',
          fix: [`${cx.name(head)} CNAME ${cx.name(end)}`],
        })
      }
    },
  },
}
