/** Confirming against real servers: a primary and a secondary, a resolver, TLS and HTTPS, and what goes wrong with them. */

import { createSocket } from 'node:dgram'
import { cpSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { parseType } from '../../src/core/records/types.ts'
import { Asker } from '../../src/net/ask.ts'
import { freePort } from '../../src/serve/free-port.ts'
import { certificates } from '../certificates.ts'
import { folderWith, type Ran, run } from '../cli/program.ts'
import { mayskip, named, nsd, unbound } from './servers.ts'
import { running, started } from './started.ts'

const ZONE = 'hollowmere.example'
const text = (serial: number, lines: string): string =>
  `$ORIGIN ${ZONE}.\n$TTL 60\n@ SOA ns1 hostmaster ${serial} 3 2 600 5\n@ NS ns1\n@ NS ns2\nns1 A 192.0.2.53\nns2 A 192.0.2.54\n${lines}\n`
const where = (name: string, port: number): string => `  - {name: ${name}.${ZONE}, address: 127.0.0.1, port: ${port}}\n`

/** Status and verdicts of one set. */
function of(
  ran: Ran,
  owner: string,
  type: string,
): { status: string; verdicts: Record<string, string>; details: string } {
  const set = ran.json().sets.find((each: any) => each.owner === `${owner}.${ZONE}.` && each.type === type)
  return {
    status: set.status,
    verdicts: Object.fromEntries(set.answers.map((each: any) => [each.vantage.replace(`.${ZONE}`, ''), each.verdict])),
    details: set.answers.map((each: any) => each.detail).join('; '),
  }
}

async function until(what: string, ask: () => Promise<Ran>, isSo: (ran: Ran) => boolean): Promise<Ran> {
  for (let i = 0; i < 60; i++) {
    const ran = await ask()
    if (isSo(ran)) return ran
    await new Promise((resolve) => setTimeout(resolve, 250))
  }
  throw new Error(`never ${what}`)
}

/** What somebody asks a server. */
async function asks({ port }: { port: number }, name: string, type: string): Promise<void> {
  const asker = new Asker({ label: 'somebody', address: '127.0.0.1', port }, CLOCK)
  await asker.ask(`${name}.${ZONE}.`, parseType(type)!)
  asker.close()
}

describe.skipIf(mayskip('named', 'nsd', 'unbound', 'openssl'))(
  'named as primary, nsd as secondary, Unbound resolving',
  () => {
    test('a change on its way: not published, behind, settling, confirmed; and split where the serial was forgotten', async () => {
      const folder = folderWith({ 'served.zone': text(1, 'www 4 A 192.0.2.10\nold 600 A 192.0.2.9') })
      const served = join(folder, 'served.zone')
      const primary = await started(named({ [ZONE]: served }))
      const secondary = await started(nsd({ [ZONE]: join(folder, 'fetched.zone') }, { primary: primary.port }))
      const resolver = await started(unbound([ZONE], primary.port))
      writeFileSync(
        join(folder, 'bramblefront.yaml'),
        `zones: [zones/*.zone]\nvantages:\n  - authoritative\n  - {label: lake, address: 127.0.0.1, port: ${resolver.port}}\nservers:\n${where('ns1', primary.port)}${where('ns2', secondary.port)}`,
      )
      const file = join(folder, 'zones', `${ZONE}.zone`)
      await run(folder, 'adopt', 'served.zone')
      const confirm = (...args: string[]) => run(folder, 'confirm', ZONE, '--json', ...args)
      const first = await confirm()
      expect([first.status, first.json().counts.confirmed]).toEqual([0, first.json().sets.length])

      await asks(resolver, 'www', 'A')
      await asks(resolver, 'old', 'A')
      await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11', '--ttl', '4')
      await run(folder, 'remove', `old.${ZONE}`, 'A')
      const before = await confirm()
      expect([before.status, of(before, 'www', 'A')]).toMatchObject([
        1,
        { status: 'not-published', verdicts: { ns1: 'earlier-answer', ns2: 'earlier-answer' } },
      ])
      expect(of(before, 'old', 'A').status).toBe('not-published')

      cpSync(file, served)
      primary.reload()
      const behind = await until('behind', confirm, (ran) => of(ran, 'www', 'A').verdicts.ns1 === 'as-intended')
      // The secondary looks every two seconds; it may have been quick.
      if (of(behind, 'www', 'A').verdicts.ns2 !== 'as-intended')
        expect([behind.status, of(behind, 'www', 'A').status]).toEqual([4, 'settling'])
      const settling = await until('everywhere', confirm, (ran) => of(ran, 'www', 'A').verdicts.ns2 === 'as-intended')
      expect(of(settling, 'old', 'A')).toMatchObject({
        status: 'settling',
        verdicts: { ns1: 'as-intended', ns2: 'as-intended', lake: 'earlier-answer' },
      })
      expect(settling.status).toBe(4)
      const table = await run(folder, 'confirm', ZONE)
      expect(table.stdout).toMatch(/… settling {2}old\.hollowmere\.example\. A \(removed\)/)
      const through = await until(
        'through',
        () => confirm(),
        (ran) => of(ran, 'www', 'A').status === 'confirmed',
      )
      expect(of(through, 'www', 'A').verdicts.lake).toBe('as-intended')
      const log = readFileSync(join(folder, 'log.jsonl'), 'utf8')
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line))
      expect(
        log.filter(({ what }) => what === 'published').flatMap(({ sets }) => sets.map(([owner]: string[]) => owner)),
      ).toContain(`old.${ZONE}.`)
      expect(log.at(-1)).toMatchObject({
        what: 'confirmation',
        zone: `${ZONE}.`,
        vantages: [`ns1.${ZONE}`, `ns2.${ZONE}`, 'lake'],
      })

      // Changed at the primary by hand, without another serial: the secondary will not fetch it.
      writeFileSync(served, readFileSync(served, 'utf8').replace('192.0.2.11', '192.0.2.12'))
      writeFileSync(file, readFileSync(served, 'utf8'))
      await primary.stop()
      const again = await started(named({ [ZONE]: served }))
      writeFileSync(
        join(folder, 'bramblefront.yaml'),
        `zones: [zones/*.zone]\nvantages: [authoritative]\nservers:\n${where('ns1', again.port)}${where('ns2', secondary.port)}`,
      )
      const split = await confirm()
      expect([split.status, of(split, 'www', 'A').status]).toEqual([1, 'split'])
    })

    test('stale answer, a broken signature, a dead server: told apart at Unbound', async () => {
      const folder = folderWith({
        [`${ZONE}.zone`]: text(1, 'www 1 A 192.0.2.10'),
        'other.zone': text(2, 'www 1 A 192.0.2.11'),
      })
      const primary = await named({ [ZONE]: join(folder, `${ZONE}.zone`) })
      const stale = await started(
        unbound([ZONE], primary.port, [
          'serve-expired: yes',
          'serve-expired-client-timeout: 0',
          'ede: yes',
          'ede-serve-expired: yes',
        ]),
      )
      // To this one, the zone's server is one that does not have it.
      const elsewhere = await started(
        named({ 'lakepass.example': join(process.cwd(), 'demo/zones/lakepass.example.zone') }),
      )
      const plain = await started(unbound(['lakepass.example', ZONE], elsewhere.port, ['ede: yes']))
      await asks(stale, 'www', 'A')
      await primary.stop()
      await new Promise((resolve) => setTimeout(resolve, 2200))
      const ran = await run(folder, 'confirm', 'other.zone', '--at', stale.at, '--at', plain.at, '--early', '--json')
      const set = ran.json().sets.find((each: any) => each.owner === `www.${ZONE}.`)
      expect(set.answers.map((each: any) => [each.verdict, each.bogus])).toEqual([
        ['stale', undefined],
        ['failed', undefined],
      ])

      // One address changed behind its signature's back.
      const signed = readFileSync('test/fixtures/sound/signed/fell.example.zone', 'utf8')
      const broken = signed.replace(/^(fell\.example\.\s+3600 IN A\s+)\S+/m, '$1192.0.2.66')
      expect(broken).not.toBe(signed)
      const file = join(folderWith({ 'fell.example.zone': broken }), 'fell.example.zone')
      const server = await started(named({ 'fell.example': file }))
      const key = /^fell\.example\.\s+3600 IN (DNSKEY\s+257 .*)$/m.exec(signed)![1]
      const validating = await started(
        unbound(['fell.example'], server.port, [
          `trust-anchor: "fell.example. ${key}"`,
          'ede: yes',
          'val-log-level: 0',
        ]),
      )
      const bogus = (await run(folder, 'confirm', file, '--at', server.at, '--at', validating.at, '--json')).json()
      const address = bogus.sets.find((each: any) => each.owner === 'fell.example.' && each.type === 'A')
      expect(address.status).toBe('wrong')
      expect(address.answers.map((each: any) => [each.verdict, each.bogus])).toEqual([
        ['as-intended', undefined],
        ['failed', true],
      ])
      expect(address.answers[1].detail).toMatch(/the signatures are broken, not the server/)
      // What signing makes is the server's matter.
      expect(bogus.sets.some((each: any) => /RRSIG|DNSKEY|NSEC/.test(each.type))).toBe(false)
    })

    test('over TLS and HTTPS, at named and at Unbound', async () => {
      const made = certificates('dns.larkpost.example')
      const folder = folderWith({ [`${ZONE}.zone`]: text(1, 'www A 192.0.2.10') })
      const server = await started(named({ [ZONE]: join(folder, `${ZONE}.zone`) }, made))
      const resolver = await started(unbound([ZONE], server.port, [], made))
      const yaml = ([label, ports]: [string, Record<string, number>]): string =>
        [
          `  - {label: ${label}-tls, address: 127.0.0.1, port: ${ports.tls}, transport: tls, name: dns.larkpost.example, authority: ${made.authority}}`,
          `  - {label: ${label}-post, url: "https://dns.larkpost.example:${ports.https}/dns-query", address: 127.0.0.1, authority: ${made.authority}}`,
          `  - {label: ${label}-get, url: "https://dns.larkpost.example:${ports.https}/dns-query", address: 127.0.0.1, method: get, authority: ${made.authority}}`,
          `  - {label: ${label}-untrusted, address: 127.0.0.1, port: ${ports.tls}, transport: tls, name: dns.larkpost.example}\n`,
        ].join('\n')
      writeFileSync(
        join(folder, 'bramblefront.yaml'),
        `zones: ["*.zone"]\nvantages:\n${yaml(['named', server.ports])}${yaml(['unbound', resolver.ports])}`,
      )
      const good = ['named-tls', 'named-post', 'named-get', 'unbound-tls', 'unbound-post', 'unbound-get']
      const { status, json } = await run(folder, 'confirm', ZONE, '--json', ...good.flatMap((label) => ['--at', label]))
      expect([status, json().vantages.map((each: any) => [each.label, each.transport, each.role])]).toEqual([
        0,
        good.map((label) => [
          label,
          label.endsWith('tls') ? 'tls' : 'https',
          label.startsWith('named') ? 'authoritative' : 'resolver',
        ]),
      ])
      const refused = await run(
        folder,
        'confirm',
        ZONE,
        '--json',
        '--at',
        'named-untrusted',
        '--at',
        'unbound-untrusted',
        '--timeout',
        '3',
      )
      expect([refused.status, of(refused, 'www', 'A').details]).toEqual([
        3,
        expect.stringContaining('its certificate is not signed by a trusted authority'),
      ])
    })

    test('refused, absent, different, aliased, without authority: as real servers say it', async () => {
      const lines = 'www A 192.0.2.10\nshop CNAME www\nnone A 192.0.2.12\ngone.deep A 192.0.2.13\nalias A 192.0.2.14'
      const folder = folderWith({
        [`${ZONE}.zone`]: text(1, lines),
        // With long times, since the resolver's memory of a denial is asked for below.
        'served.zone': text(1, 'www A 192.0.2.66\nshop A 192.0.2.10\nnone TXT "x"\nalias CNAME www')
          .replace('$TTL 60', '$TTL 600')
          .replace('600 5', '600 600'),
        'parent.zone': `$ORIGIN example.\n$TTL 60\n@ SOA ns h 1 2 3 4 5\n@ NS ns.example.\nns A 192.0.2.1\nhollowmere NS ns1.hollowmere\nns1.hollowmere A 192.0.2.53`,
      })
      const server = await started(named({ [ZONE]: join(folder, 'served.zone') }))
      const parent = await started(named({ example: join(folder, 'parent.zone') }))
      const elsewhere = await started(
        named({ 'lakepass.example': join(process.cwd(), 'demo/zones/lakepass.example.zone') }),
      )
      const resolver = await started(unbound([ZONE], server.port, ['access-control: 127.0.0.1/32 allow_snoop']))
      await asks(resolver, 'none', 'A')
      // A resolver, a server of the parent zone and one of another zone, instead of the second server.
      for (const [second, verdict, detail] of [
        [resolver, 'not-authoritative', 'something on the path answers instead of it'],
        [parent, 'not-authoritative', 'it points to ns1.hollowmere.example'],
        [elsewhere, 'refused', 'it does not have the zone'],
      ] as const) {
        writeFileSync(
          join(folder, 'bramblefront.yaml'),
          `zones: [${ZONE}.zone]\nvantages: [authoritative]\nservers:\n${where('ns1', server.port)}${where('ns2', second.port)}`,
        )
        const ran = await run(folder, 'confirm', ZONE, '--json')
        expect(ran.status).toBe(1)
        expect(['www', 'none', 'gone.deep', 'alias'].map((owner) => of(ran, owner, 'A').verdicts.ns1)).toEqual([
          'different',
          'absent',
          'absent',
          'aliased',
        ])
        expect(of(ran, 'shop', 'CNAME').verdicts.ns1).toBe('aliased')
        expect([of(ran, 'none', 'A').verdicts.ns2, of(ran, 'none', 'A').details]).toEqual([
          verdict,
          expect.stringContaining(detail),
        ])
        const { zones } = ran.json()
        expect(zones[0].servers.map((each: any) => each.soa?.serial ?? null)).toEqual([1, null])
      }
    })
  },
)

test('no reply, no way there but octets that nobody can read', async () => {
  const folder = folderWith({ [`${ZONE}.zone`]: text(1, 'www A 192.0.2.10') })
  const babbling = createSocket('udp4')
  running.push({ stop: () => new Promise<void>((resolve) => babbling.close(() => resolve())) })
  // The header and question as they came, made a response, with a count of answers that do not follow.
  babbling.on('message', (octets, from) => {
    const reply = Buffer.from(octets)
    reply[2]! |= 0x84
    reply[7] = 3
    babbling.send(reply.subarray(0, -4), from.port, from.address)
  })
  await new Promise<void>((resolve) => babbling.bind(0, '127.0.0.1', resolve))
  const ran = await run(
    folder,
    'confirm',
    `${ZONE}.zone`,
    '--zone',
    ZONE,
    '--at',
    `127.0.0.1:${babbling.address().port}`,
    '--at',
    `127.0.0.1:${await freePort()}`,
    '--at',
    '2001:db8::1',
    '--json',
    '--timeout',
    '2',
  )
  const set = ran.json().sets.find((each: any) => each.owner === `www.${ZONE}.`)
  expect(set.answers.map((each: any) => each.verdict)).toEqual([
    'garbled',
    'no-reply',
    expect.stringMatching(/^not-tried$|^no-reply$/),
  ])
  expect(set.status).toBe('wrong')
})

test.skipIf(mayskip('named'))(
  'check --live: an outside domain that is gone, and a destination that takes no reports',
  async () => {
    const folder = folderWith({
      [`${ZONE}.zone`]: text(
        1,
        'shop CNAME shops.gone.example.\n@ MX 10 mx.larkpost.example.\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"',
      ),
      'example.zone':
        '$ORIGIN example.\n$TTL 60\n@ SOA ns h 1 2 3 4 5\n@ NS ns\nns A 192.0.2.1\nmx.larkpost A 192.0.2.2\n',
    })
    const server = await started(named({ example: join(folder, 'example.zone') }))
    const check = async (...args: string[]) =>
      (await run(folder, 'check', `${ZONE}.zone`, '--json', ...args))
        .json()
        .findings.filter((each: any) => /^live|report-consent/.test(each.rule))
    expect(await check()).toEqual([])
    expect(
      (await check('--live', '--at', server.at)).map(({ rule, severity, line }: any) => [rule, severity, line]),
    ).toEqual([
      ['live/target-unclaimed', 'error', 8],
      ['dmarc/report-consent', 'warning', 10],
    ])
  },
)
