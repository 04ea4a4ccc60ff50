import { wireNameLength } from '../../names/name.ts'
import { u16At } from '../../names/octets.ts'
import { typeText } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { onBoth } from './visits.ts'

/** Keys of service parameters (RFC 9460 §14.3.2). */
const ALPN = 1

const NO_DEFAULT_ALPN = 2

export const svcbNoDefaultAlpn: Rule = {
  code: 'svcb/no-default-alpn',
  severity: 'error',
  source: 'RFC 9460 §7.1.1',
  title: 'SVCB or HTTPS record with no-default-alpn but without alpn',
  why: 'It removes the default protocol, and without alpn there is no other: no client can connect. Some servers refuse the whole file.',
  remedy: 'List the protocols with alpn, or remove no-default-alpn.',
  bad: ['www HTTPS 1 . no-default-alpn\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . alpn=h2 no-default-alpn\nwww A 192.0.2.10'],
  visit: onBoth((set, cx) => {
    for (const record of set.records) {
      const data = cx.zones.rdata(record)
      const keys: number[] = []
      for (let at = 2 + wireNameLength(data, 2); at + 4 <= data.length; at += 4 + u16At(data, at + 2))
        keys.push(u16At(data, at))
      if (!keys.includes(NO_DEFAULT_ALPN) || keys.includes(ALPN)) continue
      cx.report({
        record,
        part: 2,
        message: `${typeText(set.type)} at ${cx.name(set.owner)} has no-default-alpn but no alpn`,
        effect: 'No protocol is left to connect with; some servers refuse the file.',
        fix: ['add alpn=PROTOCOL, or remove no-default-alpn'],
      })
    }
  }),
}
