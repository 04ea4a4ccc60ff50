import type { Rule } from '../rule.ts'
import { eachCaa } from './visits.ts'

const CAA_TAGS = new Set(['issue', 'issuewild', 'iodef', 'contactemail', 'contactphone', 'issuemail', 'issuevmc'])

export const caaTag: Rule = {
  code: 'caa/tag',
  severity: 'error',
  source: 'RFC 8659 §4.1',
  title: 'CAA record with a malformed tag, or an unknown tag marked critical',
  why: 'A certificate authority that does not know a critical tag must not issue a certificate. Without the critical flag, unknown tags are ignored.',
  remedy: 'Use issue, issuewild or iodef. Set flag 128 only if your certificate authority supports the tag.',
  bad: ['@ CAA 128 tbs "unknown"', '@ CAA 128 isue "ca.larkpost.example"'],
  good: ['@ CAA 0 issue "ca.larkpost.example"', '@ CAA 0 tbs "unknown"', '@ CAA 128 issue "ca.larkpost.example"'],
  visit: eachCaa(({ flags, tag }, record, cx) => {
    const lawful = /^[A-Za-z0-9]+$/.test(tag)
    if (lawful && (!(flags & 128) || CAA_TAGS.has(tag.toLowerCase()))) return
    cx.report({
      record,
      part: 1,
      message: lawful
        ? `unknown CAA tag ${tag} is marked critical`
        : `CAA tag “${tag}” contains characters other than letters and digits`,
      effect: lawful
        ? 'No certificate authority that does not know the tag may issue a certificate.'
        : 'Certificate authorities may refuse to issue certificates.',
      fix: ['use issue, issuewild or iodef'],
    })
  }),
}
