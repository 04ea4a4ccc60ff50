/** The zone at its servers and in its parent: NS sets, SOA timers, delegations of zones below, glue. */
import { describe, expect, test } from 'vitest'
import { confirmRound } from '../../../src/core/confirm/round.ts'
import { Scenario } from './scenario.ts'

const HOST = 'www A 192.0.2.10'
const NS = '@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.'
const OTHER = '@ NS ns1.upland-dns.example.\n@ NS ns9.upland-dns.example.'

const remarks = async (s: Scenario): Promise<[string, boolean, string][]> => {
  const { remarks } = await confirmRound(s.plan(), s.asking())
  return remarks.map(({ what, wrong, text }) => [what, wrong, text])
}

describe('the NS set', () => {
  test.each<[string, (s: Scenario) => void, [string, boolean, unknown][]]>([
    ['as intended everywhere', () => {}, []],
    [
      'a server that neither file nor parent has',
      (s) => void s.serves('ns1', { body: HOST, serial: 1, head: OTHER }),
      [['own-ns', true, expect.stringMatching(/ns9\.upland-dns\.example, which neither .* does not list ns2/)]],
    ],
    [
      'one is missing at all servers',
      (s) => {
        for (const who of ['ns1', 'ns2'] as const) s.serves(who, { body: HOST, serial: 1, head: NS.split('\n')[0]! })
      },
      [
        ['own-ns', true, expect.stringContaining('does not list ns2')],
        ['own-ns', true, expect.stringContaining('does not list ns2')],
      ],
    ],
    [
      'nothing but the NS set was changed, and is not published',
      (s) => {
        s.delegates(OTHER)
        s.intends(HOST, OTHER)
      },
      [
        ['not-published', false, expect.anything()],
        ['own-ns', true, expect.stringContaining('not published yet')],
        ['own-ns', true, expect.stringContaining('not published yet')],
      ],
    ],
    [
      'looks alike and is not: the host has its own set, as the parent zone says',
      (s) => {
        s.delegates(OTHER)
        for (const who of ['ns1', 'ns2'] as const) s.serves(who, { body: HOST, serial: 1, head: OTHER })
      },
      [
        ['own-ns', false, expect.stringContaining('as the parent zone does')],
        ['own-ns', false, expect.stringContaining('as the parent zone does')],
      ],
    ],
    [
      'timers that differ at one serial',
      (s) => void s.serves('ns2', { body: HOST, serial: 1, timers: '7200 900 1209600 60' }),
      [['soa-timers', true, expect.stringContaining('instead of 7200 900 1209600 900')]],
    ],
    [
      'looks alike and is not: timers of an older serial',
      (s) => void s.intends(HOST).serves('ns1').serves('ns2', { body: HOST, serial: 1, timers: '7200 900 1209600 60' }),
      [['behind', false, expect.anything()]],
    ],
  ])('%s', async (_what, happens, expected) => {
    const s = new Scenario(HOST)
    happens(s)
    expect(await remarks(s)).toEqual(expected)
  })

  test('a zone that its host numbers has no serial to compare with', async () => {
    const s = new Scenario(HOST).intends(HOST)
    expect((await confirmRound(s.plan({ hosted: true }), s.asking())).remarks).toEqual([])
    s.serves('ns1', { body: HOST, serial: 2_000_000_000 })
    expect((await confirmRound(s.plan({ hosted: true }), s.asking())).remarks).toMatchObject([{ what: 'behind' }])
  })
})

describe('delegations in the zone', () => {
  const CUT = 'isle NS ns1.isle\nisle NS ns.larkpost.example.\nns1.isle A 192.0.2.53'
  const cut = async (served: string): Promise<Record<string, string>> => {
    const s = new Scenario(CUT)
    for (const who of ['ns1', 'ns2'] as const) s.serves(who, { body: served, serial: 1 })
    const seen = await s.confirm()
    return { NS: seen['isle NS']!.status, glue: seen['ns1.isle A']!.status }
  }
  test.each([
    ['as intended', CUT, { NS: 'confirmed', glue: 'confirmed' }],
    ['one server is missing', CUT.replace('isle NS ns.larkpost.example.\n', ''), { NS: 'wrong', glue: 'confirmed' }],
    ['other glue', CUT.replace('.53', '.54'), { NS: 'confirmed', glue: 'wrong' }],
    ['no glue', CUT.replace(/\nns1.*/, ''), { NS: 'confirmed', glue: 'not-published' }],
    ['no delegation', 'www A 192.0.2.1', { NS: 'not-published', glue: 'not-published' }],
  ])('%s', async (_what, served, expected) => expect(await cut(served)).toEqual(expected))

  test('resolvers are not asked: they ask the servers of the zone below', async () => {
    const s = new Scenario(CUT)
    await s.confirm()
    expect(s.sent.some(({ party, name }) => party === 'resolver' && name.includes('isle'))).toBe(false)
  })
})

test('the parent’s glue beside the addresses in the zone', async () => {
  const head = '@ NS ns1\n@ NS ns2.upland-dns.example.'
  const glue = (address: string) => {
    const s = new Scenario('ns1 A 192.0.2.53', {})
    s.delegates(`${head.replace('ns1', 'ns1.hollowmere')}\nns1.hollowmere A ${address}`)
    s.intends('ns1 A 192.0.2.53', head).serves('ns1').serves('ns2')
    return remarks(s)
  }
  expect(await glue('192.0.2.99')).toEqual([
    ['glue', true, expect.stringMatching(/ns1\.hollowmere\.example A 192\.0\.2\.99; .* has 192\.0\.2\.53/)],
  ])
  expect(await glue('192.0.2.53')).toEqual([])
})

test('several machines behind the address of one server: samples count there, too', async () => {
  const s = new Scenario(HOST)
  const asking = s.asking()
  let turn = 0
  const other = new Scenario('www A 192.0.2.66')
  const ask: typeof asking.ask = (party, ...rest) =>
    (party === 'ns2' && rest[1] === 1 && turn++ % 2 ? other.asking() : asking).ask(party, ...rest)
  const { sets } = await confirmRound(s.plan({ samples: 4 }), { ...asking, ask })
  const www = s.read({ sets, remarks: [], at: s.now } as never)['www A']!
  expect(www.status).not.toBe('confirmed')
  expect(www.set.answers.flatMap(({ notes }) => notes)).toContainEqual(
    expect.stringContaining('several servers answer'),
  )
})
