/** What caches may hold is counted for each state of a set by itself. */
import { describe, expect, test } from 'vitest'
import { historyOf } from '../../../src/core/confirm/history.ts'
import { confirmRound } from '../../../src/core/confirm/round.ts'
import { timingOf } from '../../../src/core/confirm/timing.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { ADDRESS, Scenario } from './scenario.ts'

const both = (s: Scenario): Scenario => s.serves('ns1').serves('ns2')
const WWW = 'www.hollowmere.example'

describe('waiting is counted from when the state itself was given up', () => {
  test('a TTL that was lowered long ago: a change is through after the low one, in confirm and in timing', async () => {
    const lowered = async (isSeen: boolean): Promise<Scenario> => {
      const s = both(new Scenario('www 3600 A 192.0.2.10').intends('www 60 A 192.0.2.10'))
      if (isSeen) await s.confirm()
      s.passes(7200).asks(WWW, 'A')
      return both(s.intends('www 60 A 192.0.2.11')).passes(5)
    }
    const s = await lowered(true)
    const timed = (at: Scenario) => {
      const { zones, zone, earlier, memory } = at.plan()
      return timingOf({ zones, zone, earlier, memory, now: at.now, to: 300 }).sets[0]!
    }
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', until: 61 })
    expect(timed(s)).toMatchObject({ throughBy: s.now + 61, under: { until: s.now + 61 } })
    // Nobody saw the low TTL at all servers: it may have come with the change.
    expect((await (await lowered(false)).confirm())['www A']).toMatchObject({ status: 'settling', until: 3601 })
    // One that never lets go is overdue; one that keeps answers for longer lets go later.
    s.passes(70).answersItself('resolver', 'www 60 A 192.0.2.10')
    expect((await s.confirm())['www A']!.status).toBe('overdue')
    const floored = both(
      new Scenario('www 60 A 192.0.2.10', { floor: 600 }).asks(WWW, 'A').intends('www 60 A 192.0.2.11'),
    )
    await floored.confirm()
    expect((await floored.passes(100).confirm())['www A']).toMatchObject({ status: 'settling', until: 497 })
    expect((await floored.passes(500).confirm())['www A']!.status).toBe('confirmed')
  })

  test('a state that came back was published when it came back', async () => {
    const s = both(new Scenario('www 600 A 192.0.2.10'))
    await s.confirm()
    await both(s.passes(1000).intends('www 600 A 192.0.2.11')).confirm()
    s.passes(9000).asks(WWW, 'A')
    const back = await both(s.intends('www 600 A 192.0.2.10')).confirm()
    expect(back['www A']).toMatchObject({ status: 'settling', until: 601, verdicts: { resolver: 'earlier-answer' } })
    expect(historyOf(s.plan().questions[0]!, s.earlier, s.memory.sightings(s.plan().questions[0]!)).publishedAt).toBe(
      s.now,
    )
  })

  test('edited by hand from A to B to A: what the log saw of B is known', async () => {
    const s = both(new Scenario('www 600 A 192.0.2.10'))
    await s.confirm()
    await both(s.passes(100).intends('www 600 A 192.0.2.11', undefined, true)).confirm()
    s.passes(9000).asks(WWW, 'A')
    const back = both(s.intends('www 600 A 192.0.2.10', undefined, true))
    expect((await back.confirm())['www A']).toMatchObject({
      status: 'settling',
      until: 601,
      verdicts: { resolver: 'earlier-answer' },
    })
  })

  test('what only one server had, and the file no longer says, may be in caches', async () => {
    const s = both(new Scenario('www 60 A 192.0.2.10'))
    await s.confirm()
    s.passes(100).intends('www 3600 A 192.0.2.11', undefined, true).serves('ns1')
    await s.confirm()
    s.passes(100).intends('www 60 A 192.0.2.12', undefined, true)
    const word = (await both(s).asks(WWW, 'A').confirm())['www A']!
    expect(word.status).toBe('confirmed')
    const sightings = s.memory.sightings(s.plan().questions[0]!)
    expect(sightings.map(({ ttl, all }) => [ttl, all])).toContainEqual([3600, false])
  })

  test('data that are equal in canonical form have not changed', () => {
    const s = new Scenario('www CNAME host\nhost A 192.0.2.1').intends('www CNAME HOST\nhost A 192.0.2.1')
    const www = s.plan().questions.find(({ owner }) => owner.startsWith('www'))!
    expect(historyOf(www, s.earlier, []).states).toEqual([])
  })

  test('the same data with the earlier TTL at all servers is not published, at one of them the earlier answer', async () => {
    const s = new Scenario('www 3600 A 192.0.2.10').intends('www 60 A 192.0.2.10')
    expect((await s.confirm())['www A']).toMatchObject({ status: 'not-published', verdicts: { ns1: 'earlier-answer' } })
    expect((await s.serves('ns1').confirm())['www A']).toMatchObject({
      status: 'settling',
      verdicts: { ns1: 'as-intended', ns2: 'earlier-answer' },
    })
    // Looks alike and is not: a TTL that it never had.
    s.serves('ns2', { body: 'www 90 A 192.0.2.10', serial: 2 })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'split', verdicts: { ns2: 'different' } })
  })

  test('what was removed is gone where its name is denied', async () => {
    const s = new Scenario('www A 192.0.2.10\nsub.www A 192.0.2.11').intends('sub.www A 192.0.2.11')
    both(s).ails('ns2', { denies: [`${WWW}.`] })
    expect((await s.confirm())['www A']!.status).toBe('confirmed')
  })
})

describe('secondaries', () => {
  test('the lag counts from when there was something to fetch, by the timers that the server itself has', async () => {
    const s = new Scenario('www A 192.0.2.10').intends('www A 192.0.2.11')
    await s.confirm()
    s.passes(172_800).serves('ns1').serves('ns2', { body: 'www A 192.0.2.10', serial: 1, timers: '600 120 9999 900' })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', until: 720 })
    expect((await s.passes(700).confirm())['www A']).toMatchObject({ status: 'settling', until: 20 })
    expect((await s.passes(30).confirm())['www A']!.status).toBe('overdue')
  })

  test('a primary that went back, and has a later version again: the lag counts from then', async () => {
    const s = new Scenario('www A 192.0.2.10')
    await s.confirm()
    await s.passes(100).intends('www A 192.0.2.11').serves('ns1').confirm()
    await s.passes(100).serves('ns1', { body: 'www A 192.0.2.10', serial: 1 }).confirm()
    s.passes(30_000).serves('ns1')
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', verdicts: { ns2: 'earlier-answer' } })
    // Looks alike and is not: it had that version all the time.
    await s.passes(100).confirm()
    expect((await s.passes(30_000).confirm())['www A']!.status).toBe('overdue')
  })

  test('a primary that has not loaded what its secondary has fetches nothing', async () => {
    const s = new Scenario('www A 192.0.2.10').intends('www A 192.0.2.11').serves('ns2')
    expect((await s.confirm())['www A']!.status).toBe('split')
  })

  test('all sets equal, and a secondary behind for longer than its timers allow, is a fault', async () => {
    const s = new Scenario('www A 192.0.2.10').intends('www A 192.0.2.10').serves('ns1')
    const plan = s.plan()
    const first = await confirmRound(plan, s.asking())
    s.note(plan, first)
    expect(first.remarks).toMatchObject([{ what: 'behind', wrong: false }])
    s.passes(8101)
    expect((await confirmRound(plan, s.asking())).remarks).toMatchObject([{ what: 'behind', wrong: true }])
  })

  test('of a server that did not reply it is not said that it lacks the set', async () => {
    const s = new Scenario('www A 192.0.2.10').intends('www A 192.0.2.11').ails('ns2', { silent: true })
    expect((await s.confirm())['www A']).toMatchObject({
      status: 'not-published',
      says: 'ns1 does not have it; ns2 did not reply',
    })
  })
})

describe('resolvers that answer by themselves', () => {
  const asked = both(new Scenario('www A 192.0.2.10'))
  test.each<[string, (s: Scenario) => Scenario]>([
    ['other data, always with the same TTL', (s) => s.answersItself('resolver', 'www 300 A 203.0.113.66')],
    [
      'a denial, said to be by policy',
      (s) => s.ails('resolver', { rcode: 3, errors: [{ code: 15, text: 'blocked here' }] }),
    ],
    ['a denial without SOA record', (s) => s.ails('resolver', { rcode: 3 })],
  ])('%s', async (_what, ails) => {
    const s = ails(both(new Scenario('www A 192.0.2.10')))
    const www = (await s.confirm())['www A']!
    expect(www).toMatchObject({ status: 'wrong', causes: ['answers-itself'] })
  })
  test('look alike and are not: an earlier denial, and an expired answer', async () => {
    expect((await asked.confirm())['www A']!.status).toBe('confirmed')
    const s = new Scenario('ftp A 192.0.2.9').asks(WWW, 'A').intends('www A 192.0.2.10\nftp A 192.0.2.9')
    expect((await both(s).confirm())['www A']).toMatchObject({ status: 'settling', causes: [] })
  })

  test('without copies, what a cache had before is waited for once, and not for ever', async () => {
    const s = new Scenario('www 600 A 192.0.2.10')
    const other = { body: 'www 600 A 192.0.2.66', serial: 1 }
    s.serves('ns1', other).serves('ns2', other).asks(WWW, 'A')
    both(s).passes(10)
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', until: 589 })
    // Some server that nobody knows of goes on telling it.
    s.passes(700).serves('ns1', other).serves('ns2', other).asks(WWW, 'A')
    both(s).passes(10)
    expect((await s.confirm())['www A']!.status).toBe('overdue')
  })

  test('a lone resolver with an earlier answer, where nothing is known of the servers: it is not known', async () => {
    const s = new Scenario('www A 192.0.2.10').asks(WWW, 'A').intends('www A 192.0.2.11')
    const alone = { parties: [{ label: 'resolver', role: 'resolver' as const }], early: true }
    expect((await s.confirm(alone))['www A']!.status).toBe('unreachable')
    // Looks alike and is not: the servers were seen to have it.
    await both(s).confirm()
    expect((await s.confirm(alone))['www A']).toMatchObject({ status: 'settling' })
  })
})

test('who answers without authority and offers no recursion is no resolver', async () => {
  const s = new Scenario('www A 192.0.2.10')
  s.network.server(
    ADDRESS.old,
    exampleZones({ zones: { example: '@ SOA a b 1 1 1 1 1\nhollowmere NS ns1.upland-dns.example.' }, whole: true }),
  )
  const www = (await s.confirm({ parties: [{ label: 'old' }] }))['www A']!
  expect(www).toMatchObject({ status: 'wrong', verdicts: { old: 'not-authoritative' } })
})

test('what follows a name is confirmed only with that name’s addresses', async () => {
  const follows = [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }]
  for (const [target, around, status] of [
    ['site A 192.0.2.80', follows, 'confirmed'],
    ['', [{ ...follows[0]!, target: 'site.northlight.example' }], 'wrong'],
    // Nobody can say what the target has.
    ['', [{ ...follows[0]!, target: 'site.northlight.test' }], 'unreachable'],
    ['site TXT "no address"', follows, 'wrong'],
  ] as const) {
    const s = new Scenario(target)
    s.around = { follows: [...around] }
    for (const who of ['ns1', 'ns2'] as const) s.serves(who, { body: `${target}\n@ A 192.0.2.80`, serial: 1 })
    if (status === 'wrong') for (const who of ['ns1', 'ns2'] as const) s.serves(who)
    expect([target, (await s.confirm())['@ A']!.status]).toEqual([target, status])
  }
})
