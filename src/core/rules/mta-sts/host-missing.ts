import { locateName, UNKNOWN } from '../../knowledge/answer.ts'
import { hostAddresses } from '../look.ts'
import type { TextRule } from '../shared/text-rules.ts'
import type { TransportReading } from '../shared/transport-text.ts'
import { HOST } from './example.ts'

export const mtaStsHostMissing: TextRule<TransportReading> = {
  code: 'mta-sts/host-missing',
  severity: 'error',
  source: 'RFC 8461 §3.3',
  title: 'MTA-STS policy host without an address',
  why: 'Senders fetch the policy from https://mta-sts.DOMAIN/.well-known/mta-sts.txt. Without the host there is no policy.',
  remedy: 'Write the address of the web server, or a CNAME to it.',
  bad: ['_mta-sts TXT "v=STSv1; id=1"', '_mta-sts TXT "v=STSv1; id=1"\nmta-sts TXT "hello"'],
  good: [
    `_mta-sts TXT "v=STSv1; id=1"\n${HOST}`,
    '_mta-sts TXT "v=STSv1; id=1"\nmta-sts CNAME policies.larkpost.example.',
  ],
  /** The host that senders fetch the policy from. */
  inZone(cx, record, { counts }, set) {
    const host = `mta-sts.${cx.name(cx.zones.tree.parent(set.owner))}`
    const node = locateName(cx.zones, host)
    if (!counts || node === UNKNOWN) return
    const found = node < 0 ? undefined : hostAddresses(cx.zones, node)
    if (node >= 0 && (!found || found.records.length > 0)) return
    cx.report({
      code: 'mta-sts/host-missing',
      record,
      part: 'owner',
      message: `${host} has no address, but ${cx.name(set.owner)} announces a policy there`,
      effect: 'Senders cannot fetch the policy and proceed without one.',
      fix: [`${host} A ADDRESS`],
    })
  },
}
