import type { Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'
import { exchanges, onMx, preference } from './visits.ts'

export const mxAllEqual: Rule = {
  code: 'mx/all-equal',
  severity: 'advice',
  source: 'RFC 5321 §5.1',
  title: 'MX records that all have the same preference',
  why: 'Senders choose among equal MX hosts at random: the load is shared, and none of them is a fallback.',
  remedy: 'If one of them is meant as a fallback, give it a higher number.',
  bad: ['@ MX 10 mx.larkpost.example.\n@ MX 10 mx2.larkpost.example.\n@ MX 10 mx3.larkpost.example.'],
  good: [
    '@ MX 10 mx.larkpost.example.\n@ MX 10 mx2.larkpost.example.',
    '@ MX 10 mx.larkpost.example.\n@ MX 20 mx2.larkpost.example.',
  ],
  visit: onMx(SEVERAL, (set, cx) => {
    // Most sets have an order: told without making anything.
    if (preference(cx.zones, set.records[0]!) !== preference(cx.zones, set.records[1]!)) return
    const hosts = exchanges(cx.zones, set)
    if (
      new Set(hosts.map((record) => cx.zones.target(record))).size < 3 ||
      hosts.some((record) => preference(cx.zones, record) !== preference(cx.zones, hosts[0]!))
    )
      return
    cx.report({
      record: hosts[0],
      part: 0,
      message: `all ${hosts.length} MX hosts of ${cx.name(set.owner)} have preference ${preference(cx.zones, hosts[0]!)}`,
      effect: 'They share the load; none of them is tried first.',
      fix: ['give a fallback a higher number, or leave it'],
    })
  }),
}
