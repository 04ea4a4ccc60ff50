import { followAliases, locate } from '../../knowledge/answer.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { wireToName } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { listed } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { ALIAS_TARGET } from '../traits.ts'

/** The name whose alias answers for what an alias points to, or NONE where the chain ends or leaves what is known. */
function nextAlias(zones: Zones, alias: NameId): NameId {
  const record = zones.records(alias, TYPE.CNAME)[0]!
  const node = locate(zones, zones.target(record))
  return node >= 0 && zones.hasCname(node) ? node : NONE
}

export const cnameLoop: Rule = {
  code: 'cname/loop',
  severity: 'error',
  source: 'RFC 1034 §3.6.2',
  title: 'CNAME loop',
  why: 'The chain never reaches any data. Resolvers give up and answer SERVFAIL for every type.',
  remedy: 'Give one of the names in the loop the data itself.',
  silences: ['cname/target-missing'],
  bad: [
    'one CNAME two\ntwo CNAME three\nthree CNAME one',
    'self CNAME self',
    {
      zones: {
        'hollowmere.example': 'www CNAME www.lakepass.example.',
        'lakepass.example': 'www CNAME www.hollowmere.example.',
      },
    },
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
          if (here === NONE) circleThroughDname(set.records[0]!, cx)
          if (here === NONE || memory.seen[here] !== walk) return
          const circle = [here]
          for (let name = nextAlias(cx.zones, here); name !== here; name = nextAlias(cx.zones, name)) circle.push(name)
          const record = cx.zones.records(here, TYPE.CNAME)[0]!
          const names = [...circle, here].map(cx.name)
          const shown =
            names.length > 6 ? [...names.slice(0, 5), `(${names.length - 6} more)`, names[names.length - 1]] : names
          cx.report({
            record,
            part: 0,
            message: circle.length === 1 ? `${names[0]} is a CNAME of itself` : `CNAME loop: ${shown.join(' → ')}`,
            effect: 'None of these names resolves.',
            fix: [`replace ${names[0]} ${cx.record(record)} with an address record`],
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
  const { steps, trouble } = followAliases(zones, zones.rdata(record))
  if (trouble !== 'circle') return
  const owner = cx.name(zones.owner(record))
  const names = [owner, cx.name(zones.target(record)), ...steps.map(({ to }) => wireToName(to))]
  cx.report({
    record,
    part: 0,
    message: `loop of CNAME and DNAME records: ${listed(names)}`,
    effect: 'None of these names resolves.',
    fix: [`point ${owner} at a name that has the data itself`],
  })
}
