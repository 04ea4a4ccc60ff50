/** confirm and timing as people call them, against the stand-in's network on loopback. */
import { spawn } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { describe, expect, test } from 'vitest'
import { HEAD, run } from './program.ts'
import { world, ZONE } from './world.ts'

describe('confirm', () => {
  test('with a column a vantage where they fit, serials side by side, and the parent’s delegation', async () => {
    const { folder, load, port } = await world('www A 192.0.2.10\n*.piers A 192.0.2.11\n')
    const { status, stdout } = await run(folder, 'confirm')
    expect(status).toBe(0)
    expect(stdout).toMatch(/server +ns1\.upland-dns\.example +127\.0\.0\.1 port \d+ +serial 2026010101/)
    expect(stdout).toMatch(
      / +ns1\.upland-dns\.example +ns2\.upland-dns\.example +lake\nwww A +✓ as-intended +✓ as-intended +✓ as-intended/,
    )
    expect(stdout).toContain('All 2 record sets are confirmed by all 3 servers and resolvers asked.')
    const json = (await run(folder, 'confirm', '--json')).json()
    expect(json.zones[0]).toMatchObject({
      intended: { soa: { serial: 2026010101 }, ns: ['ns1.upland-dns.example.', 'ns2.upland-dns.example.'] },
      parents: [{ vantage: 'parent ns.registry.example', ns: ['ns1.upland-dns.example.', 'ns2.upland-dns.example.'] }],
      remarks: [],
    })
    const servers = await run(
      folder,
      'confirm',
      '--only-authoritative',
      '--at',
      'lake',
      '--at',
      `127.0.0.1:${port('203.0.113.53')}`,
      '--json',
    )
    expect([servers.status, servers.json().vantages.map((each: any) => [each.address, each.role])]).toEqual([
      0,
      [['127.0.0.1', 'authoritative']],
    ])
    // The same serial, and a record more behind everybody's back.
    load('203.0.113.53', `${HEAD}www A 192.0.2.10\nwww A 192.0.2.66\n*.piers A 192.0.2.11\n`)
    const split = await run(folder, 'confirm', `www.${ZONE}`)
    expect(split.status).toBe(1)
    expect(split.stdout).toMatch(
      /✗ split {2}www\.hollowmere\.example\. A\n {2}ns2\.upland-dns\.example has the same serial 2026010101 as ns1/,
    )
    expect(split.stdout).toContain('received: 192.0.2.66')
    expect(
      (await run(folder, 'confirm', '--only-authoritative', '--json')).json().vantages.map((each: any) => each.role),
    ).toEqual(['authoritative', 'authoritative'])
  })

  test('many sets: counted, with a row a problem', async () => {
    const hosts = (from: number, to: number, net: string): string =>
      Array.from({ length: to - from }, (_, i) => `h${from + i} A ${net}.${(from + i) % 250}\n`).join('')
    const { folder, load } = await world(hosts(0, 300, '192.0.2'), ['authoritative'])
    for (const address of ['198.51.100.53', '203.0.113.53'])
      load(address, HEAD + hosts(0, 250, '192.0.2') + hosts(250, 300, '198.51.100'))
    const { status, stdout } = await run(folder, 'confirm')
    expect(status).toBe(1)
    expect(stdout).toContain('✓ confirmed  250 sets (--all lists them)')
    expect(stdout.match(/^✗ wrong {2}h\d+\.hollowmere\.example\. A$/gm)).toHaveLength(15)
    expect(stdout.match(/^✗ wrong {2}h\d+\.hollowmere\.example\. A {2}the authoritative/gm)).toHaveLength(35)
  })

  test('what is settling ends with 4, what cannot be reached with 3, and both are in the log', async () => {
    const { folder, network, published, asks } = await world('www 600 A 192.0.2.10\n')
    expect((await run(folder, 'confirm')).status).toBe(0)
    await asks('www', 1)
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
    expect((await run(folder, 'confirm')).stdout).toContain('Next: publish the zone file on the primary server')
    published()
    const settling = await run(folder, 'confirm')
    expect([settling.status, settling.stdout.replace(/\s+/g, ' ')]).toEqual([
      4,
      expect.stringMatching(/still has the earlier answer, which is gone by .* UTC at most/),
    ])
    const again = await run(folder, 'confirm', '--json')
    expect(again.json().sets[0]).toMatchObject({
      status: 'settling',
      atMost: false,
      says: expect.stringContaining('all authoritative servers have it since'),
    })
    network.ails('203.0.113.53', { silent: true })
    const silent = await run(folder, 'confirm', '--timeout', '1')
    expect([silent.status, silent.stdout]).toEqual([
      3,
      expect.stringContaining('? unreachable  www.hollowmere.example. A'),
    ])
    const lines = readFileSync(join(folder, 'log.jsonl'), 'utf8')
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line))
    expect(lines.map(({ what, counts }) => [what, counts && Object.keys(counts)[0]])).toEqual([
      ['published', undefined],
      ['confirmation', 'confirmed'],
      ['change', undefined],
      ['confirmation', 'not-published'],
      ['published', undefined],
      ['confirmation', 'settling'],
      ['confirmation', 'settling'],
      ['confirmation', 'unreachable'],
    ])
    expect(lines.at(-1).open[0]).toMatchObject({
      owner: `www.${ZONE}.`,
      type: 'A',
      verdicts: { 'ns2.upland-dns.example': 'no-reply' },
    })
  })

  test('servers without an address do not answer, and resolvers are not asked before they do', async () => {
    const { folder } = await world('www A 192.0.2.10\n')
    const file = join(folder, 'bramblefront.yaml')
    const yaml = readFileSync(file, 'utf8')
    writeFileSync(file, yaml.replace(/^ {2}- \{name: ns[12].*\n/gm, ''))
    const zone = join(folder, 'zones', `${ZONE}.zone`)
    writeFileSync(zone, readFileSync(zone, 'utf8').replaceAll(/ns([12])\.upland-dns\.example/g, 'ns$1.nowhere.example'))
    const { status, stdout } = await run(folder, 'confirm', '--timeout', '1')
    // The parent zone delegates to the others.
    expect([status, stdout]).toEqual([
      1,
      expect.stringMatching(/✗ the parent zone delegates to ns1\.upland-dns\.example, ns2/),
    ])
    expect(stdout).toMatch(/server +ns1\.nowhere\.example +no address is known for it/)
    expect(stdout).toMatch(/\? unreachable {2}www\.hollowmere\.example\. A/)
    // A resolver that is named alone is asked no earlier, but for those who insist.
    const whom = async (...more: string[]) =>
      (await run(folder, 'confirm', '--at', 'lake', '--json', '--timeout', '1', ...more))
        .json()
        .sets[0].answers.map(({ vantage, verdict }: any) => `${vantage} ${verdict}`)
    expect(await whom()).toEqual(['ns1.nowhere.example no-reply', 'ns2.nowhere.example no-reply'])
    expect(await whom('--early')).toEqual(['lake as-intended'])
  })

  test('what came from outside cannot move the terminal', async () => {
    const { folder, load } = await world('@ TXT "ferry-proof=1"\n', ['authoritative'])
    for (const address of ['198.51.100.53', '203.0.113.53'])
      load(address, `${HEAD}@ TXT "\\027[31m\\226\\128\\174red"\n`)
    const { stdout } = await run(folder, 'confirm')
    expect(stdout).not.toMatch(/[\u001b\u202e]/)
    expect(stdout).toContain('\\027[31m')
  })
})

describe('confirm --watch', () => {
  test('without a terminal: one line a change, until all is confirmed', async () => {
    const { folder, published, asks } = await world('www 15 A 192.0.2.10\n')
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11', '--ttl', '60')
    // Asked last, so that a slow machine sees the earlier answer, too.
    await asks('www', 1)
    published()
    const { status, stdout } = await run(folder, 'confirm', '--watch', '--deadline', '1m')
    expect(status).toBe(0)
    const changes = stdout.split('\n').filter((line) => /^\d{4}-\d\d-\d\dT[\d:]+Z /.test(line))
    expect(changes[0]).toMatch(
      /Z {2}settling {2}www\.hollowmere\.example\. A {2}all authoritative servers have it; lake still has the earlier answer/,
    )
    expect(changes[1]).toMatch(/Z {2}0 of 1 confirmed; next at /)
    expect(changes[2]).toMatch(/Z {2}confirmed {2}www\.hollowmere\.example\. A/)
    expect(stdout).toContain('The record set is confirmed by all 3 servers and resolvers asked.')
  })

  test('interrupted, it leaves the summary', async () => {
    const { folder } = await world('www A 192.0.2.10\n')
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
    const child = spawn(process.execPath, [resolve('dist/bramblefront.js'), 'confirm', '--watch'], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    let stdout = ''
    child.stdout.setEncoding('utf8').on('data', (text) => {
      if (!stdout.includes('next at') && (stdout + text).includes('next at')) child.kill('SIGINT')
      stdout += text
    })
    const status = await new Promise((done) => child.on('close', done))
    expect([status, stdout]).toEqual([1, expect.stringContaining('0 of 1 set confirmed; 1 not published.')])
  })
})

describe('timing', () => {
  test('before a change: what to lower, until when to wait; after one: when the last cache lets go', async () => {
    const { folder, published } = await world('www 7200 A 192.0.2.10\nftp 60 A 192.0.2.12\n')
    const before = (await run(folder, 'timing', ZONE, 'www', 'A', '--json')).json()
    const at = Date.parse(before.at)
    const [set] = before.sets
    expect(set).toMatchObject({ ttl: 7200, held: 7200, underWay: null, lower: { to: 300 } })
    expect([Date.parse(set.lower.changeAt) - at, Date.parse(set.lower.throughBy) - at]).toEqual([7_201_000, 7_502_000])
    expect((await run(folder, 'timing', ZONE, 'www', 'A')).stdout).toMatch(/lower its TTL to 5 min/)
    expect((await run(folder, 'timing', ZONE, 'ftp', 'A')).stdout).toContain('the TTL is already low')
    expect((await run(folder, 'timing', ZONE, 'new', 'A')).stdout).toMatch(
      /does not exist\.\s[^.]*negative\s+answer\s+for\s+60\s+min/,
    )
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11', '--ttl', '300')
    expect((await run(folder, 'timing', ZONE)).stdout).toMatch(
      /In progress:\n +www\.hollowmere\.example\. A +not yet at all servers +then 2 h/,
    )
    published()
    await run(folder, 'confirm')
    // A day is named where it is another, so lines break elsewhere late in the evening.
    const after = (await run(folder, 'timing', ZONE, 'www', 'A')).stdout.replace(/\s+/g, ' ')
    expect(after).toMatch(/all servers have it since .* UTC\. The last cache expires by .* UTC, in 2 h\./)
    // Who changes it once more now waits for those who never heard of this change, too.
    const once = (await run(folder, 'timing', ZONE, 'www', 'A', '--json')).json().sets[0]
    expect(once.throughBy).toBe(once.underWay.until)
    for (const [args, message] of [
      [['timing', ZONE, 'www'], /give the type as well/],
      [['timing', `www.${ZONE}`], /is a name in hollowmere\.example/],
      [['timing', ZONE, 'www', 'NONSENSE'], /NONSENSE” is not a record type/],
    ] as const)
      expect(await run(folder, ...args)).toMatchObject({ status: 2, stderr: expect.stringMatching(message) })
  })
})
