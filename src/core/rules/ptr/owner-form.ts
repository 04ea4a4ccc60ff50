import type { Zone } from '../../model/zones.ts'
import { parseAddress } from '../../names/address.ts'
import { type ReverseParts, reverseName, reverseParts } from '../../names/reverse.ts'
import { TYPE } from '../../records/types.ts'
import { isReverse } from '../look.ts'
import type { Rule } from '../rule.ts'
import { two } from '../shared/reverse-example.ts'

/** What is wrong with an owner of PTR below in-addr.arpa or ip6.arpa; undefined where nothing is. */
function ownerTrouble(
  { labels, whole, address }: ReverseParts,
  zone: Zone,
): { message: string; right?: string } | undefined {
  // Labels of RFC 2317, and names of service discovery (RFC 6763), are made otherwise.
  if (
    address ||
    labels.some((label) => label.startsWith('_') || /[/-]/.test(label)) ||
    labels.some((label) => label === '*')
  )
    return undefined
  const plain = whole === 4 ? /^\d{1,3}$/ : /^[0-9a-f]$/i
  const inZone = reverseParts(zone.name)?.labels ?? []
  if (whole === 4 && labels.length > 4) {
    const owner = labels.slice(0, labels.length - inZone.length)
    const written = owner.length === 4 ? parseAddress(owner.join('.')) : undefined
    if (written && [...written].slice(0, inZone.length).reverse().join('.') === inZone.join('.'))
      return {
        message: `the address ${owner.join('.')} is written forwards, in front of the zone’s own numbers`,
        right: reverseName(written),
      }
    return { message: `it has ${labels.length} numbers in front of in-addr.arpa; an address has 4` }
  }
  if (labels.length > whole)
    return { message: `it has ${labels.length} labels in front of ip6.arpa; an address has 32` }
  if (labels.length === whole && !labels.every((label) => plain.test(label) && (whole === 32 || Number(label) < 256)))
    return {
      message:
        whole === 4 ? 'its labels are not four numbers from 0 to 255' : 'its labels are not 32 hexadecimal digits',
    }
  if (labels.length < whole && labels.length > inZone.length && labels.every((label) => plain.test(label)))
    return {
      message: `it has ${labels.length} ${whole === 4 ? 'numbers in front of in-addr.arpa; an address has 4' : 'digits in front of ip6.arpa; an address has 32'}`,
    }
  if (whole === 32 && labels.some((label) => /^[0-9a-f]{2,4}$/i.test(label)))
    return { message: 'its labels are groups; each hexadecimal digit is a label of its own' }
  return undefined
}

export const ptrOwnerForm: Rule = {
  code: 'ptr/owner-form',
  severity: 'error',
  source: 'RFC 1035 §3.5, RFC 3596 §2.5',
  title: 'PTR owner that is not a reversed address',
  why: 'Programs look up the address’s numbers (or hexadecimal digits) in reverse order, all of them, each as a label. They never look at any other name.',
  remedy: 'Write the numbers that the zone’s name does not contain, the last one first.',
  bad: [
    two('mail A 192.0.2.25', '192.0.2.25 PTR mail.hollowmere.example.'),
    { zones: { '0.192.in-addr.arpa': '25 PTR mx.larkpost.example.' } },
    { zones: { '8.b.d.0.1.0.0.2.ip6.arpa': '0025 PTR mx.larkpost.example.' } },
    two('mail A 192.0.2.25', '256 PTR mx.larkpost.example.'),
  ],
  good: [
    two('mail A 192.0.2.25', '25 PTR mail.hollowmere.example.'),
    { zones: { '0.192.in-addr.arpa': '25.2 PTR mx.larkpost.example.' } },
    { zones: { '2.0.192.in-addr.arpa': '1.0/25 PTR mx.larkpost.example.\n129 CNAME 129.128-255.larkpost.example.' } },
    { zones: { '2.0.192.in-addr.arpa': 'b._dns-sd._udp PTR hollowmere.example.' } },
  ],
  visit: {
    set: {
      [TYPE.PTR](set, cx) {
        if (!isReverse(set.zone)) return
        const parts = reverseParts(cx.name(set.owner))
        const trouble = parts && ownerTrouble(parts, set.zone)
        if (!trouble) return
        cx.report({
          record: set.records[0],
          part: 'owner',
          message: `${cx.name(set.owner)} is not a reversed address: ${trouble.message}`,
          effect: 'Nobody looks up this name.',
          fix: trouble.right
            ? set.records.map((record) => `${trouble.right} ${cx.record(record)}`)
            : [`write the numbers that ${set.zone.name} does not contain, the last one first`],
        })
      },
    },
  },
}
