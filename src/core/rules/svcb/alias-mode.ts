import { typeText } from '../../records/types.ts'
import { svcbPriority } from '../../records/views.ts'
import type { Rule } from '../rule.ts'
import { onBoth } from './visits.ts'

export const svcbAliasMode: Rule = {
  code: 'svcb/alias-mode',
  severity: 'error',
  source: 'RFC 9460 §2.4.1, §2.4.2',
  title: 'SVCB or HTTPS alias (priority 0) next to other records, or to itself',
  why: 'If one record is an alias, clients ignore the others; an alias of itself leads nowhere.',
  remedy: 'Keep either the alias or the records with a priority above 0.',
  bad: [
    '@ HTTPS 0 site.northlight.example.\n@ HTTPS 1 . alpn=h2',
    'www HTTPS 0 www.hollowmere.example.\nwww A 192.0.2.10',
  ],
  good: ['@ HTTPS 0 site.northlight.example.', '@ HTTPS 1 . alpn=h2\n@ HTTPS 2 site.northlight.example.'],
  visit: onBoth((set, cx) => {
    const alias = set.records.find((record) => svcbPriority(cx.zones.rdata(record)) === 0)
    if (alias === undefined) return
    const other = set.records.find((record) => svcbPriority(cx.zones.rdata(record)) !== 0)
    const self = cx.zones.target(alias) === set.owner
    if (other === undefined && !self) return
    cx.report({
      record: alias,
      part: self ? 1 : 0,
      message: self
        ? `${cx.name(set.owner)} is an alias of itself by ${typeText(set.type)}`
        : `${cx.name(set.owner)} has ${cx.record(alias)}, an alias, and ${cx.record(other!)} (${cx.where(other!, alias)})`,
      effect: self ? 'It leads nowhere.' : 'Clients ignore all but the alias.',
      fix: [
        other === undefined
          ? `remove ${cx.name(set.owner)} ${cx.record(alias)}`
          : `keep only: ${cx.name(set.owner)} ${cx.record(alias)}`,
      ],
    })
  }),
}
