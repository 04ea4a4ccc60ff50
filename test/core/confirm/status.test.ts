import { describe, expect, test } from 'vitest'
import { Memory } from '../../../src/core/confirm/memory.ts'
import { Scenario, START } from './scenario.ts'

const HOST = 'www A 192.0.2.10'
const right = { ns1: 'as-intended', ns2: 'as-intended' }

describe('a change on its way', () => {
  test('before anything is published, resolvers are not asked', async () => {
    const s = new Scenario(HOST).asks('www.hollowmere.example', 'A').passes(600).intends('www A 192.0.2.11')
    const { 'www A': www, remarks } = await s.confirm()
    expect(www).toMatchObject({ status: 'not-published', verdicts: { ns1: 'earlier-answer', ns2: 'earlier-answer' } })
    expect(remarks).toEqual(['not-published'])
    expect(s.sent.every(({ party }) => party !== 'resolver')).toBe(true)
    // Who insists may.
    expect((await s.confirm({ early: true }))['www A']!.verdicts).toMatchObject({ resolver: 'earlier-answer' })
  })

  test('a secondary behind is settling for as long as fetching may take, and overdue after that', async () => {
    const s = new Scenario(HOST).intends('www A 192.0.2.11').serves('ns1')
    const first = await s.confirm()
    expect(first['www A']).toMatchObject({
      status: 'settling',
      until: 8100,
      verdicts: { ns1: 'as-intended', ns2: 'earlier-answer' },
      causes: ['secondary-behind'],
    })
    expect(first.remarks).toEqual(['behind'])
    // Looks alike and is not: behind by its serial alone.
    const alike = await new Scenario(HOST).intends(HOST).serves('ns1').confirm()
    expect([alike['www A']!.status, alike['www A']!.causes, alike.remarks]).toEqual(['confirmed', [], ['behind']])
    s.passes(8000)
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', until: 100 })
    s.passes(200)
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'overdue',
      says: expect.stringContaining('zone transfers to it do not work'),
    })
  })

  test('the same serial with other data, and a secondary ahead: split', async () => {
    const s = new Scenario(HOST).intends('www A 192.0.2.11').serves('ns1').serves('ns2', { body: HOST, serial: 2 })
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'split',
      says: expect.stringContaining('the same serial 2'),
    })
    s.serves('ns2', { body: HOST, serial: 5 })
    const ahead = await s.confirm()
    expect(ahead['www A']).toMatchObject({
      status: 'split',
      says: expect.stringContaining('ahead of ns1 (serial 5, later than 2)'),
    })
    expect(ahead.remarks).toContain('ahead')
    // Looks alike and is not: ahead, with the right data.
    expect((await s.serves('ns2', { body: 'www A 192.0.2.11', serial: 5 }).confirm())['www A']!.status).toBe(
      'confirmed',
    )
  })

  test('a resolver may hold the earlier answer for its old TTL, from when all servers had the new one', async () => {
    const s = new Scenario('www 7200 A 192.0.2.10').asks('www.hollowmere.example', 'A')
    s.passes(600).intends('www 300 A 192.0.2.11').serves('ns1').serves('ns2')
    const first = (await s.confirm())['www A']!
    // Nobody saw it before: at most the whole old TTL from now.
    expect(first).toMatchObject({
      status: 'settling',
      until: 7201,
      atMost: true,
      verdicts: { ...right, resolver: 'earlier-answer' },
    })
    expect(first.set.answers[2]!.detail).toBe('gone in 6600 s')
    s.passes(1000)
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'settling',
      until: 6201,
      atMost: false,
      says: expect.stringContaining('since 08:10:00 UTC'),
    })
    s.passes(5600)
    expect((await s.confirm())['www A']).toMatchObject({ status: 'confirmed', verdicts: { resolver: 'as-intended' } })
    // A memory made of the log's lines knows the same.
    expect(new Memory(s.log).publishedAt(s.plan().questions[0]!)).toBe(START + 600)
  })

  test('a resolver that does not let go in time is overdue', async () => {
    const s = new Scenario(HOST)
      .asks('www.hollowmere.example', 'A')
      .intends('www A 192.0.2.11')
      .serves('ns1')
      .serves('ns2')
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', until: 3601 })
    // It refuses the new servers' word: a cache that never forgets.
    s.passes(4000).network.server('192.0.2.3', s.plan().earlier[0]!.zones, { intercepted: true })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'overdue', until: -403 })
  })

  test('an old denial is waited for as long as denials last, one of a name above counts too', async () => {
    const s = new Scenario(HOST).asks('_imaps._tcp.hollowmere.example', 'SRV').asks('_tcp.hollowmere.example', 'A')
    s.passes(100).intends(`${HOST}\n_imaps._tcp SRV 0 1 993 www`).serves('ns1').serves('ns2')
    const set = (await s.confirm())['_imaps._tcp SRV']!
    expect(set).toMatchObject({ status: 'settling', until: 901, verdicts: { resolver: 'absent' } })
    expect(set.set.answers[2]!).toMatchObject({ noName: true, ttl: 800 })
    s.passes(801)
    expect((await s.confirm())['_imaps._tcp SRV']!.status).toBe('confirmed')
  })

  test('where an alias stood, its TTL is waited for; what was removed must be gone', async () => {
    const s = new Scenario('www 5000 CNAME host\nhost A 192.0.2.10').asks('www.hollowmere.example', 'A')
    s.intends('www A 192.0.2.11\nhost A 192.0.2.10').serves('ns1').serves('ns2').passes(10)
    const seen = await s.confirm()
    expect(seen['www A']).toMatchObject({ status: 'settling', until: 5001, verdicts: { resolver: 'earlier-answer' } })
    expect(seen['www A']!.set.answers[2]!.chain).toEqual(['www.hollowmere.example.', 'host.hollowmere.example.'])
    expect(seen['www CNAME']).toMatchObject({
      status: 'settling',
      verdicts: { ...right, resolver: 'earlier-answer' },
    })
    s.passes(5000)
    expect((await s.confirm())['www CNAME']).toMatchObject({
      status: 'confirmed',
      verdicts: { resolver: 'as-intended' },
    })
  })

  test('where the delegation changed, the NS TTLs of parent and child come on top', async () => {
    const old = '@ 7200 NS ns9.upland-dns.example.'
    const s = new Scenario(HOST)
    s.delegates(old)
    s.intends(HOST, old).serves('old').asks('www.hollowmere.example', 'A')
    s.intends('www A 192.0.2.11', '@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.')
      .serves('ns1')
      .serves('ns2')
      .passes(60)
    const before = await s.confirm()
    expect(before['www A']).toMatchObject({ status: 'settling', until: 3600 + 7200 + 2, causes: ['old-delegation'] })
    expect(before.remarks).toContain('delegation')
    // Looks alike and is not: a host's own servers, on which it and the parent agree.
    const host = '@ NS ns9.upland-dns.example.'
    s.serves('ns1', { body: 'www A 192.0.2.11', serial: 3, head: host }).serves('ns2', {
      body: 'www A 192.0.2.11',
      serial: 3,
      head: host,
    })
    expect((await s.confirm()).remarks).not.toContain('delegation')
  })
})

describe('what never changed', () => {
  test('other data everywhere is wrong, and so is other data at one resolver', async () => {
    const s = new Scenario(HOST).intends(HOST)
    s.serves('ns1', { body: 'www A 192.0.2.66', serial: 2 }).serves('ns2', { body: 'www A 192.0.2.66', serial: 2 })
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'wrong',
      verdicts: { ns1: 'different', ns2: 'different' },
    })
    // Mended there, a resolver may have it for its TTL still: it was seen at the servers.
    s.asks('www.hollowmere.example', 'A').serves('ns1').serves('ns2').passes(5)
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'settling',
      until: 3601,
      verdicts: { ...right, resolver: 'earlier-answer' },
    })
    // Looks alike and is not: what no server was ever seen with.
    const t = new Scenario(HOST).intends(HOST).serves('ns1').serves('ns2')
    const other = { body: 'www A 192.0.2.66', serial: 1 }
    t.serves('ns1', other).asks('www.hollowmere.example', 'A').serves('ns1').passes(5)
    expect((await t.confirm())['www A']).toMatchObject({
      status: 'wrong',
      verdicts: { ...right, resolver: 'different' },
    })
  })

  test('without any history, other data at a resolver may still be older than what is known', async () => {
    const s = new Scenario('www A 192.0.2.66').asks('www.hollowmere.example', 'A')
    const t = new Scenario(HOST)
    t.network.resolver('192.0.2.3', [s.network.addresses[0]!])
    t.serves('ns1', { body: 'www A 192.0.2.66', serial: 1 })
      .asks('www.hollowmere.example', 'A')
      .serves('ns1')
      .passes(600)
    expect((await t.confirm())['www A']).toMatchObject({
      status: 'settling',
      until: 2999,
      atMost: true,
      verdicts: { resolver: 'different' },
    })
  })
})

describe('vantages that fail', () => {
  test('a silent server is unreachable; with another one wrong, that matters more', async () => {
    const s = new Scenario(HOST).ails('ns2', { silent: true })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'unreachable', verdicts: { ns2: 'no-reply' } })
    s.ails('ns2', { rcode: 5 })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'wrong', verdicts: { ns2: 'refused' } })
    s.ails('ns1', { silent: true }).ails('ns2', { silent: true })
    expect((await s.confirm())['www A']!.status).toBe('unreachable')
  })

  test('one whose part is not known is a server where it has authority, or fails without offering recursion', async () => {
    const parties = ['ns1', 'ns2', 'resolver'].map((label) => ({ label }))
    const s = new Scenario(HOST).ails('ns2', { rcode: 2 })
    const www = (await s.confirm({ parties }))['www A']!
    expect(www.set.answers.map(({ vantage, role }) => [vantage, role])).toEqual([
      ['ns1', 'authoritative'],
      ['ns2', 'authoritative'],
    ])
    expect(www).toMatchObject({ status: 'wrong', verdicts: { ns2: 'failed' } })
    const t = await new Scenario(HOST).confirm({ parties })
    expect(t['www A']!.set.answers.map(({ role }) => role)).toEqual(['authoritative', 'authoritative', 'resolver'])
  })

  test('a failure may be kept for five minutes, and counts after that; a broken signature counts at once', async () => {
    const s = new Scenario(HOST).ails('resolver', { rcode: 2, errors: [{ code: 22, text: '' }] })
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'settling',
      until: 300,
      says: expect.stringContaining('no reachable authority'),
    })
    s.passes(200)
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', until: 100 })
    s.passes(101)
    expect((await s.confirm())['www A']!.status).toBe('wrong')
    const t = new Scenario(HOST, { bogus: ['hollowmere.example.'] })
    const { 'www A': www } = await t.confirm()
    expect(www).toMatchObject({
      status: 'wrong',
      verdicts: { resolver: 'failed' },
      says: expect.stringContaining('the signatures are broken'),
    })
  })

  test('stale answer is told by its extended error, or by a TTL that does not fall', async () => {
    for (const stale of [true, 'silently'] as const) {
      const s = new Scenario(HOST, { stale })
        .asks('www.hollowmere.example', 'A')
        .intends('www A 192.0.2.11')
        .serves('ns1')
        .serves('ns2')
      await s.confirm()
      // The resolver does not reach the servers any more; whoever confirms does.
      s.passes(3700).ails('resolver', { stale, cutOff: true })
      expect((await s.confirm())['www A']!.verdicts).toMatchObject({ resolver: 'stale' })
    }
    // Looks alike and is not: a low TTL that falls.
    const s = new Scenario('www 20 A 192.0.2.10')
      .asks('www.hollowmere.example', 'A')
      .intends('www 20 A 192.0.2.11')
      .serves('ns1')
      .serves('ns2')
    expect((await s.confirm())['www A']!.verdicts).toMatchObject({ resolver: 'earlier-answer' })
  })

  test('answers without authority, and garbled ones', async () => {
    const s = new Scenario(HOST).ails('ns1', { intercepted: true })
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'wrong',
      verdicts: { ns1: 'not-authoritative' },
      says: expect.stringContaining('on the path'),
    })
    s.ails('ns1', { garbles: true })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'wrong', verdicts: { ns1: 'garbled' } })
    expect((await s.ails('ns1', { forgedBefore: true }).confirm())['www A']!.status).toBe('confirmed')
  })

  test('several caches behind one address', async () => {
    const s = new Scenario(HOST, { caches: 2 })
      .asks('www.hollowmere.example', 'A')
      .passes(500)
      .intends('www A 192.0.2.11')
      .serves('ns1')
      .serves('ns2')
    const www = (await s.confirm({ samples: 4 }))['www A']!
    expect(www.set.answers.filter(({ role }) => role === 'resolver').map(({ verdict }) => verdict)).toEqual([
      'as-intended',
      'earlier-answer',
      'as-intended',
      'earlier-answer',
    ])
    expect(www.status).toBe('settling')
    expect(www.set.answers[8]!.notes).toEqual([
      '4 samples; the TTL rises between them, so several caches answer at this address',
    ])
  })
})

test('TTLs of authoritative servers: a floor of the host is told from a single one that differs', async () => {
  const body = 'a 60 A 192.0.2.1\nb 60 A 192.0.2.2\nc 120 A 192.0.2.3\nd 7200 A 192.0.2.4'
  const s = new Scenario(body).serves('ns1', { body, serial: 1 }, { floor: 300 })
  const seen = await s.confirm()
  expect(seen['a A']).toMatchObject({ status: 'confirmed' })
  expect(seen['a A']!.set.answers[0]!.notes).toEqual(['TTL 300 instead of 60: the host enforces a minimum of 300'])
  s.serves('ns1', { body: body.replace('7200', '600'), serial: 1 }, {})
  expect((await s.confirm())['d A']).toMatchObject({
    verdicts: { ns1: 'different' },
    says: expect.stringContaining('same serial'),
  })
  // A resolver's may be lower, and higher where it keeps a floor.
  const t = new Scenario('a 60 A 192.0.2.1', { floor: 300 })
  expect((await t.confirm())['a A']!.set.answers[2]).toMatchObject({
    verdict: 'as-intended',
    notes: [expect.stringContaining('above the intended 60 s')],
  })
})

test('a top that follows a name, and names behind a front', async () => {
  const s = new Scenario('site A 192.0.2.80\nshop CNAME edge.northlight.example.\nboat CNAME site')
  s.around = {
    follows: [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }],
    fronts: [{ label: 'northlight', ranges: ['203.0.113.0/24'], names: ['northlight.example'] }],
  }
  const host = (top: string, shop: string) => ({
    body: `@ A ${top}\nsite A 192.0.2.80\n${shop}\nboat A 192.0.2.80`,
    serial: 1,
  })
  for (const who of ['ns1', 'ns2'] as const) s.serves(who, host('192.0.2.80', 'shop A 203.0.113.9'))
  const seen = await s.confirm()
  expect([seen['@ A']!.status, seen['@ AAAA']!.status, seen['shop CNAME']!.status]).toEqual([
    'confirmed',
    'confirmed',
    'confirmed',
  ])
  expect(seen['boat CNAME']).toMatchObject({ status: 'wrong', verdicts: { ns1: 'aliased' } })
  for (const who of ['ns1', 'ns2'] as const) s.serves(who, host('192.0.2.99', 'shop A 192.0.2.9'))
  const other = await s.confirm()
  expect(other['@ A']).toMatchObject({ status: 'wrong', verdicts: { ns1: 'different' } })
  expect(other['shop CNAME']).toMatchObject({ status: 'wrong', verdicts: { ns1: 'aliased' } })
  for (const who of ['ns1', 'ns2'] as const)
    s.serves(who, { body: 'site A 192.0.2.80\nshop CNAME other.northlight.example.\nboat CNAME site', serial: 1 })
  const gone = await s.confirm()
  expect([gone['@ A']!.verdicts.ns1, gone['@ AAAA']!.verdicts.ns1, gone['boat CNAME']!.status]).toEqual([
    'absent',
    'as-intended',
    'confirmed',
  ])
})

describe('watching', () => {
  test('asks again when something can have changed, and not before', async () => {
    const s = new Scenario('www 900 A 192.0.2.10\nftp 300 A 192.0.2.12')
      .asks('www.hollowmere.example', 'A')
      .asks('ftp.hollowmere.example', 'A')
    s.passes(100).intends('www A 192.0.2.11\nftp A 192.0.2.13').serves('ns1').serves('ns2')
    const last = (await s.watch(3600))[0]!
    expect(last.sets.every(({ status }) => status.word === 'confirmed')).toBe(true)
    const toResolver = s.sent
      .filter(({ party }) => party === 'resolver')
      .map(({ at, name }) => [name.split('.')[0], at - START])
    expect(toResolver).toEqual([
      ['www', 100],
      ['ftp', 100],
      ['ftp', 301],
      ['www', 901],
      // All of it once more at the end: what was right may not be so any more.
      ['www', 901],
      ['ftp', 901],
    ])
    // The zone's servers are left alone once they are right: only their serials are looked at.
    expect(
      s.sent.filter(
        ({ party, name, at }) => party === 'ns1' && name.startsWith('www') && at > START + 100 && at < START + 900,
      ),
    ).toEqual([])
  })

  test('asks resolvers only once all servers have it, and stops at the deadline', async () => {
    const s = new Scenario('www A 192.0.2.10')
      .asks('www.hollowmere.example', 'A')
      .intends('www A 192.0.2.11')
      .serves('ns1')
    const asking = s.asking()
    const sleep = asking.sleep
    asking.sleep = async (seconds) => {
      await sleep(seconds)
      if (s.now > START + 60) s.serves('ns2')
    }
    s.asking = () => asking as never
    await s.watch(1800)
    const first = s.sent.find(({ party }) => party === 'resolver')!
    expect(first.at).toBeGreaterThan(START + 60)
    expect(s.now).toBeLessThanOrEqual(START + 1800)
    expect(s.sent.filter(({ party }) => party === 'resolver')).toHaveLength(1)
  })
})
