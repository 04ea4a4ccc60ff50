import { afterEach, describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { parseVantage, reachedAt, vantageOf } from '../../src/core/confirm/vantage.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import { Asker } from '../../src/net/ask.ts'
import { ServerFinder } from '../../src/net/authorities.ts'
import { systemVantages } from '../../src/net/system.ts'
import { Network, serveNetwork } from '../../src/sim/network.ts'

const open: { close(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.close()
})

async function resolver(): Promise<Asker> {
  const network = new Network(() => 0)
  const texts = {
    example:
      '$TTL 60\n@ SOA ns.registry h 1 2 3 4 5\n@ NS ns.registry\n@ NS also.registry\nns.registry A 198.51.100.1\nalso.registry A 198.51.100.2\nns1.upland-dns A 198.51.100.53\nns1.upland-dns AAAA 2001:db8::53',
  }
  network.server('198.51.100.1', exampleZones({ whole: true, zones: texts }))
  network.resolver('192.0.2.3', ['198.51.100.1'])
  const served = await serveNetwork(network)
  open.push(served)
  const asker = new Asker({ label: 'r', address: '127.0.0.1', port: served.ports.get('192.0.2.3')!.port }, CLOCK, {
    limitMs: 1000,
  })
  open.push(asker)
  return asker
}
const zones = (lines: string) =>
  exampleZones({ whole: true, zones: { 'hollowmere.example': `$TTL 60\n@ SOA ns1 h 1 2 3 4 5\n${lines}` } })

describe('the servers of a zone', () => {
  test('by addresses in the zone, by the table, by asking; those of the parent zone too', async () => {
    const kept = zones(
      '@ NS ns0\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\n@ NS gone.upland-dns.example.\nns0 A 192.0.2.53',
    )
    const found = await new ServerFinder(
      kept,
      [{ name: 'NS2.upland-dns.example', address: '127.0.0.1', port: 5300 }],
      [await resolver()],
    ).serversOf(kept.zones[0]!)
    expect(found.servers.map(({ label, address, port }) => [label, address, port])).toEqual([
      ['ns0.hollowmere.example', '192.0.2.53', 53],
      ['ns1.upland-dns.example 198.51.100.53', '198.51.100.53', 53],
      ['ns1.upland-dns.example 2001:db8::53', '2001:db8::53', 53],
      ['ns2.upland-dns.example', '127.0.0.1', 5300],
    ])
    expect(found.unfound).toEqual(['gone.upland-dns.example.'])
    expect(found.parents.map(({ label, address }) => [label, address])).toEqual([
      ['parent ns.registry.example', '198.51.100.1'],
      ['parent also.registry.example', '198.51.100.2'],
    ])
  })

  test('with nobody to ask, what is kept must do', async () => {
    const kept = zones('@ NS ns0\n@ NS ns1.upland-dns.example.\nns0 A 192.0.2.53')
    expect(await new ServerFinder(kept, [], []).serversOf(kept.zones[0]!)).toMatchObject({
      servers: [{ address: '192.0.2.53' }],
      parents: [],
      unfound: ['ns1.upland-dns.example.'],
    })
  })
})

test('resolvers of this machine, as it names them', () => {
  const named = ['192.0.2.1', '2001:db8::1%eth0', '192.0.2.1', '[2001:db8::2]:5300', 'nonsense']
  expect(systemVantages(named)).toEqual([
    { label: 'system 192.0.2.1', address: '192.0.2.1', port: 53, transport: 'udp' },
    { label: 'system 2001:db8::1', address: '2001:db8::1', port: 53, transport: 'udp' },
    { label: 'system [2001:db8::2]:5300', address: '2001:db8::2', port: 5300, transport: 'udp' },
  ])
  expect(systemVantages([])).toEqual([])
})

describe('a vantage from text', () => {
  test.each<[string, object | undefined]>([
    [
      '198.51.100.7 tls dns.larkpost.example',
      { address: '198.51.100.7', port: 853, transport: 'tls', name: 'dns.larkpost.example' },
    ],
    ['[2001:db8::7]:8853 tls', { address: '2001:db8::7', port: 8853, transport: 'tls' }],
    ['192.0.2.1:5300 tcp', { address: '192.0.2.1', port: 5300, transport: 'tcp' }],
    [
      'https://dns.northlight.example/dns-query{?dns}',
      {
        address: 'dns.northlight.example',
        name: 'dns.northlight.example',
        port: 443,
        transport: 'https',
        path: '/dns-query',
      },
    ],
    ['https://[2001:db8::1]:8443/q?a=1', { address: '2001:db8::1', port: 8443, path: '/q?a=1' }],
    ['https://somebody@dns.northlight.example/', undefined],
    ['http://dns.northlight.example/', undefined],
    ['192.0.2.1 tcp dns.larkpost.example', undefined],
    ['192.0.2.1 carrier-pigeon', undefined],
    ['192.0.2.1 tls a b', undefined],
    ['', undefined],
  ])('%s', (text, expected) =>
    expected
      ? expect(parseVantage(text)).toMatchObject({ label: text, ...expected })
      : expect(parseVantage(text)).toBeUndefined(),
  )

  test('as bramblefront.yaml has it, and how it is said where it is', () => {
    const made = vantageOf({
      label: 'hill',
      url: 'https://dns.northlight.example:8443/q',
      address: '127.0.0.1',
      authority: '/ca.pem',
    })!
    expect(made).toEqual({
      label: 'hill',
      address: '127.0.0.1',
      port: 8443,
      transport: 'https',
      name: 'dns.northlight.example',
      path: '/q',
      authority: '/ca.pem',
    })
    expect(reachedAt(made)).toBe('127.0.0.1 port 8443 over HTTPS as dns.northlight.example')
    expect(vantageOf({ label: 'none' })).toBeUndefined()
  })
})

test('no faster than it is polite, and a dead one costs not every question its time', async () => {
  const network = new Network(() => 0)
  network.server('192.0.2.53', zones('@ NS ns0\nns0 A 192.0.2.53'))
  network.server('192.0.2.54', zones('@ NS ns0'), { silent: true })
  const served = await serveNetwork(network)
  open.push(served)
  const paced = new Asker({ label: 'p', address: '127.0.0.1', port: served.ports.get('192.0.2.53')!.port }, CLOCK, {
    rate: 20,
  })
  const dead = new Asker({ label: 'd', address: '127.0.0.1', port: served.ports.get('192.0.2.54')!.port }, CLOCK, {
    limitMs: 200,
    firstWaitMs: 20,
    inFlight: 4,
  })
  open.push(paced, dead)
  const started = Date.now()
  await Promise.all(Array.from({ length: 11 }, () => paced.ask('ns0.hollowmere.example.', 1)))
  expect(Date.now() - started).toBeGreaterThan(450)
  const all = await Promise.all(Array.from({ length: 40 }, () => dead.ask('ns0.hollowmere.example.', 1)))
  expect(all.every(({ trouble }) => trouble?.kind === 'no-reply')).toBe(true)
  expect(all.filter(({ tookMs }) => tookMs > 0).length).toBeLessThan(20)
  expect(all.at(-1)!.trouble!.detail).toMatch(/^no reply to the last \d+ queries, so this one was not sent$/)
})
