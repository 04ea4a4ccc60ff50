import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { ANY } from '../traits.ts'
import { exchanges, MAIL_HOSTS, onMx } from './visits.ts'

const MAIL_FIRSTS = new Set(MAIL_HOSTS.map((label) => label.charCodeAt(0)))

export const mxOnlyBelow: Rule = {
  code: 'mx/only-below',
  severity: 'warning',
  source: 'practice',
  title: 'MX at the mail host’s name but not at the domain itself',
  why: 'Senders look up MX at the part after the “@” of an address. MX records at mail.DOMAIN apply to addresses that end in @mail.DOMAIN; mail to DOMAIN does not use them.',
  remedy: 'Write the MX set at the domain.',
  bad: ['mail MX 10 mail\nmail A 192.0.2.25'],
  good: ['mail MX 10 mail\n@ MX 10 mail\nmail A 192.0.2.25', 'news MX 10 mx.larkpost.example.'],
  visit: onMx(ANY, (set, cx) => {
    const { zones } = cx
    if (
      !MAIL_FIRSTS.has(zones.tree.labelOctet(set.owner, 0)) ||
      set.owner === set.zone.apex ||
      !MAIL_HOSTS.includes(zones.tree.labelText(set.owner)) ||
      exchanges(zones, set).length === 0
    )
      return
    const domain = zones.tree.parent(set.owner)
    if (
      set.zone.complete === false ||
      zones.has(domain, TYPE.MX) ||
      zones.has(domain, TYPE.CNAME) ||
      cx.sourcesOf(set.zone).some(({ brokenTypes }) => brokenTypes.includes(TYPE.MX))
    )
      return
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `${cx.name(set.owner)} has MX records, but ${cx.name(domain)} has none`,
      effect: `They do not apply to addresses that end in @${cx.name(domain).replace(/\.$/, '')}.`,
      fix: set.records.map((record) => `${cx.name(domain)} ${cx.record(record)}`),
    })
  }),
}
