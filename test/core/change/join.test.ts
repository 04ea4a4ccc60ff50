/** What is stated, joined with what is there: by purpose, asked where there is more than one right answer, refused where there is none. */
import { expect, test } from 'vitest'
import { joinInto } from '../../../src/core/change/join/join.ts'
import type { Question } from '../../../src/core/change/join/joined.ts'
import { rdataText } from '../../../src/core/records/rdata.ts'
import { typeText } from '../../../src/core/records/types.ts'
import { joined as textOf } from '../../../src/core/records/views.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { readInstructions } from '../../../src/core/transcribe/read.ts'

const ZONE = 'brackenmoor.example.'
const KEY =
  'p=MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDwzXgDDFeHC5t5YlEdylM55hQhqcAad8zWbUclvWlSLb3EfidQa8SUntIR7+S6epcAtHcA2sALFHVyGwLRjRCd5PVtuxQppGUYcRDRCG8Qq32SaPU8iQZxhrJ00tZD0EuDR0VuX9akQf/ayLr+EfBrdMdrQA+KCrgsErlab55RBQIDAQAB'

interface Case {
  says: string
  zone?: string
  text: string
  answers?: Record<string, string>
  /** Sets afterwards, of those that change: texts and other data joined by “ | ”. */
  sets?: string[]
  asked?: string[]
  conflicts?: string[]
}

const CASES: Case[] = [
  {
    says: 'a new set is added with its TTL',
    text: 'Type\tHost\tValue\tTTL\nCNAME\tnews\tu1.quillwing.example\t300',
    sets: ['news CNAME 300 u1.quillwing.example.'],
  },
  {
    says: 'what is there asks nothing',
    zone: 'news CNAME u1.quillwing.example.\n@ MX 10 mx1.larkpost.example.\n',
    text: 'CNAME\tnews\tu1.quillwing.example\t\nMX\t@\tmx1.larkpost.example\t10',
  },
  {
    says: 'SPF goes into the record that is there, whose end stays',
    zone: '@ TXT "v=spf1 mx -all"\n@ TXT "x=1"\n',
    text: 'TXT\t@\tv=spf1 include:spf.quillwing.example ~all',
    sets: ['@ TXT - v=spf1 mx include:spf.quillwing.example -all | x=1'],
  },
  {
    says: 'two SPF records for one name become one',
    text: 'TXT\t@\tv=spf1 include:a.quillwing.example ~all\nTXT\t@\tv=spf1 include:b.larkpost.example ~all',
    sets: ['@ TXT - v=spf1 include:a.quillwing.example include:b.larkpost.example ~all'],
  },
  {
    says: 'a sender to add to the record',
    zone: '@ TXT "v=spf1 mx -all"\n',
    text: 'Please add include:spf.quillwing.example to your SPF record.',
    sets: ['@ TXT - v=spf1 mx include:spf.quillwing.example -all'],
  },
  {
    says: 'what is stated under a condition is asked, and nothing else is',
    text: 'A\twww\t192.0.2.1\n\nIf you also send newsletters, add:\nCNAME\tnews\tu1.quillwing.example\n\nAlways needed for your mail:\nMX\t@\tmx.larkpost.example\t10\n',
    sets: ['www A - 192.0.2.1', '@ MX - 10 mx.larkpost.example.'],
    asked: ['condition news CNAME'],
  },
  {
    says: 'a condition that is met',
    text: 'Wenn Sie auch Rundbriefe versenden:\nCNAME\tnews\tu1.quillwing.example\n',
    answers: { condition: 'write' },
    sets: ['news CNAME - u1.quillwing.example.'],
  },
  {
    says: 'of one set, what is stated under a condition is asked about, and the rest is not',
    text: 'TXT\t@\tv=spf1 include:spf.quillwing.example ~all\n\nIf you also send newsletters, add:\nTXT\t@\tquillwing-verification=41c2\n',
    sets: ['@ TXT - v=spf1 include:spf.quillwing.example ~all'],
    asked: ['condition @ TXT'],
  },
  {
    says: 'a condition that is not',
    text: 'If you also send newsletters, add:\nCNAME\tnews\tu1.quillwing.example\n',
    answers: { condition: 'leave out' },
  },
  {
    says: 'everybody may not be let in',
    zone: '@ TXT "v=spf1 mx -all"\n',
    text: 'TXT\t@\tv=spf1 +all',
    conflicts: ['@ TXT'],
  },
  {
    says: 'a verification record stands beside the others',
    zone: '@ TXT "v=spf1 mx -all"\n@ TXT "old-verification=1234"\n',
    text: 'TXT\t@\tnew-verification=9876',
    sets: ['@ TXT - v=spf1 mx -all | old-verification=1234 | new-verification=9876'],
  },
  {
    says: 'a selector that is taken by another key',
    zone: 's1._domainkey TXT "v=DKIM1; p=MFwwDQYJKoZIhvcNAQEBBQADSwAwSAJBAL"\n',
    text: `TXT\ts1._domainkey\tv=DKIM1; ${KEY}`,
    conflicts: ['s1._domainkey TXT'],
  },
  {
    says: 'the same key written otherwise',
    zone: `s1._domainkey TXT "v=DKIM1; k=rsa; ${KEY}"\n`,
    text: `TXT\ts1._domainkey\tv=DKIM1; ${KEY}`,
  },
  {
    says: 'a selector that is taken by an alias',
    zone: 's1._domainkey CNAME other.larkpost.example.\n',
    text: 'CNAME\ts1._domainkey\ts1.quillwing.example',
    conflicts: ['s1._domainkey CNAME'],
  },
  {
    says: 'a policy is not loosened',
    zone: '_dmarc TXT "v=DMARC1; p=reject; rua=mailto:a@brackenmoor.example"\n',
    text: 'TXT\t_dmarc\tv=DMARC1; p=none; rua=mailto:b@quillwing.example',
    conflicts: ['_dmarc TXT'],
  },
  {
    says: 'a policy that says more is asked',
    zone: '_dmarc TXT "v=DMARC1; p=none; rua=mailto:a@brackenmoor.example"\n',
    text: 'TXT\t_dmarc\tv=DMARC1; p=none; rua=mailto:b@quillwing.example',
    asked: ['policy _dmarc TXT'],
  },
  {
    says: 'its report address alone',
    zone: '_dmarc TXT "v=DMARC1; p=none; rua=mailto:a@brackenmoor.example"\n',
    text: 'TXT\t_dmarc\tv=DMARC1; p=none; rua=mailto:b@quillwing.example',
    answers: { policy: 'reports' },
    sets: ['_dmarc TXT - v=DMARC1; p=none; rua=mailto:a@brackenmoor.example,mailto:b@quillwing.example'],
  },
  {
    says: 'other mail exchangers are asked',
    zone: '@ MX 10 mail.upland-dns.example.\n',
    text: 'MX\t@\tmx1.larkpost.example\t10',
    asked: ['mx @ MX'],
  },
  {
    says: 'replaced',
    zone: '@ MX 10 mail.upland-dns.example.\n',
    text: 'MX\t@\tmx1.larkpost.example\t10',
    answers: { mx: 'replace' },
    sets: ['@ MX - 10 mx1.larkpost.example.'],
  },
  {
    says: 'added',
    zone: '@ MX 10 mail.upland-dns.example.\n',
    text: 'MX\t@\tmx1.larkpost.example\t10',
    answers: { mx: 'add' },
    sets: ['@ MX - 10 mail.upland-dns.example. | 10 mx1.larkpost.example.'],
  },
  { says: 'an alias at the apex', text: 'CNAME\t@\tedge.northlight.example', conflicts: ['@ CNAME'] },
  {
    says: 'an alias beside an address',
    zone: 'www A 192.0.2.1\n',
    text: 'CNAME\twww\tedge.northlight.example',
    conflicts: ['www CNAME'],
  },
  {
    says: 'an address beside an alias',
    zone: 'www CNAME edge.northlight.example.\n',
    text: 'A\twww\t192.0.2.1',
    conflicts: ['www A'],
  },
  {
    says: 'an alias beside a text of the same list',
    text: 'CNAME\twww\tedge.northlight.example\nTXT\twww\tx-verification=12345',
    conflicts: ['www CNAME'],
    sets: ['www TXT - x-verification=12345'],
  },
  {
    says: 'two targets of one alias',
    text: 'CNAME\twww\ta.northlight.example\nCNAME\twww\tb.northlight.example',
    conflicts: ['www CNAME'],
  },
  {
    says: 'another target',
    zone: 'www CNAME old.northlight.example.\n',
    text: 'CNAME\twww\tnew.northlight.example',
    asked: ['alias www CNAME'],
  },
  { says: 'other addresses are asked', zone: 'www A 192.0.2.1\n', text: 'A\twww\t192.0.2.2', asked: ['records www A'] },
  {
    says: 'more of a service, added',
    zone: '_sip._tcp SRV 0 1 5060 a\n',
    text: 'SRV\t_sip._tcp\t1 1 5060 b.larkpost.example',
    answers: { records: 'add' },
    sets: ['_sip._tcp SRV - 0 1 5060 a.brackenmoor.example. | 1 1 5060 b.larkpost.example.'],
  },
  {
    says: 'CAA stands beside',
    zone: '@ CAA 0 issue "a.example"\n',
    text: 'CAA\t@\t0 issue "b.example"',
    sets: ['@ CAA - 0 issue "a.example" | 0 issue "b.example"'],
  },
  { says: 'name servers are the registrar’s', text: 'NS\t@\tns9.upland-dns.example', conflicts: ['@ NS'] },
  { says: 'a damaged key', text: 'TXT\ts1._domainkey\tv=DKIM1; p=MIGf...', conflicts: ['s1._domainkey TXT'] },
  { says: 'another domain’s', text: 'A\twww.gorsefield.example\t192.0.2.2', conflicts: ['www.gorsefield.example. A'] },
  {
    says: 'what shall go is asked',
    zone: '@ MX 10 old.upland-dns.example.\n@ MX 20 mx1.larkpost.example.\n',
    text: 'Please delete the MX record 10 old.upland-dns.example from brackenmoor.example.',
    asked: ['delete @ MX'],
  },
  {
    says: 'what shall go goes when that is agreed to',
    zone: '@ MX 10 old.upland-dns.example.\n@ MX 20 mx1.larkpost.example.\n',
    text: 'Please delete the MX record 10 old.upland-dns.example from brackenmoor.example.',
    answers: { delete: 'remove' },
    sets: ['@ MX - 20 mx1.larkpost.example.'],
  },
  {
    says: 'an alias that goes makes room for an address',
    zone: 'www CNAME edge.northlight.example.\n',
    text: 'Delete:\n\nCNAME\twww\tedge.northlight.example\n\nAdd:\n\nA\twww\t192.0.2.1',
    answers: { delete: 'remove' },
    sets: ['www CNAME - ', 'www A - 192.0.2.1'],
  },
  {
    says: 'one replaced by another, when that is agreed to',
    zone: 'www A 192.0.2.1\n',
    text: 'Replace with:\n\nA\twww\t192.0.2.2',
    answers: { replace: 'replace' },
    sets: ['www A - 192.0.2.2'],
  },
]

test.each(CASES)('$says', ({ zone = '', text, answers = {}, sets = [], asked = [], conflicts = [] }) => {
  const zones = exampleZones({ zones: { 'brackenmoor.example': zone } })
  const found = readInstructions(
    text.includes('\t') && !text.includes('Type') && !text.includes(':\n')
      ? `Type\tHost\tValue\tPriority\n${text}`
      : text,
    ZONE,
  )
  const result = joinInto(zones, zones.zones[0]!, found.rows, found.intents, ({ about }: Question) => answers[about])
  const relative = (owner: string): string => (owner === ZONE ? '@' : owner.replace(`.${ZONE}`, ''))
  expect(
    result.changes.map(
      ({ owner, type, ttl, data }) =>
        `${relative(owner)} ${typeText(type)} ${ttl ?? '-'} ${data.map((each) => (type === 16 ? textOf(each) : rdataText(type, each))).join(' | ')}`,
    ),
  ).toEqual(sets)
  expect(result.questions.map(({ about, owner, type }) => `${about} ${relative(owner)} ${typeText(type)}`)).toEqual(
    asked,
  )
  expect(result.conflicts.map(({ owner, type }) => `${relative(owner)} ${typeText(type)}`)).toEqual(conflicts)
})
