import { locate, MISSING } from '../../knowledge/answer.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { missing } from '../shared/known-targets.ts'

export const naptrReplacementMissing: Rule = {
  code: 'naptr/replacement-missing',
  severity: 'error',
  source: 'RFC 3403 §4.1',
  title: 'NAPTR replacement that does not exist in your zones',
  why: 'The next step of the rule looks up a name that does not exist: the call or service fails there.',
  remedy: 'Write the SRV or address records of the replacement.',
  bad: ['@ NAPTR 10 50 "s" "SIP+D2U" "" _sip._udp'],
  good: [
    '@ NAPTR 10 50 "s" "SIP+D2U" "" _sip._udp\n_sip._udp SRV 0 0 5060 phone\nphone A 192.0.2.50',
    '@ NAPTR 10 50 "u" "E2U+sip" "!^.*$!sip:info@hollowmere.example!" .',
  ],
  visit: {
    set: {
      [TYPE.NAPTR](set, cx) {
        for (const record of set.records) {
          const target = cx.zones.target(record)
          if (target !== ROOT && locate(cx.zones, target) === MISSING) missing(cx, record, 5)
        }
      },
    },
  },
}
