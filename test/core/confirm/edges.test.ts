/** What is said where nothing, or not all, is known. */
import { describe, expect, test } from 'vitest'
import { Memory } from '../../../src/core/confirm/memory.ts'
import { confirmRound } from '../../../src/core/confirm/round.ts'
import { timingOf } from '../../../src/core/confirm/timing.ts'
import { TYPE } from '../../../src/core/records/types.ts'
import { ADDRESS, Scenario, START } from './scenario.ts'

const WWW = 'www A 192.0.2.10'
const NAME = 'www.hollowmere.example'
const both = (s: Scenario): Scenario => s.serves('ns1').serves('ns2')
const DAY = 86_400

describe('a zone’s own SOA and NS', () => {
  test.each<[string, (s: Scenario) => Scenario, string]>([
    ['both answer', (s) => s, 'confirmed'],
    ['one is silent', (s) => s.ails('ns2', { silent: true }), 'unreachable'],
    ['one refuses', (s) => s.ails('ns2', { rcode: 5 }), 'wrong'],
    ['one fails', (s) => s.ails('ns2', { rcode: 2 }), 'wrong'],
    ['one denies the zone', (s) => s.ails('ns2', { denies: ['hollowmere.example.'] }), 'wrong'],
    ['one answers as a resolver does', (s) => s.ails('ns2', { intercepted: true }), 'wrong'],
    ['one is silent, and one refuses', (s) => s.ails('ns1', { silent: true }).ails('ns2', { rcode: 5 }), 'wrong'],
  ])('%s', async (_what, ails, word) => {
    const seen = await ails(new Scenario('')).confirm()
    expect([seen['@ SOA']!.status, seen['@ NS']!.status]).toEqual([word, word])
  })

  test('nobody to ask is not well', async () => {
    const s = new Scenario('')
    expect((await s.confirm({ parties: [] }))['@ SOA']!.status).toBe('unreachable')
    expect(
      (await s.confirm({ parties: [{ label: 'resolver', role: 'resolver' }], early: true }))['@ SOA']!.status,
    ).toBe('unreachable')
  })
})

test('a server that denies a name, asked for a removed type, although it serves it', async () => {
  const s = both(
    new Scenario(`${WWW}\nwww TXT "ferry"\nsub.pier A 192.0.2.1\npier A 192.0.2.2`).intends(
      'www TXT "ferry"\nsub.pier A 192.0.2.1',
    ),
  )
  let refused: number | undefined
  const denies = async (...names: string[]): Promise<string[]> => {
    s.ails('ns1', {}).ails('ns2', {})
    // Of the types that are there, it gives them.
    const { reply } = s.network
    s.network.reply = function (address, query, udp) {
      const replies = reply.call(this, address, query, udp)
      const [question] = 'questions' in query ? query.questions : []
      if (address === '203.0.113.53' && question?.type === refused)
        return replies.map((each) => (each instanceof Uint8Array ? each : { ...each, rcode: 5, answers: [] }))
      return address === '203.0.113.53' && question?.type === TYPE.A && names.includes(question.name)
        ? replies.map((each) => (each instanceof Uint8Array ? each : { ...each, rcode: 3 }))
        : replies
    }
    const plan = s.plan({ onlyAuthoritative: true, parties: s.plan().parties.slice(0, 2) })
    const { remarks, sets } = await confirmRound(plan, s.asking())
    s.network.reply = reply
    expect(sets.every(({ status }) => status.word === 'confirmed')).toBe(refused === undefined)
    return remarks
      .filter(({ what, wrong }) => what === 'denies-name' && wrong)
      .map(({ text }) => text.split(' for ')[1]!.split(' ')[0]!)
  }
  expect(await denies()).toEqual([])
  expect(await denies(`${NAME}.`)).toEqual([NAME])
  expect(await denies('pier.hollowmere.example.')).toEqual(['pier.hollowmere.example'])
  // Whether it has anything else there is not known.
  refused = TYPE.TXT
  expect(await denies(`${NAME}.`)).toEqual([])
})

describe('what is known is known since a time', () => {
  const other = { body: 'www 600 A 192.0.2.66', serial: 1 }
  /** What nobody here ever had, in a cache; the file is known for so long. */
  const strange = (): Scenario => {
    const s = new Scenario('www 600 A 192.0.2.10').serves('ns1', other).serves('ns2', other).asks(NAME, 'A')
    return both(s.passes(10))
  }
  test.each([
    ['a week, and longer than a cache keeps anything', 604_800 + 700, 'wrong'],
    ['a little less', 604_800 - 700, 'settling'],
    ['a minute', 60, 'settling'],
  ])('known for %s', async (_what, span, word) => {
    const s = strange()
    expect((await s.confirm({ knownSince: s.now - span }))['www A']!.status).toBe(word)
  })

  test('two runs in a row say the same, the first of which knew nothing', async () => {
    const s = strange()
    const words = []
    for (const knownSince of [undefined, s.now, s.now])
      words.push((await s.passes(5).confirm({ knownSince }))['www A']!)
    expect(words.map(({ status }) => status)).toEqual(['settling', 'settling', 'settling'])
    // The end that was said does not move away.
    expect(new Set(words.map(({ set, until }) => set.answers[2]!.at + until!)).size).toBe(1)
  })

  const line = (at: number, what: string, digest: string, was?: string) => ({
    at: new Date(at * 1000).toISOString(),
    what,
    zone: 'a.example.',
    id: `${at}`,
    command: '',
    file: 'z',
    serial: null,
    sets: [],
    open: [],
    findings: { added: [], gone: [] },
    backup: null,
    digest,
    ...(was === undefined ? {} : { was }),
  })
  test.each<[string, object[], string, number | undefined]>([
    ['nothing', [], 'a', undefined],
    ['an adoption', [line(100, 'adopted', 'a')], 'a', 100],
    [
      'changes after it',
      [line(100, 'adopted', 'a'), line(200, 'change', 'b', 'a'), line(300, 'restored', 'a', 'b')],
      'a',
      100,
    ],
    [
      'an edit by hand',
      [line(100, 'adopted', 'a'), line(200, 'edited', 'b', 'a'), line(300, 'change', 'c', 'b')],
      'c',
      200,
    ],
    ['an edit that nobody noticed yet', [line(100, 'adopted', 'a')], 'b', undefined],
    ['a change of something else than was known', [line(100, 'adopted', 'a'), line(200, 'change', 'c', 'b')], 'c', 200],
    ['a confirmation alone', [line(100, 'confirmation', 'a'), line(200, 'confirmation', 'a')], 'a', 100],
    ['confirmations of two states', [line(100, 'confirmation', 'a'), line(200, 'confirmation', 'b')], 'b', 200],
    ['a clock that was ahead', [line(5000, 'adopted', 'a')], 'a', 1000],
    [
      'a clock that was ahead for a while',
      [line(4000, 'adopted', 'a'), line(5000, 'confirmation', 'b'), line(900, 'confirmation', 'b')],
      'b',
      900,
    ],
  ])('by the log: %s', (_what, lines, digest, since) => {
    expect(new Memory(lines, undefined, 1000).knownSince('a.example.', digest)).toBe(since)
  })

  test('"never intended" is said only of a time that is known', async () => {
    const s = new Scenario(WWW).intends(WWW)
    for (const who of ['ns1', 'ns2'] as const) s.serves(who, { body: 'www A 192.0.2.66', serial: 2 })
    expect((await s.confirm({ knownSince: undefined }))['www A']!.says).not.toMatch(/intended/)
    expect((await s.confirm({ knownSince: s.now - 60 }))['www A']!.says).toMatch(/not intended at any time since/)
  })
})

describe('answers and serials are of one look', () => {
  /** Something happens just before the so-and-so-many-th question of a type to a server. */
  const before = (s: Scenario, who: string, type: number, count: number, happens: () => void): void => {
    const asking = s.asking.bind(s)
    let left = count
    s.asking = (...args) => {
      const made = asking(...args)
      const { ask } = made
      made.ask = async (party, name, of, how) => {
        if (party === who && of === type && --left === 0) happens()
        return ask(party, name, of, how)
      }
      return made
    }
  }
  test('a primary that loads the zone, and a secondary that fetches it, while they are asked', async () => {
    for (const [who, other] of [
      ['ns1', 'ns2'],
      ['ns2', 'ns1'],
    ] as const) {
      const s = new Scenario(WWW)
        .intends('www A 192.0.2.11')
        .serves(who === 'ns1' ? 'ns2' : 'ns1', { body: WWW, serial: 1 })
      if (who === 'ns2') s.serves(other)
      // After its serial, before its records.
      before(s, who, TYPE.A, 1, () => s.serves(who))
      expect(['settling', 'confirmed']).toContain((await s.confirm())['www A']!.status)
    }
  })

  test('a watch over a secondary that fetches in between, while a cache is waited for, too', async () => {
    for (const at of [2, 6, 9, 14, 22, 29]) {
      const s = new Scenario('www 600 A 192.0.2.10\nftp 33 A 192.0.2.20').asks('ftp.hollowmere.example', 'A')
      both(s.intends('www 600 A 192.0.2.10\nftp 33 A 192.0.2.21')).passes(22)
      s.intends('www 600 A 192.0.2.11\nftp 33 A 192.0.2.21').serves('ns1')
      const began = s.now
      const asking = s.asking()
      const { sleep } = asking
      asking.sleep = async (seconds) => {
        if (s.now < began + at && s.now + seconds >= began + at) s.serves('ns2')
        await sleep(seconds)
      }
      s.asking = () => asking
      await s.watch(600)
      const words = s.log.flatMap((each: any) => (each.open ?? []).map(({ status }: any) => status))
      expect([at, words.filter((word) => word !== 'settling')]).toEqual([at, []])
      expect(words.length).toBeGreaterThan(0)
    }
  })

  test('sets that become due close to one another are asked for together, and servers no more often than every 15 s', async () => {
    const lines = Array.from({ length: 12 }, (_, i) => `h${i} 300 A 192.0.2.${i}`)
    const s = new Scenario(lines.join('\n'))
    for (const i of lines.keys()) s.asks(`h${i}.hollowmere.example`, 'A').passes(0.4)
    both(s.intends(lines.map((line) => line.replace('192.0.2', '198.51.100')).join('\n')))
    const began = s.now
    await s.watch(3600)
    const rounds = new Set(s.sent.filter(({ party }) => party === 'resolver').map(({ at }) => at))
    expect(rounds.size).toBeLessThanOrEqual(5)
    expect(began).toBeGreaterThan(START)
    // A secondary that stays behind, while caches let go of other sets one after another.
    const more = Array.from({ length: 12 }, (_, i) => `k${i} 300 A 192.0.2.${i}`)
    const t = new Scenario([WWW, ...more].join('\n'))
    for (const i of more.keys()) t.asks(`k${i}.hollowmere.example`, 'A').passes(8)
    const changed = more.map((line) => line.replace('192.0.2', '198.51.100'))
    both(t.intends([WWW, ...changed].join('\n')))
    t.intends(['www A 192.0.2.11', ...changed].join('\n')).serves('ns1')
    await t.watch(300)
    const soa = t.sent.filter(({ party, type }) => party === 'ns1' && type === TYPE.SOA)
    expect(soa.length).toBeLessThanOrEqual(300 / 15 + 2)
  })
})

describe('resolvers that are in order', () => {
  test('one that gives one of several intended addresses at a time', async () => {
    const s = new Scenario('www A 192.0.2.10\nwww A 192.0.2.11\nwww A 192.0.2.12', { turns: true })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'confirmed', verdicts: { resolver: 'as-intended' } })
    // Look alike and are not: one that always gives the same, and one that gives another, too.
    const t = both(new Scenario('www A 192.0.2.10\nwww A 192.0.2.11')).answersItself('resolver', 'www A 192.0.2.10')
    expect((await t.confirm())['www A']!.verdicts).toMatchObject({ resolver: 'different' })
    const u = new Scenario('www A 192.0.2.10\nwww A 192.0.2.66', { turns: true }).asks(NAME, 'A')
    both(u.intends('www A 192.0.2.10\nwww A 192.0.2.11'))
    expect((await u.confirm())['www A']!.status).toBe('settling')
  })

  test('a denial whose SOA record has a TTL of its own, above the minimum', async () => {
    const s = new Scenario('ftp A 192.0.2.9', { floor: 5000 }).asks(NAME, 'A')
    both(s.intends(`${WWW}\nftp A 192.0.2.9`)).passes(10)
    const www = (await s.confirm())['www A']!
    expect(www).toMatchObject({ status: 'settling', causes: [], verdicts: { resolver: 'absent' } })
    expect(www.set.answers[2]!.ttl).toBeGreaterThan(4900)
  })
})

describe('signatures', () => {
  const signed = async (from: number, until: number) => {
    const s = new Scenario(WWW)
    for (const who of ['ns1', 'ns2'] as const) s.ails(who, { signed: { from: s.now + from, until: s.now + until } })
    return s.confirm({ parents: [] })
  }
  test.each([
    ['hold', -10, DAY + 60, 'confirmed', []],
    ['end within a day', -10, DAY - 60, 'confirmed', ['signature', 'signature']],
    ['expired', -DAY, -1, 'wrong', ['signature', 'signature']],
    ['hold only from later on', 60, 9 * DAY, 'wrong', ['signature', 'signature']],
    ['hold, from now on', -1, 9 * DAY, 'confirmed', []],
  ])('that %s', async (_what, from, until, word, remarks) => {
    const seen = await signed(from, until)
    expect([seen['www A']!.status, seen.remarks]).toEqual([word, remarks])
  })

  test('nobody validates where the parent zone has no DS record', async () => {
    const s = new Scenario(WWW).ails('ns1', { signed: { from: START - DAY, until: START - 60 } })
    s.network.server('198.51.100.1', s.plan().zones)
    const asking = s.asking()
    const { ask } = asking
    for (const [ds, word] of [
      [false, 'confirmed'],
      [true, 'wrong'],
    ] as const) {
      s.asking = () => ({
        ...asking,
        ask: async (party, name, type, how) => {
          const came = await ask(party, name, type, how)
          if (type !== TYPE.DS) return came
          const record = { owner: name, type, class: 1, ttl: 60, data: new Uint8Array(36) }
          return { ...came, message: { ...came.message!, rcode: 0, authoritative: true, answers: ds ? [record] : [] } }
        },
      })
      expect((await s.confirm())['www A']!.status).toBe(word)
    }
  })
})

describe('follow', () => {
  const follows = [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }]
  const scenario = (top: string, site: string): Scenario => {
    const s = new Scenario(`@ 600 A ${top}\nsite 60 A ${site}`)
    s.around = { follows }
    return s
  }
  test('what it wrote is intended, and was', async () => {
    const s = scenario('192.0.2.80', '192.0.2.80')
    expect((await s.confirm())['@ A']!.status).toBe('confirmed')
    expect(JSON.stringify(s.log)).toContain('["hollowmere.example.","A"')
    s.asks('hollowmere.example', 'A').passes(100)
    both(s.intends('@ 600 A 192.0.2.81\nsite 60 A 192.0.2.81'))
    expect((await s.confirm())['@ A']).toMatchObject({
      status: 'settling',
      until: 601,
      verdicts: { resolver: 'earlier-answer' },
    })
    s.passes(700)
    expect((await s.confirm())['@ A']!.status).toBe('confirmed')
  })

  test('one that drifted is named as that, whether the servers follow by themselves or not', async () => {
    const s = scenario('192.0.2.80', '192.0.2.81')
    expect((await s.confirm())['@ A']).toMatchObject({
      status: 'wrong',
      causes: ['follow-drifted'],
      verdicts: { ns1: 'as-intended' },
    })
    for (const who of ['ns1', 'ns2'] as const)
      s.serves(who, { body: '@ 60 A 192.0.2.81\nsite 60 A 192.0.2.81', serial: 1 })
    expect((await s.confirm())['@ A']).toMatchObject({
      status: 'wrong',
      causes: ['follow-drifted'],
      verdicts: { ns1: 'as-intended' },
    })
    // Looks alike and is not: other addresses than those of either.
    for (const who of ['ns1', 'ns2'] as const)
      s.serves(who, { body: '@ 600 A 192.0.2.99\nsite 60 A 192.0.2.81', serial: 1 })
    expect((await s.confirm())['@ A']!.verdicts).toMatchObject({ ns1: 'different' })
  })

  test('a family that a follow took away may be in caches', async () => {
    const s = new Scenario('@ 600 A 192.0.2.80\n@ 600 AAAA 2001:db8::80\nsite 60 A 192.0.2.80')
    s.around = { follows }
    s.asks('hollowmere.example', 'AAAA')
    both(s.intends('@ 600 A 192.0.2.80\nsite 60 A 192.0.2.80'))
    expect((await s.confirm())['@ AAAA']).toMatchObject({
      status: 'settling',
      verdicts: { resolver: 'earlier-answer' },
    })
  })
})

describe('times', () => {
  const timed = (s: Scenario, type: number, owner: string) => {
    const { zones, zone, earlier, memory } = s.plan()
    return timingOf({ zones, zone, earlier, memory, now: s.now, to: 300, only: { owner, type } }).sets[0]!
  }
  test('the parent’s NS TTL counts for the NS set, and an earlier delegation for every set', async () => {
    const s = new Scenario(WWW)
    await s.confirm()
    // As long as the parent zone has its records.
    expect(timed(s, TYPE.NS, 'hollowmere.example.')).toMatchObject({ ttl: 3600, held: DAY, throughBy: s.now + DAY + 1 })
    expect(timed(s, TYPE.A, `${NAME}.`)).toMatchObject({ held: 3600, throughBy: s.now + 3601 })
    s.passes(10).intends('www A 192.0.2.11', '@ NS ns1.upland-dns.example.')
    s.delegates('@ NS ns1.upland-dns.example.')
    both(s)
    await s.confirm()
    expect(timed(s, TYPE.A, `${NAME}.`).throughBy).toBe(s.now + DAY + 3600 + 2)
    expect(timed(s, TYPE.NS, 'hollowmere.example.').under!.until).toBe(s.now + DAY + 1)
  })

  test('a change that is written before the high TTL is through takes as long as that', async () => {
    const s = both(new Scenario('www 3600 A 192.0.2.10').intends('www 60 A 192.0.2.10'))
    await s.confirm()
    s.passes(100)
    expect(timed(s, TYPE.A, `${NAME}.`)).toMatchObject({ changeAt: START + 3601 })
    s.intends('www 60 A 192.0.2.11')
    expect(timed(s, TYPE.A, `${NAME}.`)).toMatchObject({
      throughBy: START + 3601,
      under: { publishedAt: null, until: null, held: 60, notBefore: START + 3601 },
    })
    both(s).asks(NAME, 'A')
    await s.confirm()
    expect(timed(s, TYPE.A, `${NAME}.`).under!.until).toBe(START + 3601)
    s.passes(3501)
    expect(timed(s, TYPE.A, `${NAME}.`).under).toBeUndefined()
  })

  test('a log of a clock that was ahead counts as now', async () => {
    const s = both(new Scenario('www 600 A 192.0.2.10'))
    s.passes(DAY)
    await s.confirm()
    s.passes(-DAY).network.resolver(ADDRESS.resolver, [ADDRESS.parent])
    s.memory = new Memory(s.log, undefined, s.now)
    both(s.asks(NAME, 'A').intends('www 600 A 192.0.2.11')).passes(5)
    s.memory = new Memory(s.log, undefined, s.now)
    expect((await s.confirm())['www A']).toMatchObject({ status: 'settling', until: 601 })
    expect(timed(s, TYPE.A, `${NAME}.`).throughBy).toBeLessThanOrEqual(s.now + 601)
  })
})

describe('words', () => {
  test('of a primary that did not reply nothing is guessed', async () => {
    const s = new Scenario(WWW).intends('www A 192.0.2.11').ails('ns1', { silent: true })
    expect((await s.confirm())['www A']).toMatchObject({ status: 'unreachable', verdicts: { ns2: 'earlier-answer' } })
    // Looks alike and is not: the primary itself has not got it.
    s.ails('ns1', {}).ails('ns2', { silent: true })
    expect((await s.confirm())['www A']!.status).toBe('not-published')
  })

  test('a removed set is still answered; it is not had', async () => {
    const s = new Scenario(`${WWW}\nftp A 192.0.2.20`).asks(NAME, 'A').intends('ftp A 192.0.2.20')
    const before = (await s.confirm())['www A']!
    expect([before.status, before.says]).toEqual([
      'not-published',
      expect.stringMatching(/^removed, but .* still answer/),
    ])
    both(s)
    const after = (await s.confirm())['www A']!
    expect([after.status, after.says]).toEqual([
      'settling',
      expect.stringMatching(/^no authoritative server answers with it any more/),
    ])
    expect(`${before.says}${after.says}`).not.toMatch(/ha(ve|s) it/)
  })
})
