import { TYPE } from '../../records/types.ts'
import { hostAddresses, isPrivate } from '../look.ts'
import type { Rule } from '../rule.ts'
import { SINGLE } from '../traits.ts'
import { isNull, onMx } from './visits.ts'

export const mxSingle: Rule = {
  code: 'mx/single',
  severity: 'advice',
  source: 'practice',
  title: 'single MX host',
  why: 'While it is down, mail waits with the senders: most retry for days, some give up within hours.',
  remedy: 'Add a second MX host if you have one that knows the valid recipients; otherwise leave it.',
  bad: ['@ MX 10 mail\nmail A 192.0.2.25'],
  good: [
    // A provider’s one name stands for many hosts.
    '@ MX 10 mx.larkpost.example.',
    '@ MX 10 mx.larkpost.example.\n@ MX 20 mx2.larkpost.example.',
    '@ MX 0 .\n@ TXT "v=spf1 -all"',
  ],
  visit: onMx(SINGLE, (set, cx) => {
    const record = set.records[0]!
    if (
      set.records.length > 1 ||
      isNull(cx.zones, record) ||
      cx.zones.tree.isWildcard(set.owner) ||
      isPrivate(cx.zones, set.zone)
    )
      return
    // A name outside your zones may stand for many hosts; several addresses do.
    const host = hostAddresses(cx.zones, cx.zones.target(record))
    if (!host || host.records.filter((each) => cx.zones.type(each) === TYPE.A).length > 1) return
    cx.report({
      record,
      part: 1,
      message: `${cx.name(set.owner)} has a single MX host, ${cx.name(cx.zones.target(record))}`,
      effect: 'While it is unreachable, mail waits with the senders.',
      fix: ['add a second MX host, or leave it'],
    })
  }),
}
