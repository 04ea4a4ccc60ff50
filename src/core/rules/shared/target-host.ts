/** What the target of a mail exchange or a service must be: a host with addresses of its own, no alias. */

import { aliasOf, followAliases, locate, MISSING } from '../../knowledge/answer.ts'
import { bare, nameToWire, wireToName } from '../../names/name.ts'
import { ROOT } from '../../names/tree.ts'
import { rowOf, TYPE, typeText } from '../../records/types.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { ALIAS_TARGET, LOST_TARGET } from '../traits.ts'

interface Shape {
  type: number
  code: string
  source: string
  bad: Rule['bad']
  good: Rule['good']
}

export function targetIsAlias({
  type,
  code,
  severity = 'error',
  source,
  bad,
  good,
  effect,
  silences,
}: Shape & Partial<Rule> & { effect: string }): Rule {
  const mnemonic = typeText(type)
  const index = rowOf(type)!.target!
  return {
    code,
    severity,
    silences,
    source,
    title: `${mnemonic} target that is an alias (CNAME or DNAME)`,
    why: effect,
    remedy: 'Point the record at the name that has the addresses, or give the target addresses instead of the CNAME.',
    bad,
    good,
    visit: {
      set: {
        [type]: {
          when: ALIAS_TARGET,
          visit(set: SetView, cx: Context) {
            for (const record of set.records) {
              const target = cx.zones.target(record)
              const alias = target === ROOT ? undefined : aliasOf(cx.zones, nameToWire(cx.name(target)) as Uint8Array)
              if (alias === undefined || alias === 'too-long') continue
              cx.report({
                record,
                part: index,
                message: `${mnemonic} at ${cx.name(set.owner)} points to ${cx.name(target)}, which is an alias: ${cx.name(alias.node)} ${cx.record(alias.record)} (${cx.where(alias.record, record)})`,
                effect,
                fix: [
                  `${cx.name(set.owner)} ${cx.withTarget(record, wireToName(followAliases(cx.zones, nameToWire(cx.name(target)) as Uint8Array).end ?? alias.to))}`,
                  ...(alias.node === target && cx.zones.type(alias.record) === TYPE.CNAME
                    ? [
                        `or give ${bare(cx.name(target))} addresses of its own: bramblefront write address ${bare(cx.name(target))} ADDRESS --replace`,
                      ]
                    : []),
                ],
              })
            }
          },
        },
      },
    },
  }
}

export function targetWithoutAddress({ type, code, source, bad, good, effect }: Shape & { effect: string }): Rule {
  const mnemonic = typeText(type)
  const index = rowOf(type)!.target!
  return {
    code,
    severity: 'error',
    source,
    title: `${mnemonic} target in your zones without an address`,
    why: effect,
    remedy:
      'Write the target’s A or AAAA record, or point the record at the right host. A target in another domain ends with a dot.',
    bad,
    good,
    visit: {
      set: {
        [type]: {
          when: LOST_TARGET,
          visit(set: SetView, cx: Context) {
            for (const record of set.records) {
              const target = cx.zones.target(record)
              if (target === ROOT) continue
              const node = locate(cx.zones, target)
              if (
                node !== MISSING &&
                (node < 0 || cx.zones.hasCname(node) || cx.zones.has(node, TYPE.A) || cx.zones.has(node, TYPE.AAAA))
              )
                continue
              if (node >= 0 && cx.zones.zoneOf(node)?.complete === false) continue
              cx.report({
                record,
                part: index,
                message: `${mnemonic} at ${cx.name(set.owner)} points to ${cx.name(target)}, which ${node === MISSING ? 'does not exist' : 'has no address'} in ${cx.zones.zoneOf(target)!.name}`,
                effect,
                fix: [`${cx.name(target)} A ADDRESS`],
              })
            }
          },
        },
      },
    },
  }
}
