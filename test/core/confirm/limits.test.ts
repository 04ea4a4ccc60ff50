/** The limits of times and verdicts, from both sides. */
import { describe, expect, test } from 'vitest'
import { LEAST } from '../../../src/core/confirm/due.ts'
import { digestOf, expiryOf, historyOf, type State, waitFor } from '../../../src/core/confirm/history.ts'
import { Memory } from '../../../src/core/confirm/memory.ts'
import type { Observation } from '../../../src/core/confirm/observation.ts'
import type { Question } from '../../../src/core/confirm/questions.ts'
import { type Facts, statusOf } from '../../../src/core/confirm/status.ts'
import { timingOf } from '../../../src/core/confirm/timing.ts'
import { type Judged, judge } from '../../../src/core/confirm/verdict.ts'
import { watch } from '../../../src/core/confirm/watch.ts'
import { serverState } from '../../../src/core/confirm/zone-state.ts'
import { emptyMessage, type Message } from '../../../src/core/message/message.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { TYPE } from '../../../src/core/records/types.ts'
import { Scenario, START } from './scenario.ts'

const WWW = 'www A 192.0.2.10'
const NAME = 'www.hollowmere.example'
const DAY = 86_400
const both = (s: Scenario): Scenario => s.serves('ns1').serves('ns2')
const wire = (text: string): Uint8Array => (parseRdata(TYPE.A, text, new Uint8Array([0])) as { wire: Uint8Array }).wire
const question = (value = '192.0.2.11', ttl = 60): Question => ({
  owner: `${NAME}.`,
  type: TYPE.A,
  asked: `${NAME}.`,
  intended: { owner: `${NAME}.`, type: TYPE.A, ttl, data: [wire(value)] },
})
const digest = (value: string): string => digestOf(question(), { data: [wire(value)] })
const state = (value: string, held: number, more: Partial<State> = {}): State => ({
  digest: digest(value),
  ttl: held,
  held,
  intended: true,
  until: 0,
  ...more,
})

describe('states', () => {
  test('are not given up in the future', () => {
    expect(expiryOf(state('192.0.2.10', 10, { gone: 200 }), 100)).toBe(111)
    expect(expiryOf(state('192.0.2.10', 10, { gone: 50 }), 100)).toBe(61)
  })

  test('end where all servers have another one, and not where one has', () => {
    const was = { at: 10, digest: digest('192.0.2.10'), ttl: 60, all: true }
    const now = { digest: digest('192.0.2.11'), ttl: 60 }
    const gone = (...more: object[]): unknown => historyOf(question(), [], [was, ...(more as never[])]).states[0]!.gone
    expect([
      gone({ ...now, at: 20, all: false }),
      gone({ ...now, at: 20, all: false }, { ...now, at: 30, all: true }),
    ]).toEqual([undefined, 30])
  })

  test('that a command wrote were intended, those that one server was seen with were not', () => {
    const seen = { at: 10, digest: digest('192.0.2.10'), ttl: 60, all: false }
    const intended = (more: object): boolean => historyOf(question(), [], [{ ...seen, ...more }]).states[0]!.intended
    expect([intended({ written: true }), intended({}), intended({ all: true })]).toEqual([true, false, true])
  })

  test('of several, one whose end nobody saw makes the last end the latest possible one', () => {
    const known = state('192.0.2.9', 600, { gone: 50 })
    expect(waitFor([known], 100)).toMatchObject({ end: 651, seen: true })
    expect(waitFor([known, state('192.0.2.8', 100)], 100)).toMatchObject({ end: 651, seen: false })
    // In the second in which it comes to 0, some caches still answer.
    expect(waitFor([state('192.0.2.9', 50, { gone: 50 })], 100.9)).toMatchObject({ end: 101, left: [{}] })
    expect(waitFor([state('192.0.2.9', 50, { gone: 50 })], 101)).toEqual({ end: 101, seen: true, left: [] })
  })
})

describe('statuses', () => {
  const answer = (vantage: string, more: Partial<Judged>): Judged => ({
    vantage,
    role: 'resolver',
    verdict: 'earlier-answer',
    ttl: 100,
    missing: [],
    extra: [],
    rcode: 'NOERROR',
    chain: [],
    errors: [],
    transport: 'udp',
    ms: 1,
    at: 1000,
    detail: '',
    notes: [],
    ...more,
  })
  const server = answer('ns1', { role: 'authoritative', verdict: 'as-intended' })
  const facts: Facts = {
    now: 1000,
    past: [],
    ttl: 60,
    copies: new Map(),
    since: () => undefined,
    promised: () => undefined,
  }
  const old = (value: string): Partial<Judged> => ({ state: { digest: digest(value), ttl: 100 } })

  test('what is left is counted from when the answer came', () => {
    const past = [state('192.0.2.10', 10, { gone: 990 })]
    const until = (at: number): unknown =>
      statusOf([server, answer('lake', { ...old('192.0.2.10'), at, ttl: 300 })], { ...facts, past }).until
    expect([until(1000), until(900)]).toEqual([1301, 1201])
    // Of an unknown state, too.
    expect(statusOf([server, answer('lake', { verdict: 'different', at: 900, ttl: 300 })], facts).until).toBe(1201)
  })

  test('another cache behind the address may have another state', () => {
    const past = [state('192.0.2.10', 10, { gone: 1000 }), state('192.0.2.9', 5000, { gone: 1000 })]
    const set = [server, answer('lake', { ...old('192.0.2.10'), ttl: 5 })]
    expect(statusOf(set, { ...facts, past })).toMatchObject({ until: 6001, atMost: true })
    expect(statusOf(set, { ...facts, past: past.slice(0, 1) })).toMatchObject({ until: 1011, atMost: false })
  })

  test('of two that settle, the later end', () => {
    const [a, b] = [100, 500].map((ttl) => answer(`r${ttl}`, { verdict: 'different', ttl }))
    for (const all of [
      [a!, b!],
      [b!, a!],
    ])
      expect(statusOf([server, ...all], facts).until).toBe(1501)
  })

  test('what was to be through by then is overdue just after', () => {
    const past = [state('192.0.2.10', 10, { gone: 900 })]
    const word = (promised: number): string =>
      statusOf([server, answer('lake', old('192.0.2.10'))], { ...facts, past, promised: () => promised }).word
    expect([word(1001), word(1000), word(999)]).toEqual(['settling', 'settling', 'overdue'])
  })

  test('what is no resolver cannot be used, which is not known to be wrong', () => {
    const page = answer('hill', { verdict: 'unusable', rcode: null, detail: 'it answered with HTTP status 403' })
    expect(statusOf([server, page], facts)).toMatchObject({
      word: 'unreachable',
      text: expect.stringContaining('cannot be used'),
    })
  })

  test('an earlier answer whose TTL stays as it is does not come from a cache', () => {
    const past = [state('192.0.2.10', 600)]
    const said = (more: Partial<Judged>): string =>
      statusOf([server, answer('lake', { ...old('192.0.2.10'), ...more })], { ...facts, past }).word
    expect([said({}), said({ ownAnswer: 'its TTL stays at 100 s' }), said({ ttl: null })]).toEqual([
      'settling',
      'wrong',
      'wrong',
    ])
  })
})

describe('verdicts', () => {
  const observed = (at: number, message: Partial<Message>): Observation => ({
    vantage: 'lake',
    transport: 'udp',
    tookMs: 1,
    at,
    message: { ...emptyMessage(1), response: true, recursionAvailable: true, ...message },
  })
  const data = (ttl: number, value = '192.0.2.11'): Partial<Message> => ({
    answers: [{ owner: `${NAME}.`, type: TYPE.A, class: 1, ttl, data: wire(value) }],
  })
  const lower = [state('192.0.2.11', 3600)]

  test.each([
    ['the intended one', 60, lower, 'as-intended'],
    ['above it, that of a state that caches may have', 61, lower, 'earlier-answer'],
    ['twice as much', 120, lower, 'earlier-answer'],
    ['all that such a state can have', 3600, lower, 'earlier-answer'],
    ['more than any state had', 3601, lower, 'as-intended'],
    [
      'that of a state that no cache can have any more',
      2000,
      [state('192.0.2.11', 3600, { gone: 1000 - 3601 })],
      'as-intended',
    ],
  ])('a TTL: %s', (_what, ttl, past, verdict) => {
    expect(judge(question(), observed(1000, data(ttl)), { role: 'resolver', past }).verdict).toBe(verdict)
  })

  test('a TTL that did not fall says something only after a while', () => {
    const other = data(300, '192.0.2.66')
    const own = (before: number): unknown =>
      judge(question(), observed(1000, other), { role: 'resolver', before: observed(before, other) }).ownAnswer
    expect([own(1000), own(999), own(998)]).toEqual([undefined, undefined, expect.stringContaining('300 s')])
  })

  test.each([
    [3, 0],
    [19, 3],
  ])('extended error %i says that an answer has expired', (code, rcode) => {
    const edns = { size: 1232, dnssecOk: false, options: [{ code: 15, data: new Uint8Array([0, code]) }] }
    const message = rcode === 0 ? { ...data(30, '192.0.2.66'), edns } : { rcode, edns }
    expect(judge(question(), observed(1000, message), { role: 'resolver' }).verdict).toBe('stale')
  })

  test.each([25, 26, 27, 28, 29, 30])('extended error %i is told in words', (code) => {
    const edns = { size: 1232, dnssecOk: false, options: [{ code: 15, data: new Uint8Array([0, code]) }] }
    expect(judge(question(), observed(1000, { rcode: 2, edns }), { role: 'resolver' }).detail).not.toContain(
      'extended error',
    )
  })
})

test('of several signatures, as while keys change, one that holds is enough', () => {
  const signature = (from: number, until: number) => {
    const data = new Uint8Array(20)
    const view = new DataView(data.buffer)
    view.setUint16(0, TYPE.SOA)
    view.setUint32(8, until)
    view.setUint32(12, from)
    return { owner: 'hollowmere.example.', type: TYPE.RRSIG, class: 1, ttl: 60, data }
  }
  const soa = { owner: 'hollowmere.example.', type: TYPE.SOA, class: 1, ttl: 60, data: new Uint8Array(22) }
  const signed = (...spans: [number, number][]): unknown => {
    const answers = [soa, ...spans.map(([from, until]) => signature(from, until))]
    const came: Observation = {
      ...{ vantage: 'ns1', transport: 'udp', tookMs: 1, at: 1000 },
      message: { ...emptyMessage(1), response: true, authoritative: true, answers },
    }
    return serverState(new Scenario(WWW).plan().zone, 'ns1', undefined, came, came).signed
  }
  expect(signed([500, 900], [600, 2000], [700, 1500])).toEqual({ from: 600, until: 2000 })
  expect(signed([500, 900], [1100, 3000])).toEqual({ from: 500, until: 900 })
  expect(signed()).toBeUndefined()
})

describe('what the log keeps', () => {
  const at = (seconds: number): string => new Date(seconds * 1000).toISOString()
  const set = question()
  const confirmation = (seconds: number, until: number, verdict = 'absent') => ({
    at: at(seconds),
    what: 'confirmation',
    zone: 'hollowmere.example.',
    about: null,
    serial: 1,
    vantages: [],
    counts: {},
    open: [{ owner: `${NAME}.`, type: 'A', status: 'settling', until: at(until), verdicts: { lake: verdict } }],
  })
  test('what was promised first binds, as long as the verdict is the same', () => {
    const memory = new Memory([confirmation(100, 500), confirmation(200, 900)])
    expect([memory.since(set, 'lake', 'absent'), memory.promised(set, 'lake', 'absent')]).toEqual([100, 500])
    const again = new Memory([confirmation(100, 500), confirmation(200, 900, 'different'), confirmation(300, 950)])
    expect([again.since(set, 'lake', 'absent'), again.promised(set, 'lake', 'absent')]).toEqual([300, 950])
  })

  test('what a command wrote, before and after', () => {
    const side = (value: string) => ({ ttl: 60, records: [value] })
    const line = {
      ...{ id: '1', at: at(100), what: 'change', zone: 'hollowmere.example.', command: '', file: '', serial: null },
      sets: [{ owner: `${NAME}.`, type: 'A', before: side('192.0.2.10'), after: side('192.0.2.11') }],
      findings: { added: [], gone: [] },
      backup: null,
      digest: 'b',
    }
    expect(new Memory([line]).sightings(set).map((each) => each.digest)).toEqual(
      ['192.0.2.10', '192.0.2.11'].map(digest),
    )
  })

  test('that all servers have it, where all have', async () => {
    const s = new Scenario(WWW).intends('www A 192.0.2.11').serves('ns1')
    await s.confirm()
    const published = (): string => JSON.stringify(s.log.filter(({ what }: any) => what === 'published'))
    expect(published()).not.toContain(NAME)
    await s.serves('ns2').confirm()
    expect(published()).toContain(NAME)
  })
})

describe('rounds', () => {
  test('a wildcard is through when caches cannot have what it said before', async () => {
    const s = new Scenario('*.pier 600 A 192.0.2.10')
    await s.confirm()
    both(s.passes(10).intends('*.pier 60 A 192.0.2.11'))
    expect((await s.confirm())['*.pier A']).toMatchObject({
      status: 'settling',
      until: 601,
      atMost: true,
      verdicts: { resolver: 'as-intended' },
    })
    expect((await s.passes(601).confirm())['*.pier A']!.status).toBe('confirmed')
    both(s.intends(''))
    expect((await s.confirm())['*.pier A']).toMatchObject({ status: 'settling', until: 61 })
    // Servers alone have it or not.
    expect(
      (await s.confirm({ onlyAuthoritative: true, parties: s.plan().parties.slice(0, 2) }))['*.pier A']!.status,
    ).toBe('confirmed')
    // A resolver that fails takes nothing from it.
    s.ails('resolver', { rcode: 2 })
    expect((await both(s.intends('*.pier 60 A 192.0.2.12').passes(5000)).confirm())['*.pier A']).toMatchObject({
      status: 'settling',
      until: 901,
    })
  })

  test('a resolver that is named alone is asked after the servers', async () => {
    const s = new Scenario(WWW).intends(`${WWW}\nnew A 192.0.2.11`).serves('ns1')
    const parties = [{ label: 'resolver' }]
    const reserve = async () => [{ label: 'ns1' }, { label: 'ns2' }]
    const seen = await s.confirm({ parties, reserve })
    expect([Object.keys(seen['new A']!.verdicts), Object.keys(seen['www A']!.verdicts)]).toEqual([
      ['ns1', 'ns2'],
      ['ns1', 'ns2', 'resolver'],
    ])
    expect(Object.keys((await s.confirm({ parties, reserve, early: true }))['new A']!.verdicts)).toEqual(['resolver'])
    // One that said nothing at first, and is a resolver: the servers come first then, too.
    const t = new Scenario(WWW).ails('resolver', { silent: true })
    const asking = t.asking()
    const { sleep } = asking
    asking.sleep = async (seconds) => {
      t.ails('resolver', {})
      await sleep(seconds)
    }
    const watched = await watch([t.plan({ parties, reserve })], asking, {
      deadline: t.now + 120,
      stopped: () => false,
      round: () => {},
    })
    expect(watched[0]!.sets.map(({ status, answers }) => [status.word, answers.map(({ vantage }) => vantage)])).toEqual(
      [['confirmed', ['ns1', 'ns2', 'resolver']]],
    )
    // One of those who are named is a server.
    expect(
      Object.keys((await s.confirm({ parties: [{ label: 'ns1' }, ...parties], reserve }))['new A']!.verdicts),
    ).toEqual(['ns1', 'resolver'])
  })

  test('one that does not reply keeps nobody from asking the others', async () => {
    const s = new Scenario(WWW)
    const seen = await s.confirm({ parties: [{ label: 'old' }, ...s.plan().parties] })
    expect(seen['www A']).toMatchObject({
      status: 'unreachable',
      verdicts: { old: 'no-reply', ns1: 'as-intended', ns2: 'as-intended', resolver: 'as-intended' },
    })
  })

  test('an answer that had expired is looked at again', async () => {
    for (const isFetched of [true, false]) {
      const s = both(
        new Scenario('www 60 A 192.0.2.10', { stale: true }).asks(NAME, 'A').intends('www 60 A 192.0.2.11'),
      ).passes(100)
      s.ails('resolver', { stale: true, cutOff: true })
      const asking = s.asking()
      const { sleep } = asking
      asking.sleep = async (seconds) => {
        if (isFetched) s.passes(10).ails('resolver', { stale: true })
        await sleep(seconds)
      }
      s.asking = () => asking
      expect((await s.confirm())['www A']!.verdicts).toMatchObject({ resolver: isFetched ? 'as-intended' : 'stale' })
    }
  })

  test('after a round, never sooner than in five seconds, however long that took', async () => {
    const s = new Scenario('www 8 A 192.0.2.10\nftp 9 A 192.0.2.20', { floor: 12 }).asks(NAME, 'A')
    both(s.intends('www 8 A 192.0.2.11\nftp 9 A 192.0.2.21'))
    const asking = s.asking()
    const { ask } = asking
    asking.ask = (...args) => ask(...args).finally(() => s.passes(0.7))
    const waits: number[] = []
    await watch([s.plan()], asking, {
      deadline: s.now + 600,
      stopped: () => false,
      round: (_confirmations, next) => void (next === undefined || waits.push(next - s.now)),
    })
    expect(waits.length).toBeGreaterThan(0)
    expect(Math.min(...waits)).toBeGreaterThanOrEqual(LEAST)
  })

  test('two caches that fetched an earlier answer just now do not answer by themselves', async () => {
    const s = both(new Scenario('www 600 A 192.0.2.10', { caches: 2 }).intends('www 600 A 192.0.2.11'))
    const old = { body: 'www 600 A 192.0.2.10', serial: 1 }
    const asking = s.asking()
    const { ask } = asking
    asking.ask = async (party, ...rest) => {
      // As long as resolvers ask, some server that nobody knows of has what was before.
      if (party === 'resolver') s.serves('ns1', old).serves('ns2', old)
      const came = await ask(party, ...rest)
      both(s)
      return came
    }
    s.asking = () => asking
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', causes: [] })
  })

  test('an alias that takes the place of a set is a state of it, which caches may have when the set is back', async () => {
    const s = both(
      new Scenario('www 60 A 192.0.2.10\nhost A 192.0.2.1').intends('www 3600 CNAME host\nhost A 192.0.2.1'),
    )
    await s.confirm()
    // Another copy of the same state, as one that is kept when something else is edited, changes nothing.
    both(s.passes(100).intends('www 3600 CNAME host\nhost A 192.0.2.1\nftp A 192.0.2.2'))
    const question = s.plan().questions.find(({ owner, type }) => owner === `${NAME}.` && type === TYPE.A)!
    expect(historyOf(question, s.earlier, s.memory.sightings(question)).publishedAt).toBe(START)
    both(s.passes(100).intends('www 60 A 192.0.2.11\nhost A 192.0.2.1\nftp A 192.0.2.2'))
    s.answersItself('resolver', 'www 50 A 192.0.2.99', { intercepted: true })
    const asking = s.asking()
    const { ask } = asking
    // Something that nobody knows is behind the alias, with a TTL that decreases.
    asking.ask = async (party, ...rest) => {
      const came = await ask(party, ...rest)
      const left = 50 - Math.floor(s.now - START - 200)
      return party === 'resolver' && came.message
        ? {
            ...came,
            message: { ...came.message, answers: came.message.answers.map((each) => ({ ...each, ttl: left })) },
          }
        : came
    }
    s.asking = () => asking
    expect((await s.confirm({ knownSince: START }))['www A']).toMatchObject({
      status: 'settling',
      until: 3601,
      verdicts: { resolver: 'different' },
    })
  })

  test('where confirmed sets lead is asked for once', async () => {
    const s = new Scenario('www 900 A 192.0.2.10\nshop CNAME gone.registry.example.').asks(NAME, 'A')
    both(s.intends('www A 192.0.2.11\nshop CNAME gone.registry.example.'))
    const [last] = await s.watch(300)
    expect(last!.nowhere.map(({ target }) => target)).toEqual(['gone.registry.example.'])
    const asked = s.sent.filter(({ name, type }) => name === 'gone.registry.example.' && type === TYPE.A)
    expect(asked).toHaveLength(1)
  })

  test('the end of a secondary’s lag is known once it was seen', async () => {
    const s = new Scenario(WWW).intends('www A 192.0.2.11').serves('ns1')
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', atMost: true })
    expect((await s.passes(60).confirm())['www A']).toMatchObject({
      status: 'settling',
      atMost: false,
      until: 8100 - 60,
    })
  })

  test('an earlier delegation counts for sets that did not change, and a zone that had none had none', async () => {
    const timed = (s: Scenario): number => {
      const { zones, zone, earlier, memory } = s.plan()
      return (
        timingOf({ zones, zone, earlier, memory, now: s.now, to: 300, only: { owner: `${NAME}.`, type: TYPE.A } })
          .sets[0]!.throughBy - s.now
      )
    }
    const s = new Scenario(WWW)
    await s.confirm()
    both(s.intends(WWW, '@ NS ns1.upland-dns.example.'))
    s.delegates('@ NS ns1.upland-dns.example.')
    await s.confirm()
    expect(timed(s)).toBe(DAY + 3600 + 2)
    const t = new Scenario(WWW)
      .intends(WWW, '')
      .intends(WWW, '@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.')
    // Of the two earlier states, one had the same servers, and one had none.
    await both(t).confirm()
    expect(timed(t)).toBe(3601)
    expect(t.now).toBe(START)
  })

  test('what was removed may be denied by caches for as long as the zone says', () => {
    const s = new Scenario(`${WWW}\nftp A 192.0.2.20`).intends('ftp A 192.0.2.20')
    expect(s.plan().questions.find(({ owner }) => owner === `${NAME}.`)).toMatchObject({ negativeTtl: 900 })
  })
})
