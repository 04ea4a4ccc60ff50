import { writtenValue } from '../../file/entry.ts'
import { followAliases, locate, locateWire, MISSING, zoneOfName } from '../../knowledge/answer.ts'
import { type RecordId, TARGET_RELATIVE, type Zones } from '../../model/zones.ts'
import { labelsOf, type Name, nameToWire, wireToName } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { LOST_TARGET } from '../traits.ts'

/** The name that a target leads to, through a DNAME or not, where it is known not to exist; else undefined. */
function endOf(zones: Zones, target: NameId): Name | undefined {
  if (zones.dnameAbove(target) === NONE) return locate(zones, target) === MISSING ? zones.tree.text(target) : undefined
  const { end } = followAliases(zones, nameToWire(zones.tree.text(target)) as Uint8Array)
  return end && locateWire(zones, end) === MISSING ? wireToName(end) : undefined
}

/** A target of several labels was most likely meant with a final dot; any other lacks its records. */
function meant(cx: Context, record: RecordId, end: Name): string {
  const { zones } = cx
  const written = zones.flags(record) & TARGET_RELATIVE ? writtenValue(zones, record, 0) : ''
  return labelsOf(written).length > 1 ? `${cx.name(zones.owner(record))} CNAME ${written}.` : `${end} A ADDRESS`
}

export const cnameTargetMissing: Rule = {
  code: 'cname/target-missing',
  severity: 'warning',
  source: 'RFC 1034 §3.6.2',
  title: 'CNAME target that does not exist in your zones',
  why: 'Whoever follows the CNAME gets NXDOMAIN. Often the target was removed or misspelled, or its final dot is missing.',
  remedy:
    'Write the target’s records, or point the CNAME at the right name. A target in another domain ends with a dot.',
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
          const record = set.records[0]!
          const target = cx.zones.target(record)
          const end = endOf(cx.zones, target)
          if (
            end === undefined ||
            /^_(?:acme-challenge|dnsauth|pki-validation|certvalidation)\./i.test(cx.name(set.owner))
          )
            return
          cx.report({
            record,
            part: 0,
            message: `${cx.name(set.owner)} points to ${cx.name(target)}, which ${end === cx.name(target) ? '' : `a DNAME rewrites to ${end}: that `}does not exist in ${zoneOfName(cx.zones, end)!.name}`,
            effect: 'Every query for it ends in NXDOMAIN.',
            fix: [meant(cx, record, end)],
          })
        },
      },
    },
  },
}
