import { describe, expect, test } from 'vitest'
import { Scenario } from './scenario.ts'

const long = 'x'.repeat(300)
const strings = (text: string) =>
  text
    .match(/.{1,255}/g)!
    .map((each) => `"${each}"`)
    .join(' ')

/** What is intended, what the servers have instead, for which set, and what it looks like; then a case that looks alike and is not. */
const CAUSES: [
  string,
  {
    intended: string
    set: string
    served: string
    looks: string
    alike: string
    alikeIntended?: string
    alikeSet?: string
  },
][] = [
  [
    'the zone’s name doubled',
    {
      intended: 'www A 192.0.2.10',
      set: 'www A',
      served: 'www.hollowmere.example A 192.0.2.10',
      looks: 'zone-doubled',
      // A wildcard answers for that name, as for every other.
      alike: '* A 192.0.2.10\nwww TXT "x"',
    },
  ],
  [
    'at the top instead of below',
    {
      intended: '_dmarc TXT "v=DMARC1; p=none"',
      set: '_dmarc TXT',
      served: '@ TXT "v=DMARC1; p=none"',
      looks: 'at-top',
      alikeIntended: '@ A 192.0.2.10\nwww A 192.0.2.10',
      alikeSet: 'www A',
      // The same value is intended at the top.
      alike: '@ A 192.0.2.10',
    },
  ],
  [
    'below instead of at the top',
    {
      intended: '@ TXT "v=spf1 mx -all"',
      set: '@ TXT',
      served: '_spf TXT "v=spf1 mx -all"',
      looks: 'below-top',
      alike: '_spf TXT "v=spf1 a -all"',
    },
  ],
  [
    'a missing underscore',
    {
      intended: '_imaps._tcp SRV 0 1 993 mail',
      set: '_imaps._tcp SRV',
      served: 'imaps._tcp SRV 0 1 993 mail',
      looks: 'underscore-missing',
      alike: 'imaps._tcp SRV 0 1 143 mail',
    },
  ],
  [
    'both underscores missing',
    {
      intended: '_imaps._tcp SRV 0 1 993 mail',
      set: '_imaps._tcp SRV',
      served: 'imaps.tcp SRV 0 1 993 mail',
      looks: 'underscore-missing',
      alike: 'imap.tcp SRV 0 1 993 mail',
    },
  ],
  [
    'quotes inside the text',
    {
      intended: '@ TXT "v=spf1 mx -all"',
      set: '@ TXT',
      served: '@ TXT "\\"v=spf1 mx -all\\""',
      looks: 'quotes-inside',
      alike: '@ TXT "\\"v=spf1 a -all\\""',
    },
  ],
  [
    'a backslash inside the text',
    {
      intended: '_dmarc TXT "v=DMARC1; p=none"',
      set: '_dmarc TXT',
      served: '_dmarc TXT "v=DMARC1\\\\; p=none"',
      looks: 'quotes-inside',
      alike: '_dmarc TXT "v=DMARC1\\\\; p=reject"',
    },
  ],
  [
    'cut at 255',
    {
      intended: `s1._domainkey TXT ${strings(long)}`,
      set: 's1._domainkey TXT',
      served: `s1._domainkey TXT "${long.slice(0, 255)}"`,
      looks: 'cut-at-255',
      alike: `s1._domainkey TXT "${long.slice(0, 200)}"`,
    },
  ],
  [
    'the preference inside the target',
    {
      intended: '@ MX 10 mail',
      set: '@ MX',
      served: '@ MX 10 10\\032mail',
      looks: 'preference-in-target',
      alike: '@ MX 10 10mail',
    },
  ],
  [
    'a final dot missing',
    {
      intended: '@ MX 20 mx2.larkpost.example.',
      set: '@ MX',
      served: '@ MX 20 mx2.larkpost.example',
      looks: 'dot-missing',
      alike: '@ MX 20 mx2.hollowmere.example.',
    },
  ],
  [
    'a second SPF record beside the intended one',
    {
      intended: '@ TXT "v=spf1 mx -all"',
      set: '@ TXT',
      served: '@ TXT "v=spf1 mx -all"\n@ TXT "v=spf1 a -all"',
      looks: 'second-record',
      alike: '@ TXT "v=spf1 mx -all"\n@ TXT "proof=1"',
    },
  ],
  [
    'a wildcard answering',
    {
      intended: 'www A 192.0.2.10',
      set: 'www A',
      served: '* A 192.0.2.99',
      looks: 'wildcard-answers',
      alike: '* A 192.0.2.99\nwww A 192.0.2.98',
    },
  ],
]

describe('what it looks like', () => {
  test.each(CAUSES)('%s', async (_what, { intended, set, served, looks, alike, alikeIntended, alikeSet }) => {
    const both = async (wanted: string, body: string, of: string) => {
      const s = new Scenario(wanted)
      for (const who of ['ns1', 'ns2'] as const) s.serves(who, { body, serial: 1 })
      return (await s.confirm())[of]!
    }
    const seen = await both(intended, served, set)
    expect(seen.status).not.toBe('confirmed')
    expect(seen.causes).toEqual([looks])
    const cause = seen.set.causes[0]!
    expect(cause.evidence).not.toBe('')
    expect(cause.fix).toMatch(/publish|remove/)
    const other = await both(alikeIntended ?? intended, alike, alikeSet ?? set)
    expect(other.status).not.toBe('confirmed')
    expect(other.causes).not.toContain(looks)
  })

  test('a server that denies a name above, so that resolvers deny what is below it', async () => {
    const body = '_imaps._tcp SRV 0 1 993 mail'
    for (const denies of [['_tcp.hollowmere.example.'], []]) {
      const s = new Scenario(body).serves('ns1', undefined, { denies }).asks('_tcp.hollowmere.example', 'TXT')
      const set = (await s.confirm())['_imaps._tcp SRV']!
      expect(set.causes).toEqual(denies.length > 0 ? ['denied-above'] : [])
    }
  })
})
