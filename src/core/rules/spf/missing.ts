import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { bare } from '../../names/name.ts'
import { type NameId, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { isOfMail } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { hasSpf, textLine } from '../text.ts'
import { AT_TOP, NO_SPF } from '../traits.ts'

const isNullMx = (zones: Zones, record: RecordId): boolean => zones.target(record) === ROOT

function lacking(cx: Context, record: RecordId, owner: NameId, what: string, effect: string): void {
  const takesNone = cx.zones.type(record) === TYPE.MX && isNullMx(cx.zones, record)
  const mx = cx.zones.has(owner, TYPE.MX)
  // A site without mail: what closes it is one command.
  const site = !takesNone && !mx
  cx.report({
    record,
    part: 'owner',
    severity: site ? 'advice' : undefined,
    message: `${cx.name(owner)} ${what} but no SPF record`,
    effect,
    fix: site
      ? [`if it does no mail: bramblefront write no-mail ${bare(cx.name(owner))}`]
      : [textLine(cx.name(owner), takesNone ? 'v=spf1 -all' : 'v=spf1 mx ~all')],
  })
}

export const spfMissing: Rule = {
  code: 'spf/missing',
  severity: 'warning',
  source: 'RFC 7208 §10',
  title: 'domain without an SPF record',
  why: 'Anyone can send in its name, and large receivers reject or distrust mail from domains without SPF, including yours.',
  silences: ['mx/implicit'],
  remedy: 'Write one that lists who sends, or v=spf1 -all for a domain that sends nothing.',
  bad: ['@ MX 10 mx.larkpost.example.', '@ A 192.0.2.10\nwww A 192.0.2.10'],
  good: [
    '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"',
    'www A 192.0.2.10',
    {
      whole: true,
      zones: {
        '2.0.192.in-addr.arpa':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\n@ A 192.0.2.10',
      },
    },
    {
      zones: { 'hollowmere.example': '@ MX 10 mx.larkpost.example.' },
      traits: { 'hollowmere.example': { complete: false } },
    },
  ],
  visit: {
    set: {
      [TYPE.MX]: {
        when: NO_SPF,
        visit(set, cx) {
          if (hasSpf(cx.zones, set.owner) || !isOfMail(cx.zones, set.zone) || cx.zones.tree.isWildcard(set.owner))
            return
          lacking(
            cx,
            set.records[0]!,
            set.owner,
            'has MX',
            'Anyone can send in its name, and its own mail looks suspicious.',
          )
        },
      },
      [TYPE.A]: { when: AT_TOP, visit: (set, cx) => topWithAddress(set.records[0]!, set.owner, set.zone, cx) },
      [TYPE.AAAA]: {
        when: AT_TOP,
        visit(set, cx) {
          if (!cx.zones.has(set.owner, TYPE.A)) topWithAddress(set.records[0]!, set.owner, set.zone, cx)
        },
      },
    },
  },
}

function topWithAddress(record: RecordId, owner: NameId, zone: Zone, cx: Context): void {
  if (owner !== zone.apex || hasSpf(cx.zones, owner) || cx.zones.has(owner, TYPE.MX) || !isOfMail(cx.zones, zone))
    return
  lacking(cx, record, owner, 'has addresses and no MX,', 'Anyone can send in its name.')
}
