import { rdataFields } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Rule, SetVisit } from '../rule.ts'

/** Where the octet stands that says of which kind a digest is, where the digest begins, and its octets by kind. */
const DIGESTS: Record<number, { kind: number; from: number; octets: Record<number, number> }> = {
  [TYPE.DS]: { kind: 3, from: 4, octets: { 1: 20, 2: 32, 4: 48 } },
  [TYPE.CDS]: { kind: 3, from: 4, octets: { 1: 20, 2: 32, 4: 48 } },
  [TYPE.SSHFP]: { kind: 1, from: 2, octets: { 1: 20, 2: 32 } },
  [TYPE.ZONEMD]: { kind: 5, from: 6, octets: { 1: 48, 2: 64 } },
}

const ofDigest: SetVisit = (set, cx) => {
  const { kind, from, octets } = DIGESTS[set.type]!
  for (const record of set.records) {
    const data = cx.zones.rdata(record)
    const wanted = octets[data[kind]!]
    if (wanted === undefined || data.length - from === wanted) continue
    const values = rdataFields(set.type, data)
    cx.report({
      record,
      part: values.length - 1,
      message: `${typeText(set.type)} at ${cx.name(set.owner)}: the digest has ${data.length - from} octets; digest type ${data[kind]} has ${wanted}`,
      effect: 'Nothing matches it, and some servers refuse the file.',
      fix: ['copy the whole digest from its source'],
    })
  }
}

export const digestLength: Rule = {
  code: 'digest/length',
  severity: 'error',
  source: 'RFC 4034 §5.1, RFC 4509 §2.1, RFC 6605 §2, RFC 4255 §3.1, RFC 6594, RFC 8976 §2.2',
  title: 'DS, CDS, SSHFP or ZONEMD record whose digest has the wrong length',
  why: 'Part of the digest was lost when it was copied, or the digest type is wrong. Nothing matches it, and some servers refuse the whole file.',
  remedy: 'Copy the whole digest together with the number of its type.',
  bad: ['kiosk SSHFP 4 2 AB34\nkiosk A 192.0.2.30', '@ ZONEMD 1 1 1 AB34', `@ CDS 1 13 2 ${'AB'.repeat(31)}`],
  good: [`kiosk SSHFP 4 2 ${'AB'.repeat(32)}\nkiosk A 192.0.2.30`, 'kiosk SSHFP 4 9 AB34\nkiosk A 192.0.2.30'],
  visit: { set: { [TYPE.DS]: ofDigest, [TYPE.CDS]: ofDigest, [TYPE.SSHFP]: ofDigest, [TYPE.ZONEMD]: ofDigest } },
}
