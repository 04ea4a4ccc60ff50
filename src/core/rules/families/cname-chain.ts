import { followAliases, keptZoneOf, locate, locateWire, MISSING } from '../../knowledge/answer.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { type Name, nameToWire, wireToName } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { listed } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { ALIAS_TARGET, LOST_TARGET } from '../traits.ts'

/** The name whose alias answers for what an alias points to, or NONE where the chain ends or leaves what is known. */
function nextAlias(zones: Zones, alias: NameId): NameId {
  const [record] = zones.records(alias, TYPE.CNAME)
  const node = locate(zones, zones.target(record))
  return node >= 0 && zones.hasCname(node) ? node : NONE
}

/** The name that a target leads to, through a DNAME or not, where it is known not to exist; else undefined. */
function endOf(zones: Zones, target: NameId): Name | undefined {
  if (zones.dnameAbove(target) === NONE) return locate(zones, target) === MISSING ? zones.tree.text(target) : undefined
  const { end } = followAliases(zones, nameToWire(zones.tree.text(target)) as Uint8Array)
  return end && locateWire(zones, end) === MISSING ? wireToName(end) : undefined
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
    'www CNAME x.old\nold DNAME new\nnew DNAME old',
    'x.new CNAME x.old\nold DNAME new',
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
          if (here === NONE) circleThroughDname(set.records[0], cx)
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

/** A circle that a DNAME closes, of names that stand nowhere. */
function circleThroughDname(record: RecordId, cx: Context): void {
  const { zones } = cx
  if (zones.dnameAbove(zones.target(record)) === NONE) return
  const { steps, circle } = followAliases(zones, zones.rdata(record))
  if (!circle) return
  const owner = cx.name(zones.owner(record))
  const names = [owner, cx.name(zones.target(record)), ...steps.map(({ to }) => wireToName(to))]
  cx.report({
    record,
    part: 0,
    message: `aliases and DNAMEs lead in a circle: ${listed(names)}`,
    consequence: 'No question for any of these names is ever answered.',
    fix: [`point ${owner} at a name that has the data itself`],
  })
}

export const cnameTargetMissing: Rule = {
  code: 'cname/target-missing',
  severity: 'warning',
  source: 'RFC 1034 §3.6.2',
  title: 'an alias of a name in a kept zone that does not exist',
  why: 'Whoever follows the alias is told that the name does not exist. Often the target was removed, or mis-typed, or its final dot was forgotten.',
  remedy: 'Write the target, or point the alias at the name that is meant. A target in another domain ends with a dot.',
  bad: ['www CNAME sight\nsite A 192.0.2.10', 'www CNAME sight.old\nold DNAME new\nsite.new A 192.0.2.10'],
  good: [
    'www CNAME site\n*.lake A 192.0.2.10\nsite CNAME any.lake',
    'www CNAME site.northlight.example.',
    'www CNAME site.old\nold DNAME new\nsite.new A 192.0.2.10',
    '_acme-challenge.www CNAME proof.checks\nwww A 192.0.2.10',
  ],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: LOST_TARGET,
        visit(set, cx) {
          const [record] = set.records
          const target = cx.zones.target(record)
          const end = endOf(cx.zones, target)
          if (end === undefined || /^_(?:acme-challenge|dnsauth|pki-validation|certvalidation)\./i.test(cx.name(set.owner))) return
          cx.report({
            record,
            part: 0,
            message: `${cx.name(set.owner)} is an alias of ${cx.name(target)}, which ${end === cx.name(target) ? '' : `a DNAME makes an alias of ${end}: that `}does not exist in ${keptZoneOf(cx.zones, end)!.name}`,
            consequence: 'Every question for it ends in “no such name”.',
            fix: [`write ${end} A ADDRESS, or point ${cx.name(set.owner)} at the name that is meant`],
          })
        },
      },
    },
  },
}
