import { describe, expect, test } from 'vitest'
import { relativeName } from '../../../src/core/names/name.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { parseType } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { folded } from '../../../src/core/view/fold.ts'
import { byPurpose } from '../../../src/core/view/purpose.ts'
import { RecordView, serviceName, whereItLeads } from '../../../src/core/view/record-set.ts'

const view = (type: string, text: string): RecordView => {
  const number = parseType(type)!
  return new RecordView(number, (parseRdata(number, text, new Uint8Array([0])) as { wire: Uint8Array }).wire)
}

describe('a record in people’s form', () => {
  test.each([
    ['MX', '10 mx.larkpost.example.', { preference: '10', exchange: 'mx.larkpost.example.' }, 'mx.larkpost.example.'],
    ['SRV', '0 5 993 mail.example.', { priority: '0', weight: '5', port: '993' }, 'mail.example.'],
    ['CAA', '0 issue "ca.example"', { flags: '0', tag: 'issue', value: '"ca.example"' }, undefined],
    ['SOA', 'ns. h. 1 2 3 4 5', { MNAME: 'ns.', RNAME: 'h.', serial: '1', minimum: '5' }, undefined],
    ['A', '192.0.2.1', { 'IPv4 address': '192.0.2.1' }, undefined],
    ['TYPE65399', '\\# 1 00', {}, undefined],
  ])('%s %s', (type, text, fields, target) => {
    const one = view(type, text)
    expect(Object.fromEntries(one.fields.map(({ label, value }) => [label, value]))).toMatchObject(fields)
    expect(one.target).toBe(target)
  })

  test.each([
    ['MX', '0 .', 'null MX'],
    ['SRV', '0 0 0 .', 'not offered'],
    ['TXT', '"v=DKIM1; p="', 'revoked'],
    ['TXT', '"v=DKIM1; t=y; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="', 'Ed25519 key'],
    ['TXT', '"v=spf1 -all"', undefined],
    ['MX', '10 a.', undefined],
  ])('%s %s means %s', (type, text, meaning) => {
    const told = view(type, text).meaning
    if (meaning === undefined) expect(told).toBeUndefined()
    else expect(told).toContain(meaning)
  })
})

test.each([
  ['www.hollowmere.example.', 'www'],
  ['WWW.Hollowmere.EXAMPLE.', 'WWW'],
  ['hollowmere.example.', '@'],
  ['xhollowmere.example.', 'xhollowmere.example.'],
  // The short form would look like the name that was meant.
  ['www.hollowmere.example.hollowmere.example.', 'www.hollowmere.example.hollowmere.example.'],
  ['x\\.hollowmere.example.', 'x\\.hollowmere.example.'],
])('%s in its zone is %s', (name, expected) => expect(relativeName(name, 'hollowmere.example.')).toBe(expected))

test.each([
  ['_imaps._tcp', 'imaps over tcp'],
  ['_imaps._tcp.office', 'imaps over tcp for office'],
  ['desk._http._tcp', 'desk, http over tcp'],
  ['www', 'www'],
])('the service %s is %s', (owner, expected) => expect(serviceName(owner)).toBe(expected))

test('long runs are folded, texts with blanks are not, and two values never look the same that are not', () => {
  const key = (middle: string): string => `"v=DKIM1; p=${'A'.repeat(60)}${middle}${'B'.repeat(60)}"`
  const spf = `"v=spf1 ${'ip4:192.0.2.1 '.repeat(30)}-all"`
  const [one, two] = folded([key('x'), spf]) as [string, string]
  expect(one.length).toBeLessThan(80)
  expect(one).toMatch(/^"v=DKIM1; p=A+…B+"$/)
  expect(two).toBe(spf)
  expect(folded([key('x'), key('y'), key('x')])).toEqual([key('x'), key('y'), key('x')])
})

describe('purposes', () => {
  const zones = exampleZones(
    '@ MX 10 mail\n@ MX 20 mx.larkpost.example.\n@ MX 30 gone\n@ MX 40 www\nmail A 192.0.2.1\nmail AAAA 2001:db8::1\nwww CNAME mail\ntext TXT "x"\n@ TXT "v=spf1 mx -all"\n@ TXT "ferry-proof=1"\n_dmarc TXT "v=DMARC1; p=none"\ns1._domainkey TXT "v=DKIM1; p="\ns2._domainkey CNAME s2.keys.larkpost.example.\n_mta-sts TXT "v=STSv1; id=1"\n_imaps._tcp SRV 0 0 993 mail\n_pop3._tcp SRV 0 0 0 .\nisle NS ns1.upland-dns.example.\nisle DS 1 13 2 ' +
      'ab'.repeat(32) +
      '\n4.3.2.1 PTR mail\n@ CAA 0 issue ";"\n',
  )
  const sets = byPurpose(zones, zones.zones[0]!).map(
    (set) => `${set.purpose}: ${zones.tree.text(set.owner).replace(/hollowmere\.example\.$/, '')}${set.records.length}`,
  )
  test.each([
    'receives mail: 4',
    'may send: 1',
    'signs mail: s1._domainkey.1',
    'signs mail: s2._domainkey.1',
    'mail policy: _dmarc.1',
    'mail policy: _mta-sts.1',
    'services: _imaps._tcp.1',
    'aliases: www.1',
    'hosts: mail.1',
    'proofs and other texts: 1',
    'proofs and other texts: text.1',
    'name servers: 2',
    'delegated: isle.1',
    'reverse names: 4.3.2.1.1',
    'other: 1',
  ])('%s', (expected) => expect(sets).toContain(expected))

  test('where targets lead', () => {
    const leads = zones.records(zones.zones[0]!.apex, 15).map((record) => whereItLeads(zones, zones.target(record)))
    expect(leads).toEqual([
      '192.0.2.1, 2001:db8::1',
      'outside your zones',
      'does not exist',
      'an alias of mail.hollowmere.example.',
    ])
    expect(whereItLeads(zones, 0)).toContain('nowhere')
  })
})
