/** Verdicts at the edges, where nothing, or not all, is known: against real servers and caches with short times. */
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { parseType } from '../../src/core/records/types.ts'
import { Asker } from '../../src/net/ask.ts'
import { freePort } from '../../src/serve/free-port.ts'
import { folderWith, type Ran, run, runWith } from '../cli/program.ts'
import { knotd, mayskip, named, namedResolver, nsd, type RealServer, unbound } from './servers.ts'
import { started } from './started.ts'

const ZONE = 'hollowmere.example'
const text = (lines: string, serial = 1, timers = '7200 900 1209600 300'): string =>
  `$ORIGIN ${ZONE}.\n$TTL 600\n@ SOA ns1 hostmaster ${serial} ${timers}\n@ NS ns1\nns1 A 192.0.2.53\n${lines}\n`
const yaml = (server: { port: number }, resolver?: { port: number }, more = ''): string =>
  `zones: [zones/*.zone]\nvantages:\n  - authoritative\n${resolver ? `  - {label: lake, address: 127.0.0.1, port: ${resolver.port}}\n` : ''}servers:\n  - {name: ns1.${ZONE}, address: 127.0.0.1, port: ${server.port}}\n${more}`

/** A workspace with one zone, a server that has it, and a resolver that asks that one. */
async function workspace(lines: string, resolving: (port: number) => Promise<RealServer>, timers?: string) {
  const zone = text(lines, 1, timers)
  const folder = folderWith({ [`zones/${ZONE}.zone`]: zone, 'served.zone': zone })
  const served = join(folder, 'served.zone')
  const server = await started(named({ [ZONE]: served }))
  const resolver = await started(resolving(server.port))
  writeFileSync(join(folder, 'bramblefront.yaml'), yaml(server, resolver))
  const file = join(folder, 'zones', `${ZONE}.zone`)
  return {
    folder,
    file,
    served,
    server,
    resolver,
    confirm: (...args: string[]) => run(folder, 'confirm', ZONE, '--json', '--timeout', '2', ...args),
    /** The server has what the file says, or another text, and everybody waits until it does. */
    async publish(other = readFileSync(file, 'utf8')): Promise<void> {
      writeFileSync(served, other)
      server.reload()
      const serial = /SOA\s+\S+\s+\S+\s+(\d+)/.exec(other)![1]
      await until(async () => (await ask(server, '', 'SOA')).some((each) => each.includes(serial!)))
    },
  }
}

/** The values that somebody gets. */
async function ask({ port }: { port: number }, name: string, type: string): Promise<string[]> {
  const asker = new Asker({ label: 'somebody', address: '127.0.0.1', port }, CLOCK)
  const { message } = await asker.ask(`${name && `${name}.`}${ZONE}.`, parseType(type)!)
  asker.close()
  const { rdataText } = await import('../../src/core/records/rdata.ts')
  return (message?.answers ?? []).map(({ type: of, data }) => rdataText(of, data))
}

async function until(isSo: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 400; i++) {
    if (await isSo()) return
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error('never so')
}

const setOf = (ran: Ran, owner: string, type: string): any =>
  ran.json().sets.find((each: any) => each.owner === `${owner && `${owner}.`}${ZONE}.` && each.type === type)
const verdictAt = (set: any, vantage: string): string =>
  set.answers.find((each: any) => each.vantage === vantage).verdict

describe.skipIf(mayskip('named', 'nsd'))('a zone with nothing but SOA and NS', () => {
  const PARKED = `$TTL 600\n@ SOA ns1.upland-dns.example. h 1 7200 900 1209600 300\n@ NS ns1.upland-dns.example.\n`
  const parent = (child: string): string => `$TTL 600\n@ SOA ns h 1 2 3 4 5\n@ NS ns\nns A 192.0.2.1\n${child}`
  const at = async (server: { at: string }, file = PARKED): Promise<Ran> =>
    run(
      folderWith({ 'lakepass.example.zone': file }),
      'confirm',
      'lakepass.example.zone',
      '--at',
      server.at,
      '--json',
      '--timeout',
      '1',
    )

  test.each<[string, () => Promise<{ at: string }>, number, string]>([
    ['answers', () => started(named({ 'lakepass.example': join(folderWith({ z: PARKED }), 'z') })), 0, 'confirmed'],
    ['is silent', async () => ({ at: `127.0.0.1:${await freePort()}` }), 3, 'unreachable'],
    ['refuses', () => started(nsd({ 'hollowmere.example': join(folderWith({ z: PARKED }), 'z') })), 1, 'wrong'],
    [
      'fails',
      () => started(named({ ok: join(folderWith({ z: PARKED }), 'z'), 'lakepass.example': '/nowhere' })),
      1,
      'wrong',
    ],
    ['denies it', () => started(named({ example: join(folderWith({ z: parent('') }), 'z') })), 1, 'wrong'],
    [
      'delegates it',
      () => started(named({ example: join(folderWith({ z: parent('lakepass NS ns1.upland-dns\n') }), 'z') })),
      1,
      'wrong',
    ],
  ])('its server %s', async (_what, server, status, word) => {
    const ran = await at(await server())
    const [zone] = ran.json().zones
    expect([ran.status, zone.own.map((each: any) => `${each.type} ${each.status}`)]).toEqual([
      status,
      [`SOA ${word}`, `NS ${word}`],
    ])
    expect(ran.json().zoneCounts[word]).toBe(1)
  })

  test('an empty file is not well', async () => {
    const server = await started(named({ 'lakepass.example': join(folderWith({ z: PARKED }), 'z') }))
    expect((await at({ at: `127.0.0.1:${await freePort()}` }, '')).status).toBe(3)
    expect((await at(server, '; nothing yet\n')).status).not.toBe(0)
  })

  test('of many zones, those that a server does not answer for are counted', async () => {
    const served = Object.fromEntries(Array.from({ length: 20 }, (_, i) => [`z${i}.example`, PARKED]))
    const folder = folderWith({
      ...Object.fromEntries(Object.entries(served).map(([name, zone]) => [`zones/${name}.zone`, zone])),
      served: PARKED,
      // One has nothing in it.
      'zones/z18.example.zone': '',
    })
    const server = await started(
      named(
        Object.fromEntries(
          Object.keys(served)
            .slice(0, 17)
            .map((name) => [name, join(folder, 'served')]),
        ),
      ),
    )
    writeFileSync(
      join(folder, 'bramblefront.yaml'),
      `zones: [zones/*.zone]\nvantages: [authoritative]\nservers:\n  - {name: ns1.upland-dns.example, address: 127.0.0.1, port: ${server.port}}\n`,
    )
    const ran = await run(folder, 'confirm')
    expect([ran.status, ran.stdout.replace(/\s+/g, ' ')]).toEqual([
      1,
      expect.stringMatching(/of 20 zones at their servers: 2 wrong, 1 unreachable/i),
    ])
  })
})

describe.skipIf(mayskip('named', 'unbound'))('what caches may have is not what one answer shows', () => {
  test('a wildcard that was changed, and removed, is through when timing says so', async () => {
    const w = await workspace('*.pier 5 A 192.0.2.10', (port) => unbound([ZONE], port))
    expect((await w.confirm()).status).toBe(0)
    await run(w.folder, 'write', 'address', `*.pier.${ZONE}`, '192.0.2.11')
    // It counts whole seconds, and still answers in the last one: what it gets at the beginning of one, it has for one more.
    await until(async () => Date.now() % 1000 < 100)
    await ask(w.resolver, 'a.pier', 'A')
    await w.publish()
    const settling = await w.confirm()
    const timing = (await run(w.folder, 'timing', ZONE, `*.pier`, 'A', '--json')).json().sets[0]
    expect([settling.status, setOf(settling, '*.pier', 'A')]).toMatchObject([
      4,
      {
        status: 'settling',
        until: timing.underWay.until,
        answers: [{ verdict: 'as-intended' }, { verdict: 'as-intended' }],
      },
    ])
    expect(await ask(w.resolver, 'a.pier', 'A')).toEqual(['192.0.2.10'])
    await until(async () => (await w.confirm()).status === 0)
    expect(await ask(w.resolver, 'a.pier', 'A')).toEqual(['192.0.2.11'])
    await run(w.folder, 'remove', `*.pier.${ZONE}`, 'A')
    await w.publish()
    expect(setOf(await w.confirm(), '*.pier', 'A')).toMatchObject({ removed: true, status: 'settling' })
    await until(async () => (await w.confirm()).status === 0)
    expect(await ask(w.resolver, 'a.pier', 'A')).toEqual([])
  })

  test.each<[string, (port: number) => Promise<RealServer>]>([
    ['Unbound, cache-min-ttl', (port) => unbound([ZONE], port, ['cache-min-ttl: 900'])],
    ['named, min-ncache-ttl', (port) => namedResolver([ZONE], port, ['min-ncache-ttl 90; min-cache-ttl 90;'])],
  ])('a denial that is kept for longer than the zone’s minimum is an earlier answer: %s', async (_what, resolving) => {
    // The zone's own minimum is far below what is left of the denial.
    const w = await workspace('www A 192.0.2.10', resolving, '7200 900 1209600 5')
    await ask(w.resolver, 'new', 'A')
    await run(w.folder, 'write', 'address', `new.${ZONE}`, '192.0.2.11')
    await w.publish()
    const set = setOf(await w.confirm(), 'new', 'A')
    expect(set).toMatchObject({ status: 'settling', causes: [] })
    expect(set.answers.at(-1).ttl).toBeGreaterThan(60)
  })

  test('two runs of a new workspace do not contradict one another', async () => {
    const w = await workspace('www A 192.0.2.10', (port) => unbound([ZONE], port))
    await ask(w.resolver, 'www', 'A')
    // Nobody here knows what was before: the workspace begins with what the server has now.
    writeFileSync(w.file, text('www A 192.0.2.11', 2))
    await w.publish()
    const first = await w.confirm()
    const second = await w.confirm()
    const third = await w.confirm()
    expect([first, second, third].map((ran) => [ran.status, setOf(ran, 'www', 'A').status])).toEqual(
      Array.from({ length: 3 }, () => [4, 'settling']),
    )
    expect(readFileSync(join(w.folder, 'log.jsonl'), 'utf8')).toContain('"settling"')
  })

  test('a resolver that is named alone is asked when the servers have it, and not before', async () => {
    const w = await workspace('www A 192.0.2.10', (port) => unbound([ZONE], port))
    await run(w.folder, 'write', 'address', `new.${ZONE}`, '192.0.2.11', '--ttl', '60')
    const before = await w.confirm('--at', 'lake')
    expect([before.status, setOf(before, 'new', 'A')]).toMatchObject([1, { status: 'not-published' }])
    expect(setOf(before, 'new', 'A').answers.map((each: any) => each.vantage)).toEqual([`ns1.${ZONE}`])
    await w.publish()
    const after = await w.confirm('--at', 'lake')
    expect(verdictAt(setOf(after, 'new', 'A'), 'lake')).toBe('as-intended')
  })
})

describe.skipIf(mayskip('named', 'unbound'))('resolvers that are in order', () => {
  test.each<[string, (port: number) => Promise<RealServer>]>([
    [
      'Unbound, well-known prefix',
      (port) => unbound([ZONE], port, ['module-config: "dns64 iterator"', 'dns64-prefix: 64:ff9b::/96']),
    ],
    [
      'named, a prefix of its own',
      (port) => namedResolver([ZONE], port, ['dns64 2001:db8:64::/96 { clients { any; }; };']),
    ],
  ])('DNS64 makes addresses of the intended ones: %s', async (_what, resolving) => {
    const w = await workspace(
      'www A 192.0.2.10\nwww 1 AAAA 2001:db8::10\nother A 192.0.2.20\nother 1 AAAA 2001:db8::20',
      resolving,
    )
    await run(w.folder, 'remove', `www.${ZONE}`, 'AAAA')
    await run(w.folder, 'remove', `other.${ZONE}`, 'AAAA')
    await w.publish()
    expect((await ask(w.resolver, 'www', 'AAAA')).length).toBe(1)
    await until(async () => setOf(await w.confirm(), 'www', 'AAAA').status !== 'settling')
    const ran = await w.confirm()
    expect(setOf(ran, 'www', 'AAAA')).toMatchObject({ status: 'confirmed' })
    expect(setOf(ran, 'www', 'AAAA').answers.at(-1).notes.join()).toMatch(/DNS64/)
  })

  test('looks alike and is not: another address in that prefix', async () => {
    const w = await workspace('www A 192.0.2.10\nwww 1 AAAA 2001:db8::10', (port) =>
      unbound([ZONE], port, [
        `local-zone: "${ZONE}." transparent`,
        `local-data: "www.${ZONE}. 300 AAAA 64:ff9b::203.0.113.66"`,
      ]),
    )
    await run(w.folder, 'remove', `www.${ZONE}`, 'AAAA')
    await w.publish()
    expect(setOf(await w.confirm(), 'www', 'AAAA').status).toBe('wrong')
  })

  test('an answer that had expired, and was fetched anew in between', async () => {
    const w = await workspace('www 1 A 192.0.2.10', (port) =>
      unbound([ZONE], port, [
        'serve-expired: yes',
        'serve-expired-client-timeout: 0',
        'ede: yes',
        'ede-serve-expired: yes',
      ]),
    )
    await ask(w.resolver, 'www', 'A')
    await run(w.folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
    await w.publish()
    await new Promise((resolve) => setTimeout(resolve, 1500))
    const set = setOf(await w.confirm(), 'www', 'A')
    expect([set.status, verdictAt(set, 'lake')]).toEqual(['confirmed', 'as-intended'])
  })
})

describe.skipIf(mayskip('named', 'unbound'))('what leads out of the zones', () => {
  const LINES = 'shop CNAME gone.larkpost.example.\nmail MX 10 mx.quillwing.example.\n'
  const resolving = async (folder: string): Promise<RealServer> => {
    const elsewhere = await started(named({ 'larkpost.example': join(folder, 'larkpost') }))
    // Of the other domain, nobody can say anything.
    return unbound(['larkpost.example'], elsewhere.port, ['local-zone: "quillwing.example." refuse'])
  }
  test('check --live says what it could not look up, and ends with 3', async () => {
    const folder = folderWith({
      [`${ZONE}.zone`]: text(LINES.replace('gone.', 'here.')),
      larkpost: `$TTL 600\n@ SOA a b 1 2 3 4 5\n@ NS ns\nns A 192.0.2.1\nhere A 192.0.2.2\n`,
    })
    const resolver = await started(resolving(folder))
    const check = (...args: string[]) =>
      run(folder, 'check', `${ZONE}.zone`, '--at', resolver.at, '--timeout', '1', ...args)
    const ran = await check('--json', '--only', 'live')
    expect([ran.status, ran.json().unanswered.map(({ name }: any) => name)]).toEqual([
      3,
      expect.arrayContaining(['mx.quillwing.example.']),
    ])
    expect(ran.json().unanswered.every(({ name }: any) => name.endsWith('quillwing.example.'))).toBe(true)
    expect((await check('--only', 'live')).stdout).toMatch(/mx\.quillwing\.example/)
    expect((await check('--only', 'live')).stdout).not.toMatch(/nothing found/)
    // Looks alike and is not: everything could be looked up.
    writeFileSync(join(folder, `${ZONE}.zone`), text('shop CNAME here.larkpost.example.\n'))
    expect((await check('--json', '--only', 'live')).status).toBe(0)
  })

  test('a target that does not exist ends confirm with 1', async () => {
    const folder = folderWith({
      [`${ZONE}.zone`]: text('shop CNAME gone.larkpost.example.\n'),
      larkpost: `$TTL 600\n@ SOA a b 1 2 3 4 5\n@ NS ns\nns A 192.0.2.1\n`,
    })
    const server = await started(
      named({ [ZONE]: join(folder, `${ZONE}.zone`), 'larkpost.example': join(folder, 'larkpost') }),
    )
    const resolver = await started(unbound([ZONE, 'larkpost.example'], server.port))
    const ran = await run(folder, 'confirm', `${ZONE}.zone`, '--at', server.at, '--at', resolver.at, '--json')
    expect([ran.status, ran.json().counts.confirmed, ran.json().nowhere.length]).toEqual([1, ran.json().sets.length, 1])
  })
})

describe.skipIf(mayskip('named', 'unbound', 'knotd'))('signatures', () => {
  const signed = readFileSync('test/fixtures/sound/signed/fell.example.zone', 'utf8')
  const ends = /^fell\.example\.\s+\d+ IN RRSIG\s+SOA \d+ \d+ \d+ (\d{14})/m.exec(signed)![1]!
  const end = Date.parse(ends.replace(/(....)(..)(..)(..)(..)(..)/, '$1-$2-$3T$4:$5:$6Z')) / 1000
  /** Confirms when so many seconds are left. */
  const ahead = (folder: string, left: number, ...args: string[]): Promise<Ran> =>
    runWith(
      folder,
      { BRAMBLEFRONT_AHEAD: String(end - left - Date.now() / 1000) },
      'confirm',
      'fell.example.zone',
      ...args,
    )
  test.each(['named', 'knotd'] as const)('that expired, or end within a day, at %s', async (program) => {
    const folder = folderWith({ 'fell.example.zone': signed })
    const server = await started(
      (program === 'named' ? named : knotd)({ 'fell.example': join(folder, 'fell.example.zone') }),
    )
    const remarks = (ran: Ran): unknown[] => ran.json().zones[0].remarks.filter(({ what }: any) => what === 'signature')
    const well = await ahead(folder, 90_000, '--at', server.at, '--json')
    expect([well.status, remarks(well)]).toEqual([0, []])
    const soon = await ahead(folder, 80_000, '--at', server.at, '--json')
    expect([soon.status, remarks(soon)]).toMatchObject([1, [{ wrong: true }]])
    expect(soon.json().counts.wrong).toBe(0)
    const expired = await ahead(folder, -60, '--at', server.at, '--json')
    expect([expired.status, remarks(expired), expired.json().counts.confirmed]).toMatchObject([1, [{ wrong: true }], 0])
  })

  test('that do not hold are one block with its cause and the fix', async () => {
    const folder = folderWith({ 'fell.example.zone': signed, expired: signed, other: text('') })
    const server = await started(named({ [ZONE]: join(folder, 'other'), 'fell.example': join(folder, 'expired') }))
    const key = /^fell\.example\.\s+3600 IN (DNSKEY\s+257 .*)$/m.exec(signed)![1]
    const validating = await started(
      unbound([ZONE, 'fell.example'], server.port, [
        `trust-anchor: "fell.example. ${key}"`,
        'ede: yes',
        'val-log-level: 0',
        `val-override-date: "${Number(ends.slice(0, 4)) + 1}${ends.slice(4)}"`,
      ]),
    )
    const ran = await ahead(folder, -86_400, '--at', server.at, '--at', validating.at)
    expect(ran.status).toBe(1)
    expect(ran.stdout.match(/Fix:/g)).toHaveLength(1)
    expect(ran.stdout).toMatch(/expired[\s\S]*Fix: +sign the zone again/)
    expect(ran.stdout.split('\n').length).toBeLessThan(60)
  })
})

describe.skipIf(mayskip('named', 'unbound'))('what follows a name', () => {
  const FRONT = (address: string, ttl = 3): string =>
    `$TTL 600\n@ SOA ns h ${address.split('.').at(-1)} 2 3 4 5\n@ NS ns\nns A 192.0.2.1\nsite ${ttl} A ${address}\n`
  async function following(ttl = 3) {
    const folder = folderWith({
      [`zones/${ZONE}.zone`]: text('www A 192.0.2.10'),
      'served.zone': text('www A 192.0.2.10'),
      front: FRONT('192.0.2.80', ttl),
    })
    const served = join(folder, 'served.zone')
    const server = await started(named({ [ZONE]: served, 'front.example': join(folder, 'front') }))
    const resolver = await started(unbound([ZONE, 'front.example'], server.port))
    writeFileSync(
      join(folder, 'bramblefront.yaml'),
      yaml(server, resolver, `  - {name: ns.front.example, address: 127.0.0.1, port: ${server.port}}\n`),
    )
    const file = join(folder, 'zones', `${ZONE}.zone`)
    const publish = async (): Promise<void> => {
      writeFileSync(served, readFileSync(file, 'utf8'))
      server.reload()
      const serial = /SOA\s+\S+\s+\S+\s+(\d+)/.exec(readFileSync(file, 'utf8'))![1]!
      await until(async () => (await ask(server, '', 'SOA')).some((each) => each.includes(serial)))
    }
    const moves = async (address: string): Promise<void> => {
      writeFileSync(join(folder, 'front'), FRONT(address))
      server.reload()
      const asker = new Asker({ label: 'front', address: '127.0.0.1', port: resolver.port }, CLOCK)
      await until(async () => {
        const { message } = await asker.ask('site.front.example.', 1)
        return message?.answers[0]?.data.at(-1) === Number(address.split('.').at(-1))
      })
      asker.close()
    }
    const confirm = () => run(folder, 'confirm', ZONE, '--json')
    const follow = (...args: string[]) => run(folder, 'follow', ...args, '--at', 'lake', '--yes', '--json')
    return { folder, file, resolver, publish, moves, confirm, follow }
  }

  test('is settling while caches hold the former address, and named where it drifted', async () => {
    const f = await following()
    expect((await f.follow(ZONE, 'site.front.example.')).status).toBe(0)
    // A follow keeps the TTL that there is.
    await run(f.folder, 'write', 'ttl', ZONE, '90', '--type', 'A')
    await f.publish()
    const first = await f.confirm()
    expect([first.status, setOf(first, '', 'A').status]).toEqual([0, 'confirmed'])
    const log = readFileSync(join(f.folder, 'log.jsonl'), 'utf8')
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line))
    expect(
      log.find(({ what }) => what === 'published').sets.map(([owner, type]: string[]) => `${owner} ${type}`),
    ).toContain(`${ZONE}. A`)
    await ask(f.resolver, '', 'A')
    await f.moves('192.0.2.81')
    const drifted = await f.confirm()
    expect([drifted.status, setOf(drifted, '', 'A').causes]).toMatchObject([
      1,
      [{ kind: 'follow-drifted', fix: expect.stringContaining('bramblefront follow') }],
    ])
    await ask(f.resolver, '', 'A')
    expect((await f.follow()).status).toBe(0)
    await f.publish()
    const settling = await f.confirm()
    expect([settling.status, setOf(settling, '', 'A').status]).toEqual([4, 'settling'])
    expect(verdictAt(setOf(settling, '', 'A'), 'lake')).toBe('earlier-answer')
  })

  test('gets the TTL that the target’s own servers have, not what a resolver has left of it', async () => {
    const f = await following(300)
    const asker = new Asker({ label: 'front', address: '127.0.0.1', port: f.resolver.port }, CLOCK)
    await until(async () => (await asker.ask('site.front.example.', 1)).message!.answers[0]!.ttl < 299)
    asker.close()
    expect((await f.follow(ZONE, 'site.front.example.')).status).toBe(0)
    expect(readFileSync(f.file, 'utf8')).toMatch(/@ 300 A 192\.0\.2\.80/)
  })
})

describe.skipIf(mayskip('named', 'nsd', 'unbound'))('times', () => {
  test('timing knows the TTL of before, and says when to change; confirm says the same', async () => {
    const w = await workspace('www 40 A 192.0.2.10', (port) => unbound([ZONE], port))
    const timing = async (): Promise<any> =>
      (await run(w.folder, 'timing', ZONE, 'www', 'A', '--json', '--lower-to', '5')).json().sets[0]
    expect((await w.confirm()).status).toBe(0)
    await ask(w.resolver, 'www', 'A')
    await run(w.folder, 'write', 'ttl', `www.${ZONE}`, '2')
    await w.publish()
    await w.confirm()
    // The low TTL is at all servers: now one has to wait until the high one is through.
    const lowered = await timing()
    const left = (Date.parse(lowered.changeAt) - Date.now()) / 1000
    expect(left).toBeGreaterThan(20)
    expect(left).toBeLessThanOrEqual(41)
    expect((await run(w.folder, 'timing', ZONE, 'www', 'A', '--lower-to', '5')).stdout).toMatch(
      /[Ww]ait until .*, then change it/,
    )
    // Written too early, the change takes as long as that all the same.
    await run(w.folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
    const early = await timing()
    expect((Date.parse(early.throughBy) - Date.now()) / 1000).toBeGreaterThan(15)
    await w.publish()
    const settling = setOf(await w.confirm(), 'www', 'A')
    const after = await timing()
    expect([settling.status, settling.until]).toEqual(['settling', after.underWay.until])
    expect(after.underWay.until.slice(0, 19)).toBe(lowered.changeAt.slice(0, 19))
  })

  test('a watch sees a secondary catch up, and never calls that split', async () => {
    const folder = folderWith({ 'served.zone': text('www 3 A 192.0.2.10\n@ NS ns2\nns2 A 192.0.2.54', 1, '2 1 600 5') })
    const served = join(folder, 'served.zone')
    const primary = await started(named({ [ZONE]: served }))
    const secondary = await started(nsd({ [ZONE]: join(folder, 'fetched.zone') }, { primary: primary.port }))
    const resolver = await started(unbound([ZONE], primary.port))
    writeFileSync(
      join(folder, 'bramblefront.yaml'),
      yaml(primary, resolver, `  - {name: ns2.${ZONE}, address: 127.0.0.1, port: ${secondary.port}}\n`),
    )
    await run(folder, 'adopt', 'served.zone')
    const file = join(folder, 'zones', `${ZONE}.zone`)
    await run(folder, 'confirm')
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
    const watching = run(folder, 'confirm', '--watch', '--deadline', '60s')
    await new Promise((resolve) => setTimeout(resolve, 600))
    writeFileSync(served, readFileSync(file, 'utf8'))
    primary.reload()
    const { status, stdout } = await watching
    expect([status, stdout]).toEqual([0, expect.not.stringMatching(/split|wrong|overdue/)])
    expect(readFileSync(join(folder, 'log.jsonl'), 'utf8')).not.toMatch(/"split"|"wrong"/)
  })
})
