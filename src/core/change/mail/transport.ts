/** How mail is carried to a domain: what writing its records changes. */

import { isSts, isTlsReports, nextId, parsePolicy, parseSts, policyText, type StsMode } from '../../mail/transport.ts'
import { setAt, type Zone, type Zones } from '../../model/zones.ts'
import { bare, foldName, type Name, nameToWire } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import type { Refused } from '../../result.ts'
import { reportUris } from './dmarc.ts'
import { type MailChange, textChange, textsAt } from './text.ts'
export interface StsChange extends MailChange {
  /** The text to serve, and whether it is another than before. */
  policy: string
  changed: boolean
}

/** Writes the record at `_mta-sts`, and makes the text of the policy from the domain’s MX set. `kept` is the text that the workspace has. */
export function stsChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  wishes: { mode?: StsMode; maxAge?: number; also?: readonly Name[]; ttl?: number },
  kept: string | undefined,
  now: Date,
): StsChange | Refused {
  const mx = setAt(zones, zone, domain, TYPE.MX)
  const id = zones.tree.findWire(nameToWire(domain) as Uint8Array)
  const exchanges = (mx ? zones.records(id, TYPE.MX, zone.index) : [])
    .map((record) => foldName(zones.tree.text(zones.target(record))).replace(/\.$/, ''))
    .filter((each) => each !== '')
  if (exchanges.length === 0)
    return {
      refused: `${domain} has no MX records: an MTA-STS policy lists the MX hosts to which mail may be delivered. Write MX first`,
    }
  const before = kept === undefined ? undefined : parsePolicy(kept)
  // An exchange is listed before it takes mail: senders may have fetched the policy already.
  for (const each of wishes.also ?? []) exchanges.push(bare(foldName(each)))
  const mode = wishes.mode ?? before?.policy.mode ?? 'testing'
  const policy = policyText({
    mode,
    maxAge: wishes.maxAge ?? before?.policy.maxAge ?? 604_800,
    exchanges: [...new Set(exchanges)],
  })
  const changed = policy !== kept
  const owner = `_mta-sts.${domain}`
  const [record] = textsAt(zones, zone, owner, isSts)
  const id0 = record === undefined ? undefined : parseSts(record).id
  const text = changed || id0 === undefined ? `v=STSv1; id=${nextId(now, id0)}` : record
  const where = `https://mta-sts.${bare(domain)}/.well-known/mta-sts.txt`
  return {
    changes: [textChange(zones, zone, owner, isSts, text, wishes.ttl)],
    notes: [
      `First publish the policy at ${where}, on a host with a certificate for its name; then publish the record, whose id tells senders to fetch the policy again.`,
      ...(mode === 'testing'
        ? [
            'In testing mode, senders only report (see write tls-rpt). When the reports have shown no failures for a while: --mode enforce.',
          ]
        : []),
      ...(mode === 'enforce' && before?.policy.mode !== 'enforce'
        ? [
            'In enforce mode, senders deliver only to these MX hosts, and only with a valid certificate. Before you change MX, change the policy.',
          ]
        : []),
      ...(mode === 'none'
        ? [
            'Mode none withdraws the policy. Leave the record and the policy in place until max_age has passed for everyone.',
          ]
        : []),
    ],
    policy,
    changed,
  }
}

/** Writes the record at `_smtp._tls`: where reports of failed encryption go. */
export function tlsReportsChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  addresses: readonly string[],
  ttl?: number,
): MailChange | Refused {
  if (addresses.length === 0)
    return { refused: `say where reports go: bramblefront write tls-rpt ${bare(domain)} ADDRESS` }
  for (const address of addresses)
    if (!/^(?:mailto:)?[^@\s]+@[^@\s]+$|^https:\/\/\S+$/i.test(address))
      return { refused: `“${address}” is neither a valid email address nor an https: URL` }
  const uris = reportUris(addresses)
  if ('refused' in uris) return uris
  const text = `v=TLSRPTv1; rua=${uris.join(',')}`
  return { changes: [textChange(zones, zone, `_smtp._tls.${domain}`, isTlsReports, text, ttl)], notes: [] }
}
