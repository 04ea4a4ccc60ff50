import { locate, MISSING } from '../../answer/answer.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Zones } from '../../zone/zones.ts'
import type { Rule } from '../rule.ts'
import { ALIAS_TARGET, LOST_TARGET } from '../traits.ts'

/** The name whose alias answers for what an alias points to, or NONE where the chain ends or leaves what is known. */
function nextAlias(zones: Zones, alias: NameId): NameId {
  const [record] = zones.records(alias, TYPE.CNAME)
  const node = locate(zones, zones.target(record))
  return node >= 0 && zones.hasCname(node) ? node : NONE
}

export const cnameLoop: Rule = {
  code: 'cname/loop',
  severity: 'error',
  source: 'RFC 1034 §3.6.2',
  title: 'aliases that lead back to themselves, across all kept zones',
  why: 'There is no data at the end: resolvers give up and say that the server failed, for every type.',
  remedy: 'Let one of the names in the circle hold the data itself.',
  silences: ['cname/target-missing'],
  bad: [
    'one CNAME two\ntwo CNAME three\nthree CNAME one',
    'self CNAME self',
    { zones: { 'hollowmere.example': 'www CNAME www.lakepass.example.', 'lakepass.example': 'www CNAME www.hollowmere.example.' } },
  ],
  good: ['one CNAME two\ntwo CNAME three\nthree A 192.0.2.3', 'one CNAME end\ntwo CNAME end\nend A 192.0.2.3'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: ALIAS_TARGET,
        visit(set, cx) {
          // Each alias is walked over once: by the number of the walk that first came to it, a walk knows whether it met itself.
          const memory = cx.memory(() => ({ walk: 0, seen: new Int32Array(cx.zones.tree.count) }))
          const walk = ++memory.walk
          let here: NameId = set.owner
          while (here !== NONE && memory.seen[here] === 0) {
            memory.seen[here] = walk
            here = nextAlias(cx.zones, here)
          }
          if (here === NONE || memory.seen[here] !== walk) return
          const circle = [here]
          for (let name = nextAlias(cx.zones, here); name !== here; name = nextAlias(cx.zones, name)) circle.push(name)
          const [record] = cx.zones.records(here, TYPE.CNAME)
          const names = [...circle, here].map(cx.name)
          const shown = names.length > 6 ? [...names.slice(0, 5), `(${names.length - 6} more)`, names[names.length - 1]] : names
          cx.report({
            record,
            part: 0,
            message: circle.length === 1 ? `${names[0]} is an alias of itself` : `aliases lead in a circle: ${shown.join(' → ')}`,
            consequence: 'No question for any of these names is ever answered.',
            fix: [`take out ${names[0]} ${cx.record(record)}, and write the address that is meant at ${names[0]}`],
          })
        },
      },
    },
  },
}

export const cnameTargetMissing: Rule = {
  code: 'cname/target-missing',
  severity: 'warning',
  source: 'RFC 1034 §3.6.2',
  title: 'an alias of a name in a kept zone that does not exist',
  why: 'Whoever follows the alias is told that the name does not exist. Often the target was removed, or mis-typed, or its final dot was forgotten.',
  remedy: 'Write the target, or point the alias at the name that is meant. A target in another domain ends with a dot.',
  bad: ['www CNAME sight\nsite A 192.0.2.10'],
  good: [
    'www CNAME site\n*.lake A 192.0.2.10\nsite CNAME any.lake',
    'www CNAME site.northlight.example.',
    '_acme-challenge.www CNAME proof.checks\nwww A 192.0.2.10',
  ],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: LOST_TARGET,
        visit(set, cx) {
          const [record] = set.records
          const target = cx.zones.target(record)
          if (locate(cx.zones, target) !== MISSING || /^_(?:acme-challenge|dnsauth|pki-validation|certvalidation)\./i.test(cx.name(set.owner))) return
          cx.report({
            record,
            part: 0,
            message: `${cx.name(set.owner)} is an alias of ${cx.name(target)}, which does not exist in ${cx.zones.zoneOf(target)!.name}`,
            consequence: 'Every question for it ends in “no such name”.',
            fix: [`write ${cx.name(target)} A ADDRESS, or point ${cx.name(set.owner)} at the name that is meant`],
          })
        },
      },
    },
  },
}
