import type { RecordId } from '../../model/zones.ts'
import { TYPE, typeText } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'

const RETIRED = new Map([
  [1, 'RSA/MD5'],
  [3, 'DSA'],
  [5, 'RSA/SHA-1'],
  [6, 'DSA'],
  [7, 'RSA/SHA-1'],
  [12, 'GOST'],
])

export const dnssecAlgorithm: Rule = {
  code: 'dnssec/algorithm',
  severity: 'warning',
  source: 'RFC 9904, RFC 9905, RFC 9906',
  title: 'DNSKEY or DS record with a retired algorithm',
  why: 'Resolvers no longer validate such signatures, or reject them: the zone counts as unsigned, or fails.',
  remedy: 'Sign with ECDSA P-256 (13) or Ed25519 (15), and give the parent a DS record with SHA-256 (2).',
  bad: [
    '@ DNSKEY 256 3 5 AwEAAQ==',
    `isle DS 1 8 1 ${'AB'.repeat(20)}\nisle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.`,
  ],
  good: [`isle DS 1 13 2 ${'AB'.repeat(32)}\nisle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.`],
  visit: {
    set: {
      [TYPE.DNSKEY](set, cx) {
        for (const record of set.records)
          if (RETIRED.has(cx.zones.rdata(record)[3]!))
            sayRetired(
              cx,
              record,
              2,
              `the algorithm ${cx.zones.rdata(record)[3]} (${RETIRED.get(cx.zones.rdata(record)[3]!)})`,
            )
      },
      [TYPE.DS](set, cx) {
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          if (RETIRED.has(data[2]!)) sayRetired(cx, record, 1, `the algorithm ${data[2]} (${RETIRED.get(data[2]!)})`)
          else if (data[3] === 1 || data[3] === 3)
            sayRetired(cx, record, 2, `the digest type ${data[3]} (${data[3] === 1 ? 'SHA-1' : 'GOST'})`)
        }
      },
    },
  },
}

function sayRetired(cx: Context, record: RecordId, part: number, what: string): void {
  cx.report({
    record,
    part,
    message: `${typeText(cx.zones.type(record))} at ${cx.name(cx.zones.owner(record))} uses ${what}, which is retired`,
    effect: 'Resolvers treat the zone as unsigned, or reject it.',
    fix: ['sign with algorithm 13 or 15, and use digest type 2 for DS'],
  })
}
