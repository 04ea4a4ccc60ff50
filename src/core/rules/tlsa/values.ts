import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { TLSA } from './example.ts'

const LENGTHS: Record<number, number> = { 1: 32, 2: 64 }

export const tlsaValues: Rule = {
  code: 'tlsa/values',
  severity: 'error',
  source: 'RFC 6698 §2, RFC 7672 §3.1',
  title: 'TLSA record with unknown or inconsistent values',
  why: 'Clients ignore a record that they do not understand; if it is the only one, mail servers may refuse to deliver.',
  remedy: 'Usual for mail: 3 1 1 and the SHA-256 digest of the public key.',
  bad: [
    `@ MX 10 mail\n_25._tcp.mail TLSA 4 1 1 ${'AB'.repeat(32)}\nmail A 192.0.2.25`,
    `@ MX 10 mail\n_25._tcp.mail TLSA 3 1 1 ABAB\nmail A 192.0.2.25`,
    `@ MX 10 mail\n_25._tcp.mail TLSA 1 1 1 ${'AB'.repeat(32)}\nmail A 192.0.2.25`,
  ],
  good: [
    `@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`,
    `_443._tcp.www TLSA 1 0 2 ${'AB'.repeat(64)}\nwww A 192.0.2.10`,
  ],
  visit: {
    set: {
      [TYPE.TLSA](set, cx) {
        const forMail = cx.zones.tree.labelText(set.owner) === '_25'
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          const [usage = 0, selector = 0, matching = 0] = data
          const say = (part: number, message: string, severity: 'error' | 'warning' = 'error'): void =>
            cx.report({
              record,
              part,
              severity,
              message: `TLSA at ${cx.name(set.owner)}: ${message}`,
              effect: 'Clients ignore the record.',
              fix: [`${cx.name(set.owner)} TLSA 3 1 1 SHA-256-DIGEST`],
            })
          if (usage > 3 && usage !== 255) say(0, `usage ${usage}; known are 0 to 3`)
          else if (selector > 1 && selector !== 255) say(1, `selector ${selector}; known are 0 and 1`)
          else if (matching > 2 && matching !== 255) say(2, `matching type ${matching}; known are 0 to 2`)
          else if (LENGTHS[matching] !== undefined && data.length - 3 !== LENGTHS[matching])
            say(3, `matching type ${matching} has ${LENGTHS[matching]} octets, and there are ${data.length - 3}`)
          else if (forMail && usage < 2) say(0, `usage ${usage}, which mail servers do not use: 2 or 3`, 'warning')
        }
      },
    },
  },
}
