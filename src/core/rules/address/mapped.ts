import { addressText } from '../../names/address.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { SPECIAL } from '../traits.ts'
import { special } from './visits.ts'

export const addressMapped: Rule = {
  code: 'address/mapped',
  severity: 'warning',
  source: 'RFC 4291 §2.5.5.2',
  title: 'IPv4-mapped IPv6 address in an AAAA record',
  why: 'Addresses such as ::ffff:192.0.2.1 exist inside a program only. Nothing on the network answers at them, and clients that prefer IPv6 time out.',
  remedy: 'Write the IPv4 address as an A record.',
  bad: ['www AAAA ::ffff:192.0.2.10'],
  good: ['www A 192.0.2.10\nwww AAAA 2001:db8::10'],
  visit: {
    set: {
      [TYPE.AAAA]: {
        when: SPECIAL,
        visit(set, cx) {
          special(set, cx, (record, { kind }) => {
            if (kind !== 'mapped') return
            cx.report({
              record,
              part: 0,
              message: `${cx.name(set.owner)} has the IPv4-mapped address ${cx.zones.rdataText(record)} in an AAAA record`,
              effect: 'Clients that prefer IPv6 cannot connect.',
              fix: [`${cx.name(set.owner)} A ${addressText(cx.zones.rdata(record).subarray(12))}`],
            })
          })
        },
      },
    },
  },
}
