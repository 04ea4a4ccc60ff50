// Made-up zones for measuring: mixed record types in the proportions of a host's zone, with faults planted at a known count.
import { writeFileSync } from 'node:fs'

export interface MadeZone {
  text: string
  records: number
  /** How many findings of each rule the zone must give. */
  planted: Record<string, number>
}

/** A zone of about `records` records. Every 50 000th host has an exchange that is an alias, an alias of itself, and a target that is an address:
 * faults with which name servers still load the zone. */
export function makeZone(zone: string, records: number, faults = true): MadeZone {
  const lines = [
    `$ORIGIN ${zone}.`,
    '$TTL 3600',
    `@ IN SOA ns1.upland-dns.example. hostmaster.${zone}. 2026112301 7200 900 1209600 3600`,
    '@ IN NS ns1.upland-dns.example.',
    '@ IN NS ns2.upland-dns.example.',
    '@ IN MX 10 mail',
    'mail IN A 192.0.2.25',
  ]
  const planted = { 'mx/target-is-alias': 0, 'cname/loop': 0, 'mx/target-is-address': 0 }
  let count = 5
  for (let i = 0; count < records; i++) {
    const host = `h${i.toString(36)}x`
    lines.push(
      `${host} IN A 192.0.2.${i & 255}`,
      `${host} IN AAAA 2001:db8::${(i & 0xffff).toString(16)}`,
      `www.${host} IN CNAME ${host}`,
      `${host} IN MX 10 mail`,
      `_xmpp-client._tcp.${host} 7200 IN SRV 5 0 5222 ${host}`,
    )
    lines.push(`${host} IN TXT "v=spf1 mx ip4:192.0.2.${i & 255} -all"`)
    count += 6
    if (faults && (i % 50_000 === 49_999 || i === 3)) {
      lines.push(`bad-mx-${i} IN MX 10 www.${host}`, `bad-cname-${i} IN CNAME bad-cname-${i}`, `bad-target-${i} IN MX 10 192.0.2.1`)
      planted['mx/target-is-alias']++
      planted['cname/loop']++
      planted['mx/target-is-address']++
      count += 3
    }
  }
  return { text: lines.join('\n') + '\n', records: count, planted }
}

if (process.argv[2] === 'write') writeFileSync(process.argv[4], makeZone('bench.example', Number(process.argv[3])).text)
