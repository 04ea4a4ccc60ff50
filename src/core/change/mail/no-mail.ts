/** A domain that neither sends nor receives: what says so. */

import type { SetChange } from '../../file/edit/changes.ts'
import { isDmarc, readDmarc, withTags } from '../../mail/dmarc/record.ts'
import { isSpf } from '../../mail/spf/record.ts'
import { setAt, type Zone, type Zones } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import { textData } from '../../records/views.ts'
import type { Refused } from '../../result.ts'
import { reportUris } from './dmarc.ts'
import { type MailChange, textChange, textsAt } from './text.ts'
/** The change that makes a domain refuse mail, and forbids mail from it; `text` is its policy. */
export function noMailChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  wishes: { emptyKeys: boolean; force: boolean; reports: readonly string[]; ttl?: number },
): (MailChange & { text: string }) | Refused {
  const mx = setAt(zones, zone, domain, TYPE.MX)
  const nothing = Uint8Array.from([0, 0, 0])
  const takes = mx?.data.some((data) => data.length > 3)
  if (takes && !wishes.force)
    return { refused: `${domain} receives mail now; with a null MX, all of it would bounce. --force writes it anyway` }
  const [policy] = textsAt(zones, zone, `_dmarc.${domain}`, isDmarc)
  const reports = reportUris(wishes.reports)
  if ('refused' in reports) return reports
  const rua = [...new Set([...(policy ? readDmarc(policy).record.rua.map(({ uri }) => uri) : []), ...reports])]
  const text = withTags('', { p: 'reject', ...(rua.length > 0 ? { rua: rua.join(',') } : {}) })
  const { ttl } = wishes
  const changes: SetChange[] = [
    { owner: domain, type: TYPE.MX, ttl, data: [nothing] },
    textChange(zones, zone, domain, isSpf, 'v=spf1 -all', ttl),
    textChange(zones, zone, `_dmarc.${domain}`, isDmarc, text, ttl),
  ]
  if (wishes.emptyKeys)
    changes.push({ owner: `*._domainkey.${domain}`, type: TYPE.TXT, ttl, data: [textData('v=DKIM1; p=')] })
  return {
    text,
    changes,
    notes: [
      'Null MX: nobody tries to deliver (RFC 7505). v=spf1 -all: no host may send. p=reject: receivers reject mail that claims to be from the domain.',
      ...(wishes.emptyKeys ? ['An empty key at every selector: no DKIM signature verifies.'] : []),
      ...(rua.length === 0 ? ['Without rua=, nobody hears of forged mail; --reports ADDRESS requests reports.'] : []),
    ],
  }
}
