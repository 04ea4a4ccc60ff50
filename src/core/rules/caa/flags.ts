import { rdataFields } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { eachCaa } from './visits.ts'

export const caaFlags: Rule = {
  code: 'caa/flags',
  severity: 'error',
  source: 'RFC 8659 §4.1',
  title: 'CAA record with reserved flag bits set',
  why: 'Only the value 128 (issuer critical) has a meaning. A 1 is usually a mistake for 128, and has no effect.',
  remedy: 'Write 0, or 128 for critical.',
  bad: ['@ CAA 1 issue "ca.larkpost.example"'],
  good: ['@ CAA 0 issue "ca.larkpost.example"', '@ CAA 128 issue ";"'],
  visit: eachCaa(({ flags }, record, cx) => {
    if ((flags & 127) === 0) return
    cx.report({
      record,
      part: 0,
      message: `CAA flags ${flags}: only 0 and 128 have a meaning`,
      effect: 'Certificate authorities ignore these bits: the tag is not critical.',
      fix: [
        `${cx.name(cx.zones.owner(record))} CAA ${flags & 128} ${rdataFields(TYPE.CAA, cx.zones.rdata(record)).slice(1).join(' ')}`,
      ],
    })
  }),
}
