import { expect, test } from 'vitest'
import { FORMAT as CSV } from '../../../src/cli/formats/csv.ts'
import { type Form, zoneInForm } from '../../../src/core/file/forms.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'

function load(text: string, zone = 'example.'): Zones {
  const zones = new Zones()
  readZone(zones, zones.addSource(zones.addZone(zone, 'f'), 'f', octetsOf(text)))
  zones.seal()
  return zones
}
const inForm = (zones: Zones, form: Form): string => [...zoneInForm(zones, zones.zones[0]!, form)].join('')

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
  const csv = (text: string): string => {
    const zones = load(text)
    return [...CSV.sets!({ zones, chosen: zones.zones })].join('')
  }
  expect(csv('$TTL 60\na TXT "x,\\"y"\n')).toBe('owner,ttl,type,value\na.example.,60,TXT,"""x,\\""y"""\n')
  // What a spreadsheet would take for a formula.
  expect(csv('$TTL 60\n=1+1 A 192.0.2.1\n-x A 192.0.2.2\n')).toContain(
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
