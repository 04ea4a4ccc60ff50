import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { portsOf } from '../services.ts'
import { ODD_SERVICE } from '../traits.ts'
import { isNone, onSrv, serviceOf } from './visits.ts'

/** Services in the clear, and the ones with TLS that ought to stand beside them. */
const PAIRS = new Map([
  ['imap', 'imaps'],
  ['pop3', 'pop3s'],
  ['submission', 'submissions'],
])

export const srvMailClientPairs: Rule = {
  code: 'srv/mail-client-pairs',
  severity: 'advice',
  source: 'RFC 6186 §3, RFC 8314 §5',
  title: 'SRV record for a mail client service without its implicit-TLS counterpart',
  why: 'Mail programs configure themselves by these records. If only the older service is published, they use that one.',
  remedy: 'Publish the encrypted service, or deny it with target “.” if you do not offer it.',
  bad: ['_imap._tcp SRV 0 1 143 mail\nmail A 192.0.2.25'],
  good: [
    '_imap._tcp SRV 0 1 143 mail\n_imaps._tcp SRV 0 1 993 mail\nmail A 192.0.2.25',
    '_submission._tcp SRV 0 1 587 mail\n_submissions._tcp SRV 0 0 0 .\nmail A 192.0.2.25',
  ],
  visit: onSrv(ODD_SERVICE, (set, cx) => {
    const service = serviceOf(set, cx)
    const secure = service === undefined ? undefined : PAIRS.get(service)
    if (!secure || set.records.some((record) => isNone(cx.zones, record)) || set.zone.complete === false) return
    const octets = Uint8Array.from(`_${secure}`, (sign) => sign.charCodeAt(0))
    const sibling = cx.zones.tree.find(cx.zones.tree.parent(set.owner), octets, 0, octets.length)
    if (sibling !== NONE && (cx.zones.has(sibling, TYPE.SRV) || cx.zones.hasCname(sibling))) return
    const domain = cx.name(cx.zones.tree.parent(cx.zones.tree.parent(set.owner)))
    cx.report({
      record: set.records[0],
      part: 'owner',
      message: `${domain} publishes _${service} but not _${secure}`,
      effect: 'Mail programs use the service that starts without encryption.',
      fix: [
        `_${secure}._tcp.${domain} SRV 0 1 ${portsOf(secure)![0]} ${cx.name(cx.zones.target(set.records[0]!))}`,
        `or, if you do not offer it: _${secure}._tcp.${domain} SRV 0 0 0 .`,
      ],
    })
  }),
}
