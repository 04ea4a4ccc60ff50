/** A zone's sets by what they are for, so that a person sees the domain and not its record types. */
import { isSpf } from '../mail/spf/record.ts'
import type { RecordId, Zone, Zones } from '../model/zones.ts'
import { type NameId, ROOT } from '../names/tree.ts'
import type { Rdata } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'

export const PURPOSES = [
  'receives mail',
  'may send',
  'signs mail',
  'mail policy',
  'services',
  'aliases',
  'hosts',
  'proofs and other texts',
  'name servers',
  'delegated',
  'reverse names',
  'other',
] as const
export type Purpose = (typeof PURPOSES)[number]

/** The same as headings, for people. */
export const PURPOSE_TITLES: Record<Purpose, string> = {
  'receives mail': 'Receives mail',
  'may send': 'May send mail as the domain (SPF)',
  'signs mail': 'Signs mail (DKIM)',
  'mail policy': 'DMARC and other mail policies',
  services: 'Services',
  aliases: 'Aliases',
  hosts: 'Hosts',
  'proofs and other texts': 'Domain verification and other texts',
  'name servers': 'Name servers',
  delegated: 'Delegated to other servers',
  'reverse names': 'Reverse names (PTR)',
  other: 'Other records',
}

export interface PurposedSet {
  purpose: Purpose
  owner: NameId
  type: number
  records: RecordId[]
}

/** What a record of that data is for. */
export function purposeOf({ tree }: Zones, zone: Zone, owner: NameId, type: number, data: Rdata): Purpose {
  if (type === TYPE.MX) return 'receives mail'
  if (type === TYPE.SRV) return 'services'
  if (type === TYPE.A || type === TYPE.AAAA) return 'hosts'
  if (type === TYPE.PTR) return 'reverse names'
  if (type === TYPE.SOA) return 'name servers'
  if (type === TYPE.NS || type === TYPE.DS) return owner === zone.apex ? 'name servers' : 'delegated'
  if (type !== TYPE.CNAME && type !== TYPE.TXT) return 'other'
  for (let name = owner; name > ROOT; name = tree.parent(name))
    if (tree.labelOctet(name, 0) === 0x5f && tree.labelText(name) === '_domainkey') return 'signs mail'
  const label = tree.labelOctet(owner, 0) === 0x5f ? tree.labelText(owner) : ''
  if (label === '_dmarc') return 'mail policy'
  if (type === TYPE.CNAME) return 'aliases'
  if (label === '_mta-sts' || (label === '_smtp' && tree.labelText(tree.parent(owner)) === '_tls')) return 'mail policy'
  return isSpf(joined(data)) ? 'may send' : 'proofs and other texts'
}

/** The sets of one zone by purpose, in the order of PURPOSES, and within it in the order of the file. A TXT set whose texts have several purposes appears under each. */
export function byPurpose(zones: Zones, zone: Zone): PurposedSet[] {
  const found = new Map<string, PurposedSet>()
  for (const record of zones.recordsIn(zone)) {
    const owner = zones.owner(record)
    const type = zones.type(record)
    const purpose = purposeOf(zones, zone, owner, type, zones.rdata(record))
    const key = `${purpose} ${owner} ${type}`
    const set = found.get(key)
    if (set) set.records.push(record)
    else found.set(key, { purpose, owner, type, records: [record] })
  }
  const rank = (set: PurposedSet): number => PURPOSES.indexOf(set.purpose)
  return [...found.values()].sort((a, b) => rank(a) - rank(b))
}
