import type { RecordId } from '../../model/zones.ts'
import { type NameId, ROOT } from '../../names/tree.ts'
import { hostAddresses } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { SEVERAL } from '../traits.ts'
import { onMx, preference } from './visits.ts'

/** What is equal for exchanges that are one host: the addresses of a name, or the name itself where it has none that are known. */
function hostKey(cx: Context, target: NameId): string {
  // The same few hosts take the mail of many names.
  const known = cx.memory(() => new Map<NameId, string>())
  let key = known.get(target)
  if (key === undefined) {
    const addresses = (hostAddresses(cx.zones, target)?.records ?? []).map((record) => cx.zones.rdata(record).join(' '))
    known.set(target, (key = addresses.length === 0 ? `#${target}` : [...new Set(addresses)].sort().join(',')))
  }
  return key
}

export const mxSameHostTwice: Rule = {
  code: 'mx/same-host-twice',
  severity: 'advice',
  source: 'RFC 5321 §5.1',
  title: 'two MX records that lead to the same host',
  why: 'When the host is down, so is its fallback: the second record only looks like one.',
  remedy: 'Remove one, or point the fallback at another host.',
  bad: [
    '@ MX 10 mail\n@ MX 20 mail\nmail A 192.0.2.25',
    '@ MX 10 mail\n@ MX 20 mx\nmail A 192.0.2.25\nmx A 192.0.2.25',
  ],
  good: ['@ MX 10 mail\n@ MX 20 mx\nmail A 192.0.2.25\nmx A 192.0.2.26'],
  visit: onMx(SEVERAL, (set, cx) => {
    if (set.records.length < 2) return
    const firsts = new Map<string, RecordId>()
    for (const record of set.records) {
      const target = cx.zones.target(record)
      if (target === ROOT) continue
      const key = hostKey(cx, target)
      const first = firsts.get(key)
      if (first === undefined) firsts.set(key, record)
      if (
        first !== undefined &&
        (cx.zones.target(first) !== target || preference(cx.zones, first) !== preference(cx.zones, record))
      )
        cx.report({
          record,
          part: 1,
          message: `${cx.record(record)} at ${cx.name(set.owner)} is the same host as ${cx.record(first)} (${cx.where(first, record)})`,
          effect: 'It is no fallback: both are down at the same time.',
          fix: [`remove ${cx.name(set.owner)} ${cx.record(record)}, or point it at another host`],
        })
    }
  }),
}
