import { locate, MISSING } from '../../knowledge/answer.ts'
import { addressText } from '../../names/address.ts'
import { reverseParts } from '../../names/reverse.ts'
import { rdataKey } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { hostAddresses, listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { two } from '../shared/reverse-example.ts'

export const ptrForwardMissing: Rule = {
  code: 'ptr/forward-missing',
  severity: 'warning',
  source: 'RFC 1912 §2.1',
  title: 'PTR target that does not have the address',
  why: 'Receivers of mail look up the name of the address, and then the address of that name. If the two do not match, they reject the mail or treat it as suspicious.',
  remedy: 'Write the address at the host, or point the PTR at the host that has it.',
  bad: [
    two('mail A 192.0.2.26', '25 PTR mail.hollowmere.example.'),
    two('mail TXT "no address"', '25 PTR mail.hollowmere.example.'),
  ],
  good: [
    two('mail A 192.0.2.25', '25 PTR mail.hollowmere.example.'),
    two('www A 192.0.2.10', '25 PTR mx.larkpost.example.'),
  ],
  visit: {
    set: {
      [TYPE.PTR](set, cx) {
        const address = reverseParts(cx.name(set.owner))?.address
        if (!address) return
        for (const record of set.records) {
          const target = cx.zones.target(record)
          const node = locate(cx.zones, target)
          const host = node === MISSING ? { records: [] } : hostAddresses(cx.zones, target)
          if (!host || (node >= 0 && cx.zones.zoneOf(node)?.complete === false)) continue
          const key = rdataKey(address.length === 4 ? TYPE.A : TYPE.AAAA, address)
          if (host.records.some((each) => rdataKey(cx.zones.type(each), cx.zones.rdata(each)) === key)) continue
          const type = address.length === 4 ? 'A' : 'AAAA'
          cx.report({
            record,
            part: 0,
            message: `${addressText(address)} has a PTR record to ${cx.name(target)}, which ${node === MISSING ? 'does not exist' : host.records.length === 0 ? 'has no address' : `has ${listed(host.records.map((each) => cx.zones.rdataText(each)))}`}`,
            effect: 'Mail receivers do not trust the name.',
            fix: [`${cx.name(target)} ${type} ${addressText(address)}`],
          })
        }
      },
    },
  },
}
