import type { RecordId } from '../../model/zones.ts'
import type { Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'
import { isNone, onSrv, port, priority, weight } from './visits.ts'

export const srvWeights: Rule = {
  code: 'srv/weights',
  severity: 'advice',
  source: 'RFC 2782',
  title: 'SRV weights do not distribute load as they appear to',
  why: 'Among targets of one priority, each gets its share of the weights. If all are zero, clients choose freely, many always the first. Zero next to other weights: almost nothing.',
  remedy: 'Give equal targets the same weight above zero.',
  bad: [
    '_xmpp-client._tcp SRV 5 0 5222 one\n_xmpp-client._tcp SRV 5 0 5222 two\none A 192.0.2.30\ntwo A 192.0.2.31',
    '_xmpp-client._tcp SRV 5 10 5222 one\n_xmpp-client._tcp SRV 5 0 5222 two\none A 192.0.2.30\ntwo A 192.0.2.31',
  ],
  good: [
    '_xmpp-client._tcp SRV 5 10 5222 one\n_xmpp-client._tcp SRV 5 30 5222 two\n_xmpp-client._tcp SRV 9 0 5222 two\none A 192.0.2.30\ntwo A 192.0.2.31',
  ],
  visit: onSrv(SEVERAL, (set, cx) => {
    if (set.records.length < 2) return
    const byPriority = new Map<number, RecordId[]>()
    for (const record of set.records) {
      if (isNone(cx.zones, record)) continue
      const group = byPriority.get(priority(cx.zones, record))
      if (group) group.push(record)
      else byPriority.set(priority(cx.zones, record), [record])
    }
    for (const [level, group] of byPriority) {
      const zero = group.find((record) => weight(cx.zones, record) === 0)
      if (group.length < 2 || zero === undefined) continue
      const sum = group.reduce((total, record) => total + weight(cx.zones, record), 0)
      const shares = group.map(
        (record) =>
          `${cx.name(cx.zones.target(record))} ${sum === 0 ? '?' : Math.round((100 * weight(cx.zones, record)) / sum)} %`,
      )
      cx.report({
        record: zero,
        part: 1,
        message: `${cx.name(set.owner)}, priority ${level}: ${sum === 0 ? 'all weights are 0' : `one weight is 0 next to others: ${shares.join(', ')}`}`,
        effect:
          sum === 0
            ? 'Clients choose freely; many always use the first.'
            : 'The target with weight 0 gets almost nothing.',
        fix: group.map(
          (record) =>
            `${cx.name(set.owner)} SRV ${level} ${weight(cx.zones, record) || 1} ${port(cx.zones, record)} ${cx.name(cx.zones.target(record))}`,
        ),
      })
    }
  }),
}
