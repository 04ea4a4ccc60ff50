import type { Rule } from '../rule.ts'
import { eachCaa } from './visits.ts'

const LABEL = /^[a-z0-9](?:[a-z0-9-]*[a-z0-9])?$/i

const PARAMETER_VALUE = /^[\x21-\x3a\x3c-\x7e]*$/

const unpadded = (text: string): string => text.replace(/^[ \t]+/, '').replace(/(?<![ \t])[ \t]+$/, '')

/** Whether a value says who may issue: a domain, none, and parameters (RFC 8659 §4.2). */
function isIssuer(value: string): boolean {
  const [domain = '', ...parameters] = value.split(';').map(unpadded)
  if (domain !== '' && !domain.split('.').every((label) => LABEL.test(label))) return false
  if (parameters.at(-1) === '') parameters.pop()
  return parameters.every((each) => {
    const equals = each.indexOf('=')
    return (
      equals > 0 &&
      LABEL.test(unpadded(each.slice(0, equals))) &&
      PARAMETER_VALUE.test(unpadded(each.slice(equals + 1)))
    )
  })
}

export const caaValue: Rule = {
  code: 'caa/value',
  severity: 'error',
  source: 'RFC 8659 §4.2, §4.4',
  title: 'CAA record with a malformed value',
  why: 'A certificate authority that cannot parse an issue value must not issue a certificate. An iodef value that is not a URL receives no reports.',
  remedy:
    'For issue and issuewild, write the authority’s domain, or “;” to allow nobody. For iodef, write a mailto: or https: URL.',
  bad: [
    '@ CAA 0 issue "https://ca.larkpost.example"',
    '@ CAA 0 iodef "security@hollowmere.example"',
    '@ CAA 0 issue "%%%%"',
  ],
  good: [
    '@ CAA 0 issue "ca.larkpost.example; validationmethods=dns-01; account=1"',
    '@ CAA 0 issue ";"',
    '@ CAA 0 issue ""',
    '@ CAA 0 iodef "https://larkpost.example/report"',
  ],
  visit: eachCaa(({ tag, value }, record, cx) => {
    const known = tag.toLowerCase()
    const issue = known === 'issue' || known === 'issuewild' || known === 'issuemail' || known === 'issuevmc'
    if (issue ? isIssuer(value) : known !== 'iodef' || /^(?:mailto:[^@\s]+@[^@\s]+|https?:\/\/\S+)$/i.test(value))
      return
    const host = /^[a-z]+:\/\/([^/:]+)/i.exec(value)?.[1]
    cx.report({
      record,
      part: 2,
      message: `the CAA value ${tag} “${value.slice(0, 80)}” is ${issue ? 'not a domain name' : 'not a mailto: or https: URL'}`,
      effect: issue
        ? 'Certificate authorities must assume that nobody may issue certificates.'
        : 'Nobody hears of refused certificate requests.',
      fix: [
        `${cx.name(cx.zones.owner(record))} CAA 0 ${tag} "${issue ? (host ?? 'AUTHORITY') : value.includes('@') ? `mailto:${value}` : 'mailto:ADDRESS'}"`,
      ],
    })
  }),
}
