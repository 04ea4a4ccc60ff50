import { describe, expect, test } from 'vitest'
import { type Form, zoneInForm } from '../../../src/core/file/forms.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { byPurpose, whereItLeads } from '../../../src/core/view/purpose.ts'

function load(text: string, zone = 'example.'): Zones {
  const zones = new Zones()
  readZone(zones, zones.addSource(zones.addZone(zone, 'f'), 'f', octetsOf(text)))
  zones.seal()
  return zones
}
const inForm = (zones: Zones, form: Exclude<Form, 'json'>): string =>
  [...zoneInForm(zones, zones.zones[0]!, form)].join('')

test('names come in the order of RFC 4034 §6.1, by its own example', () => {
  const shuffled = [
    'zABC.a.EXAMPLE',
    '*.z.example',
    'example',
    'yljkjljk.a.example',
    '\\200.z.example',
    'Z.a.example',
    'z.example',
    'a.example',
    '\\001.z.example',
  ]
  const zones = load(`$TTL 1\n${shuffled.map((name) => `${name}. A 192.0.2.1\n`).join('')}`)
  const owners = inForm(zones, 'canonical')
    .trim()
    .split('\n')
    .map((line) => line.split(' ')[0])
  expect(owners).toEqual([
    'example.',
    'a.example.',
    'yljkjljk.a.example.',
    'z.a.example.',
    'zabc.a.example.',
    'z.example.',
    '\\001.z.example.',
    '*.z.example.',
    '\\200.z.example.',
  ])
})

test('canonical form: names small in data, sets in the order of their octets, repeats once', () => {
  const zones = load(
    '$TTL 60\n@ MX 20 B\n@ MX 10 Mail.Elsewhere.EXAMPLE.\n@ MX 10 mail.elsewhere.example.\n@ TXT "Big"\n@ A 192.0.2.2\n@ A 192.0.2.1\n',
  )
  expect(inForm(zones, 'canonical')).toBe(
    'example. 60 IN A 192.0.2.1\nexample. 60 IN A 192.0.2.2\nexample. 60 IN MX 10 mail.elsewhere.example.\nexample. 60 IN MX 20 b.example.\nexample. 60 IN TXT "Big"\n',
  )
})

test('the generic form has numbers and octets only', () => {
  expect(inForm(load('$TTL 60\na A 192.0.2.1\nA MX 10 b\n'), 'generic')).toBe(
    'a.example. 60 IN TYPE1 \\# 4 c0000201\na.example. 60 IN TYPE15 \\# 13 000a0162076578616d706c6500\n',
  )
})

test('CSV cells with signs of their own are quoted', () => {
  expect(inForm(load('$TTL 60\na TXT "x,\\"y"\n'), 'csv')).toBe(
    'owner,ttl,type,value\na.example.,60,TXT,"""x,\\""y"""\n',
  )
  // What a spreadsheet would take for a formula.
  expect(inForm(load('$TTL 60\n=1+1 A 192.0.2.1\n-x A 192.0.2.2\n'), 'csv')).toContain(
    "'-x.example.,60,A,192.0.2.2\n'=1+1.example.,60,A,192.0.2.1\n",
  )
})

test('a tidy zone file reads as what it was made from, and tidied again stays as it is', () => {
  const text =
    '$TTL 1d\n@ SOA a b 1 2 3 4 5\n@ NS a\nb 300 A 192.0.2.1\nb A 192.0.2.2\n\\@.c TXT "1" "2"\n*.d CNAME @\nlong TXT "' +
    'x'.repeat(250) +
    '" "' +
    'y'.repeat(90) +
    '"\n'
  const once = inForm(load(text), 'zone')
  expect(inForm(load(once), 'canonical')).toBe(inForm(load(text), 'canonical'))
  expect(inForm(load(once), 'zone')).toBe(once)
  expect(once).toMatch(/^\$ORIGIN example\.\n\$TTL 86400\n@ {23}SOA {5}a b \(\n {32}1 {10}; serial\n/)
  expect(Math.max(...once.split('\n').map((line) => line.length))).toBeLessThan(300)
})

test('the root and a zone without records have forms, too', () => {
  expect(inForm(load('', 'empty.example.'), 'zone')).toBe('$ORIGIN empty.example.\n$TTL 3600\n')
  expect(inForm(load('$TTL 1\nexample A 192.0.2.1\n@ NS example\n', '.'), 'zone')).toContain(
    '\nexample.                A       192.0.2.1\n',
  )
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
      'outside the kept zones',
      'does not exist',
      'an alias of mail.hollowmere.example.',
    ])
    expect(whereItLeads(zones, 0)).toContain('nowhere')
  })
})
