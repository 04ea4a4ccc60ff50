import { locate, MISSING } from '../../knowledge/answer.ts'
import { ROOT } from '../../names/tree.ts'
import type { Rule } from '../rule.ts'
import { missing } from '../shared/known-targets.ts'
import { onBoth } from './visits.ts'

export const svcbTargetMissing: Rule = {
  code: 'svcb/target-missing',
  severity: 'warning',
  source: 'RFC 9460 §2.5',
  title: 'SVCB or HTTPS target that does not exist in your zones',
  why: 'Clients that know these records connect to the target and fail; others connect as before. So the fault looks like one of certain browsers.',
  remedy: 'Write the target’s addresses, or “.” if the owner itself is meant.',
  bad: ['www HTTPS 1 edge alpn=h2\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . alpn=h2\nwww A 192.0.2.10', 'www HTTPS 0 edge\nedge A 192.0.2.10'],
  visit: onBoth((set, cx) => {
    for (const record of set.records) {
      const target = cx.zones.target(record)
      if (target !== ROOT && locate(cx.zones, target) === MISSING) missing(cx, record, 1)
    }
  }),
}
