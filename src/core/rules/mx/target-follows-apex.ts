import type { RecordId } from '../../model/zones.ts'
import { nameToWire } from '../../names/name.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { addressesAt } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { TOP_TARGET } from '../traits.ts'
import { onMx } from './visits.ts'

/** What mail hosts are usually called. */
const USUAL = ['mail', 'mx', 'mx1', 'mailhost']

/** A host for the mail: one of the usual names that has addresses already, else one that is free. The address of the web site is not taken for that of the mail server. */
function mailHost(cx: Context, apex: NameId, record: RecordId, owner: NameId): string[] {
  const { zones } = cx
  const nameOf = (label: string): string => `${label}.${cx.name(apex)}`
  const nodeOf = (label: string): NameId => zones.tree.findWire(nameToWire(nameOf(label)) as Uint8Array)
  const isThere = (label: string): boolean => nodeOf(label) !== NONE && addressesAt(zones, nodeOf(label)).length > 0
  const isFree = (label: string): boolean => nodeOf(label) === NONE || zones.first(nodeOf(label)) === NONE
  const there = USUAL.find(isThere)
  const host = there ?? USUAL.find(isFree)
  if (host === undefined) return ['point the MX at a host that has addresses of its own']
  const line = `${cx.name(owner)} ${cx.withTarget(record, nameOf(host))}`
  return there === undefined ? [`${nameOf(host)} A ADDRESS`, line] : [line]
}

export const mxTargetFollowsTop: Rule = {
  code: 'mx/target-follows-apex',
  severity: 'advice',
  source: 'practice',
  title: 'MX target that is the zone apex',
  why: 'The apex address is usually that of the web site. When the site moves, the mail of everyone whose MX points there moves with it, unnoticed.',
  remedy: 'Give the mail host a name of its own, and point the MX there.',
  bad: ['@ MX 10 @\n@ A 192.0.2.10\nwww CNAME @'],
  good: ['@ MX 10 mail\n@ A 192.0.2.10\nmail A 192.0.2.25\nwww CNAME @'],
  visit: onMx(TOP_TARGET, (set, cx) => {
    for (const record of set.records) {
      const target = cx.zones.target(record)
      const zone = target === ROOT ? undefined : cx.zones.zoneOf(target)
      if (zone?.apex !== target || addressesAt(cx.zones, target).length === 0) continue
      cx.report({
        record,
        part: 1,
        message: `the MX target of ${cx.name(set.owner)} is ${cx.name(target)}, a zone apex`,
        effect: 'Moving the web site also moves the mail.',
        fix: mailHost(cx, target, record, set.owner),
      })
    }
  }),
}
