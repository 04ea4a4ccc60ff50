/** What a text shows is certain; what it only suggests is asked, with both readings where there are two. */
import { describe, expect, test } from 'vitest'
import { typeText } from '../../../src/core/records/types.ts'
import { readInstructions } from '../../../src/core/transcribe/read.ts'
import type { Row } from '../../../src/core/transcribe/record.ts'

const ZONE = 'saltmarsh.example.'
const shown = ({ owner, type, value }: Row): string =>
  `${owner === ZONE ? '@' : owner.replace(`.${ZONE}`, '')} ${typeText(type)} ${value}`

/** One line a record: `?` in front of one that is asked, and its other reading behind a bar; `!` a line that is not understood. */
function readOf(text: string): string[] {
  const { rows, unread } = readInstructions(text, ZONE)
  const read = rows.map((row) =>
    row.asked === undefined ? shown(row) : `? ${shown(row)}${row.other ? ` | ${shown(row.other)}` : ''}`,
  )
  return [...read, ...unread.map(({ line }) => `! ${line}`)]
}

const hosts = (...names: string[]): string => names.map((name) => `${name}.saltmarsh.example`).join(' ')

describe('which of two names leads to the other', () => {
  test.each([
    [
      'nothing shows it',
      `CNAME ${hosts('web', 'shop')}`,
      ['? web CNAME shop.saltmarsh.example. | shop CNAME web.saltmarsh.example.'],
    ],
    [
      'another row of that order does',
      `CNAME ${hosts('web', 'shop')}\nCNAME app.saltmarsh.example pages.kelp-sites.example`,
      ['web CNAME shop.saltmarsh.example.', 'app CNAME pages.kelp-sites.example.'],
    ],
    ['an arrow does', 'CNAME web.saltmarsh.example -> shop.saltmarsh.example', ['web CNAME shop.saltmarsh.example.']],
    [
      'the type between them does',
      'web.saltmarsh.example CNAME shop.saltmarsh.example',
      ['web CNAME shop.saltmarsh.example.'],
    ],
    ['the first is relative', 'CNAME web shop.saltmarsh.example', ['web CNAME shop.saltmarsh.example.']],
    [
      'headings do',
      `Type\tName\tValue\nCNAME\t${hosts('web', 'shop').replace(' ', '\t')}`,
      ['web CNAME shop.saltmarsh.example.'],
    ],
    [
      'a preference stands before the host',
      `MX ${hosts('post').replace(' ', '')} 10 ${hosts('mx1')}`,
      ['post MX 10 mx1.saltmarsh.example.'],
    ],
    ['a preference stands before the first', `MX 10 ${hosts('mx1', 'mx2')}`, ['? mx1 MX 10 mx2.saltmarsh.example.']],
    [
      'below a domain, whose other records have no name',
      `For shop.saltmarsh.example:\n  CNAME ${hosts('a.shop')} b.kelp-sites.example\n\nFor pier.saltmarsh.example:\n  A 192.0.2.4`,
      ['? a.shop CNAME b.kelp-sites.example.', 'pier A 192.0.2.4'],
    ],
  ])('%s', (_, text, read) => {
    expect(readOf(text)).toEqual(read)
  })
})

describe('empty cells', () => {
  const table = (...rows: string[]): string => ['Type\tName\tValue', ...rows].join('\n')
  test.each([
    [
      'a type that the value has',
      table('A\tpier\t192.0.2.4', '\tdock\t192.0.2.5'),
      ['pier A 192.0.2.4', 'dock A 192.0.2.5'],
    ],
    [
      'a value of another type',
      table('TXT\tpier\tkelp-proof=12345', '\tdock\t2001:db8::5'),
      ['pier TXT "kelp-proof=12345"', '? dock TXT "2001:db8::5"'],
    ],
    [
      'a host, which several types have',
      table('NS\tpier\tns1.kelp.example', '\tdock\tns2.kelp.example'),
      ['pier NS ns1.kelp.example.', '? dock NS ns2.kelp.example.'],
    ],
    [
      'a host, in a table of merged cells',
      table('A\tquay\t192.0.2.4', '\tmole\t192.0.2.5', 'NS\tpier\tns1.kelp.example', '\tdock\tns2.kelp.example'),
      ['quay A 192.0.2.4', 'mole A 192.0.2.5', 'pier NS ns1.kelp.example.', 'dock NS ns2.kelp.example.'],
    ],
    [
      'a name, in the first row',
      table('A\t\t192.0.2.4', 'A\tpier\t192.0.2.5', 'AAAA\t\t2001:db8::4'),
      ['@ A 192.0.2.4', 'pier A 192.0.2.5', '@ AAAA 2001:db8::4'],
    ],
    [
      'a name below another',
      table('A\tpier\t192.0.2.4', 'AAAA\t\t2001:db8::4'),
      ['pier A 192.0.2.4', '? @ AAAA 2001:db8::4 | pier AAAA 2001:db8::4'],
    ],
    ['a name of an alias', table('CNAME\t\tpages.kelp-sites.example'), ['? @ CNAME pages.kelp-sites.example.']],
    ['a value', table('A\tpier\t192.0.2.4', 'A\tdock\t'), ['pier A 192.0.2.4', '! 3']],
    ['a type that is none', table('A\tpier\t192.0.2.4', 'AY\tdock\t192.0.2.5'), ['pier A 192.0.2.4', '! 3']],
  ])('%s', (_, text, read) => {
    expect(readOf(text)).toEqual(read)
  })
})

describe('corrections', () => {
  test.each([
    [
      'of the record above',
      'Please add an A record for pier pointing to 192.0.2.4.\nSorry, it should be 192.0.2.5.',
      ['? pier A 192.0.2.5 | pier A 192.0.2.4'],
    ],
    [
      'of the one whose value is said',
      'A pier 192.0.2.4\nA dock 192.0.2.9\n\nOops, I meant 192.0.2.44, not 192.0.2.4.',
      ['? pier A 192.0.2.44 | pier A 192.0.2.4', 'dock A 192.0.2.9'],
    ],
    [
      'of the one whose name is said',
      'A pier 192.0.2.4\nA dock 192.0.2.9\n\nSorry, the A record for pier should be 192.0.2.5.',
      ['? pier A 192.0.2.5 | pier A 192.0.2.4', 'dock A 192.0.2.9'],
    ],
    [
      'of an exchanger, whose preference stays',
      'MX @ 10 mx1.brine.example\n\nDer Server muss aber mx2.brine.example heißen.',
      ['? @ MX 10 mx2.brine.example. | @ MX 10 mx1.brine.example.'],
    ],
    [
      'of a number',
      'MX @ 10 mx1.brine.example\n\nSorry, the priority should be 20.',
      ['@ MX 10 mx1.brine.example.', '! 3'],
    ],
    ['that are none', 'A pier 192.0.2.4\n\nSorry for the late reply, it took 3 days.', ['pier A 192.0.2.4']],
  ])('%s', (_, text, read) => {
    expect(readOf(text)).toEqual(read)
  })
})

describe('several names in a sentence', () => {
  const value = 'with value kelp-proof=12345.'
  test.each([
    [
      'of records',
      `Please add TXT records for @ and blog ${value}`,
      ['@ TXT "kelp-proof=12345"', 'blog TXT "kelp-proof=12345"'],
    ],
    [
      'of one record',
      `Please add a TXT record for @ and blog ${value}`,
      ['@ TXT "kelp-proof=12345"', '? blog TXT "kelp-proof=12345"'],
    ],
    [
      'with commas',
      'Please create CNAME records for www2, shop-1 and blog.saltmarsh.example pointing to pages.kelp-sites.example.',
      ['www2', 'shop-1', 'blog'].map((name) => `${name} CNAME pages.kelp-sites.example.`),
    ],
    [
      'and something else to do',
      'Please create a CNAME record for www and point it to pages.kelp-sites.example.',
      ['www CNAME pages.kelp-sites.example.'],
    ],
    [
      'whose value stands below',
      'A pier 192.0.2.4\n\nCNAME records for shop and www:\npages.kelp-sites.example',
      ['pier A 192.0.2.4', '! 3'],
    ],
  ])('%s', (_, text, read) => {
    expect(readOf(text)).toEqual(read)
  })
})

describe('signs', () => {
  test.each([
    [
      'numbers in circles',
      '① A pier 192.0.2.4\n2️⃣ A dock 192.0.2.5\n(3) A quay 192.0.2.6',
      ['pier A 192.0.2.4', 'dock A 192.0.2.5', 'quay A 192.0.2.6'],
    ],
    ['marks', '✅ A pier 192.0.2.4', ['pier A 192.0.2.4']],
    ['of a direction that changes nothing', 'A \u202apier\u202c 192.0.2.4', ['pier A 192.0.2.4']],
    ['that turn a name around', 'A \u202ereip\u202c 192.0.2.4', ['! 1']],
    [
      'a wrapped value of CAA',
      'Type   Name   Value\nCAA    @      0 issue\n              "ca.kelp.example"',
      ['@ CAA 0 issue "ca.kelp.example"'],
    ],
  ])('%s', (_, text, read) => {
    expect(readOf(text)).toEqual(read)
  })
})

describe('what stands among records and is none', () => {
  test.each([
    [
      'a type alone',
      'For pier.saltmarsh.example:\n  NS ns1.kelp.example\n  NS\n\nFor dock.saltmarsh.example:\n  NS ns2.kelp.example',
      ['pier NS ns1.kelp.example.', 'dock NS ns2.kelp.example.', '! 3'],
    ],
    [
      'a domain that leads to nothing',
      'For pier.saltmarsh.example:\n\nFor dock.saltmarsh.example:\n  A 192.0.2.4',
      ['dock A 192.0.2.4', '! 1'],
    ],
    [
      'a row of cells',
      'A\tpier\t192.0.2.4\n\tdock\tkelp-proof\nA\tquay\t192.0.2.5',
      ['pier A 192.0.2.4', 'quay A 192.0.2.5', '! 2'],
    ],
    [
      'one that states a record again, without its name',
      'Name\tType\tValue\n\tA\t192.0.2.4\nsaltmarsh.example\tA\t192.0.2.4',
      ['? @ A 192.0.2.4'],
    ],
    [
      'a service without its labels',
      'Type\tName\tPriority\tWeight\tPort\tTarget\nSRV\tsip\t1\t1\t5060\tsip.kelp.example',
      ['? sip SRV 1 1 5060 sip.kelp.example.'],
    ],
  ])('%s', (_, text, read) => {
    expect(readOf(text)).toEqual(read)
  })
})
