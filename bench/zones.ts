// Made-up zones for measuring: addresses, exchanges, aliases, services and texts in equal parts, with faults planted at a known count.
import { writeFileSync } from 'node:fs'

export interface MadeZone {
  text: string
  records: number
  /** How many findings of each rule the zone must give. */
  planted: Record<string, number>
}

/** A zone of a workspace of many, all of which have their mail and site at the first: its number, and its text. */
export const oneOfMany = (i: number): string => `$ORIGIN line${i}.example.
$TTL 3600
@ SOA ns1.upland-dns.example. hostmaster 2026010101 7200 900 1209600 3600
@ NS ns1.upland-dns.example.
@ NS ns2.upland-dns.example.
@ MX 10 mail.line0.example.
@ A 192.0.2.1
@ TXT "v=spf1 include:line0.example -all"
_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@line0.example"
www CNAME www.line0.example.
${i === 0 ? 'mail A 192.0.2.25\nwww A 192.0.2.80\n' : ''}`

export type Layout = 'relative names in order' | 'absolute names, shuffled'

/**
 * A zone of about `records` records. With `faults`, every 50 000th host (and the fourth) has an exchange that is an alias, an alias of itself, and a target that is
 * an address: faults with which name servers still load the zone.
 */
export function makeZone(
  zone: string,
  records: number,
  faults = true,
  layout: Layout = 'relative names in order',
): MadeZone {
  const absolute = layout === 'absolute names, shuffled'
  const name = (relative: string): string => (absolute ? `${relative}.${zone}.` : relative)
  const head = [
    `$ORIGIN ${zone}.`,
    '$TTL 3600',
    `@ IN SOA ns1.upland-dns.example. hostmaster.${zone}. 2026112301 7200 900 1209600 3600`,
    '@ IN NS ns1.upland-dns.example.',
    '@ IN NS ns2.upland-dns.example.',
  ]
  // What every domain with mail has: without it, each host would be a finding of its own.
  const lines = [
    '@ IN MX 10 mail',
    '@ IN MX 20 mail2',
    '@ IN TXT "v=spf1 mx -all"',
    '_dmarc IN TXT "v=DMARC1; p=reject; rua=mailto:dmarc@larkpost.example"',
    'ferry1._domainkey IN CNAME ferry1.keys.larkpost.example.',
    'mail IN A 192.0.2.25',
    'mail IN TXT "v=spf1 a -all"',
    'mail2 IN A 192.0.2.26',
    'mail2 IN AAAA 2001:db8::26',
    'mail2 IN TXT "v=spf1 a -all"',
  ]
  const planted = { 'mx/target-is-alias': 0, 'cname/loop': 0, 'mx/target-is-address': 0 }
  for (let i = 0; lines.length + 3 < records; i++) {
    const host = name(`h${i.toString(36)}x`)
    lines.push(
      i % 2 ? `${host} IN A 192.0.2.${i & 255}` : `${host} IN AAAA 2001:db8::${(i & 0xffff).toString(16)}`,
      // Every other host takes mail, with a fallback: one exchange only would be a piece of advice each.
      `${name(`h${(i - (i % 2)).toString(36)}x`)} IN MX ${i % 2 ? '20' : '10'} ${name(i % 2 ? 'mail2' : 'mail')}`,
      `${name(`www.h${i.toString(36)}x`)} IN CNAME ${host}`,
      `${name(`_xmpp-client._tcp.h${i.toString(36)}x`)} 7200 IN SRV 5 0 5222 ${host}`,
      `${host} IN TXT "v=spf1 mx ip4:192.0.2.${i & 255} -all"`,
    )
    if (faults && (i % 50_000 === 49_999 || i === 3)) {
      lines.push(
        `${name(`bad-mx-${i}`)} IN MX 10 ${name(`www.h${i.toString(36)}x`)}`,
        `${name(`bad-mx-${i}`)} IN TXT "v=spf1 -all"`,
        `${name(`bad-cname-${i}`)} IN CNAME ${name(`bad-cname-${i}`)}`,
        `${name(`bad-target-${i}`)} IN MX 10 192.0.2.1`,
        `${name(`bad-target-${i}`)} IN TXT "v=spf1 -all"`,
      )
      for (const rule of Object.keys(planted) as (keyof typeof planted)[]) planted[rule]++
    }
  }
  // The last host, if it has no fallback yet.
  const last = lines.findLastIndex(
    (line) => line.includes(' IN MX 10 ') && !line.startsWith('@') && !line.startsWith('bad'),
  )
  const fallback = lines[last]!.replace(/ IN MX 10 .*/, ` IN MX 20 ${name('mail2')}`)
  if (last >= 0 && !lines.includes(fallback)) lines.push(fallback)
  if (absolute) {
    let state = 7
    for (let i = lines.length - 1; i > 0; i--) {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0
      const k = state % (i + 1)
      ;[lines[i], lines[k]] = [lines[k]!, lines[i]!]
    }
  }
  return { text: [...head, ...lines].join('\n') + '\n', records: lines.length + 3, planted }
}

if (process.argv[2] === 'write')
  writeFileSync(process.argv[4]!, makeZone('bench.example', Number(process.argv[3])).text)
