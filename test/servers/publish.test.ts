/** `publish` at real servers that take dynamic updates: what is sent is there, what others did stays, and refusals are told as what they are. */
import { appendFileSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { freePort } from '../../src/serve/free-port.ts'
import { certificates } from '../certificates.ts'
import { HEAD, run } from '../cli/program.ts'
import { resolverAt } from '../cli/rehearsal.ts'
import {
  butTheFirst,
  byOthers,
  differs,
  KEY,
  keyText,
  nobodyElse,
  onlySmall,
  open,
  publish,
  relay,
  through,
  workspace,
  ZONE,
} from './delivery.ts'
import { mayskip, nsd, type SharedKey } from './servers.ts'

describe.skipIf(mayskip('named', 'knotd') || nobodyElse())('a primary that takes updates', () => {
  test.each(['named', 'knotd'] as const)(
    '%s: changes, aliases, TTLs and removals are there, read back, and remembered',
    async (program) => {
      const { folder, server } = await workspace(program)
      await run(folder, 'write', 'address', `new.${ZONE}`, '192.0.2.30', '--force')
      await run(folder, 'write', 'mx', ZONE, '10 new', '--force')
      await run(folder, 'remove', `www.${ZONE}`, 'A')
      await run(folder, 'write', 'cname', `www.${ZONE}`, 'new', '--force')
      await run(folder, 'write', 'ttl', `mail.${ZONE}`, '300', '--force')
      await run(folder, 'remove', `old.${ZONE}`, 'A', '--force')
      expect((await publish(folder)).status).toBe(1)
      expect(await differs(folder, server)).toHaveLength(6)
      const done = await publish(folder, '--yes')
      expect([done.status, done.json().readBack, done.json().messages, done.json().foreign]).toEqual([0, true, 1, []])
      expect(await differs(folder, server)).toEqual([])
      // The server made the serial; the kept file has it now.
      const { serial } = (await run(folder, 'diff', ZONE, '--with', server.at, '--json')).json()
      expect([serial.intended, done.json().serial.after]).toEqual([serial.other, serial.other])
      expect(await publish(folder, '--yes')).toMatchObject({ status: 0 })
      expect((await run(folder, 'diff', ZONE, '--with', 'published')).status).toBe(0)

      // Name servers and timers go only where they are meant to.
      const timers = 'ns1.upland-dns.example. hostmaster.hollowmere.example. 2026010101 3600 900 1209600 300'
      await run(folder, 'write', 'record', ZONE, 'SOA', timers, '--force')
      await run(folder, 'write', 'record', ZONE, 'NS', 'ns1.upland-dns.example.', 'ns3.upland-dns.example.', '--force')
      const moved = await publish(folder, '--yes')
      expect([
        moved.status,
        moved
          .json()
          .sent.map(({ type }: any) => type)
          .sort(),
        moved.json().messages,
      ]).toEqual([0, ['NS', 'NS', 'SOA'], 1])
      const ask = resolverAt(server.port)
      expect((await ask.resolveNs(ZONE)).sort()).toEqual(['ns1.upland-dns.example', 'ns3.upland-dns.example'])
      expect(await ask.resolveSoa(ZONE)).toMatchObject({ refresh: 3600, minttl: 300 })
    },
  )

  test.each(['named', 'knotd'] as const)(
    '%s: what others did stays; what both changed is a conflict, until that is overridden',
    async (program) => {
      const { folder, server } = await workspace(program)
      byOthers(server, `add theirs.${ZONE}. 60 A 192.0.2.66`, `gone old.${ZONE}. A`)
      await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
      const first = await publish(folder, '--yes')
      expect([
        first.status,
        first
          .json()
          .foreign.map(({ owner }: any) => owner.split('.')[0])
          .sort(),
      ]).toEqual([0, ['old', 'theirs']])
      expect((await differs(folder, server)).sort()).toEqual(['old A', 'theirs A'])

      byOthers(server, `gone www.${ZONE}. A`, `add www.${ZONE}. 60 A 192.0.2.77`)
      await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.3')
      const both = await publish(folder, '--yes')
      expect([both.status, both.json().sent, both.json().conflicts[0].now.records]).toEqual([1, [], ['192.0.2.77']])
      expect((await publish(folder, '--yes', '--overwrite')).status).toBe(0)
      expect((await differs(folder, server)).sort()).toEqual(['old A', 'theirs A'])
    },
  )

  test('a change that lands between comparing and sending: the server refuses, and nothing is overwritten', async () => {
    const { folder, server } = await workspace('named')
    const race = butTheFirst((piece, _, there) => {
      byOthers(server, `gone www.${ZONE}. A`, `add www.${ZONE}. 60 A 192.0.2.77`)
      there.write(piece)
    })
    through(folder, server, await relay(server.port, race))
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const ran = await publish(folder, '--yes')
    expect(ran.status).toBe(1)
    expect(ran.json().refused).toMatchObject({
      rcode: 'NXRRSET',
      owner: `www.${ZONE}.`,
      type: 'A',
      expected: { records: ['192.0.2.1'] },
      now: { records: ['192.0.2.77'] },
    })
    expect(readFileSync(join(folder, 'log.jsonl'), 'utf8')).not.toContain('"by":"update"')
  })

  test('an answer that is lost: what stands there says whether it was done', async () => {
    const { folder, server } = await workspace('named')
    const lost = butTheFirst((piece, client, there) => {
      there.write(piece)
      there.removeAllListeners('data').once('data', () => client.destroy())
    })
    through(folder, server, await relay(server.port, lost))
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const ran = await publish(folder, '--yes', '--timeout', '2')
    expect([ran.status, ran.json().messages]).toEqual([0, 1])
    expect(await differs(folder, server)).toEqual([])
  })

  test('a zone that the server signs: what signing makes is nobody’s change', async () => {
    const { folder, server } = await workspace('named', { signs: true })
    await run(folder, 'write', 'address', `new.${ZONE}`, '192.0.2.30')
    await run(folder, 'remove', `old.${ZONE}`, 'A', '--force')
    const done = await publish(folder, '--yes')
    expect([done.status, done.json().readBack, done.json().sent.length, done.json().foreign]).toEqual([0, true, 2, []])
    expect(await differs(folder, server)).toEqual([])
  })

  test('a server that hangs up on a transfer is asked set by set', async () => {
    const { folder, server } = await workspace('named')
    const AXFR = Buffer.from([0, 252, 0, 1])
    through(
      folder,
      server,
      await relay(server.port, (piece, client, there) =>
        piece.includes(AXFR) ? client.destroy() : there.write(piece),
      ),
    )
    byOthers(server, `gone www.${ZONE}. A`, `add www.${ZONE}. 60 A 192.0.2.77`)
    await run(folder, 'write', 'address', `mail.${ZONE}`, '192.0.2.26')
    const timers = 'ns1.upland-dns.example. hostmaster.hollowmere.example. 2026010101 3600 900 1209600 300'
    await run(folder, 'write', 'record', ZONE, 'SOA', timers, '--force')
    const done = await publish(folder, '--yes')
    expect([done.status, done.json().readBack, done.json().foreign[0].owner]).toEqual([0, true, `www.${ZONE}.`])
    expect(await resolverAt(server.port).resolveSoa(ZONE)).toMatchObject({ refresh: 3600, minttl: 300 })
    expect(await differs(folder, server)).toEqual(['www A'])
  })

  test.each<[string, SharedKey, string, RegExp]>([
    ['an unknown key', { ...KEY, name: 'nobody' }, 'BADKEY', /does not know the key/],
    ['another secret', { ...KEY, secret: Buffer.alloc(32, 9).toString('base64') }, 'BADSIG', /another secret/],
    ['a key that may not', { ...KEY, name: 'other' }, 'REFUSED', /does not allow/],
  ])('%s: told by its code, and nothing is done', async (_what, key, rcode, why) => {
    const { folder, server } = await workspace('named')
    writeFileSync(join(folder, 'keys/upland.key'), keyText(key))
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const ran = await publish(folder, '--yes')
    // A server that refuses the signature hands nothing over either; what it answers to plain questions is compared.
    expect([ran.status, ran.json().refused.rcode]).toEqual([1, rcode])
    expect(ran.json().refused.why).toMatch(why)
    expect(await differs(folder, server)).toEqual(['www A'])
    expect(ran.stdout + readFileSync(join(folder, 'log.jsonl'), 'utf8')).not.toContain(key.secret)
  })

  test('an MX target without an address: named refuses it, and it is said that this may be why', async () => {
    const { folder, server } = await workspace('named')
    await run(folder, 'write', 'mx', ZONE, '10 nobody', '--force')
    const ran = await publish(folder, '--yes')
    expect([ran.status, ran.json().refused.rcode]).toEqual([1, 'REFUSED'])
    expect(ran.json().refused.why).toMatch(/MX target that has no address/)
    expect(await differs(folder, server)).toEqual([`${ZONE.split('.')[0]} MX`])
  })

  test('nobody there is 3; a clock that is wrong is told with the difference', async () => {
    const { folder, server } = await workspace('named')
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const { runWith } = await import('../cli/program.ts')
    const late = await runWith(folder, { BRAMBLEFRONT_AHEAD: '4000' }, 'publish', ZONE, '--force', '--yes', '--json')
    expect([late.status, late.json().refused.rcode]).toEqual([1, 'BADTIME'])
    expect(Math.abs(late.json().refused.skew + 4000)).toBeLessThan(5)
    await server.stop()
    const ran = await publish(folder, '--yes', '--timeout', '0.5')
    expect([ran.status, ran.json().written]).toEqual([3, false])
  })

  test.each([
    ['named', 'NOTAUTH'],
    ['knotd', 'NOTAUTH'],
  ] as const)('%s: a zone that it does not have', async (program, rcode) => {
    const { folder } = await workspace(program)
    writeFileSync(join(folder, 'zones/lakepass.example.zone'), `${HEAD}www A 192.0.2.1\n`)
    const ran = await run(folder, 'publish', 'lakepass.example', '--yes', '--force', '--json')
    expect([ran.status, ran.json().refused.rcode, ran.json().written]).toEqual([1, rcode, false])
  })

  test('an alias where somebody else has put an address: a conflict, and gone only when that is said', async () => {
    const { folder, server } = await workspace('named')
    byOthers(server, `add landing.${ZONE}. 60 A 192.0.2.66`)
    await run(folder, 'write', 'cname', `landing.${ZONE}`, 'mail')
    const both = await publish(folder, '--yes')
    expect([both.status, both.json().conflicts[0]]).toMatchObject([1, { type: 'A', intended: null }])
    expect((await publish(folder, '--yes', '--overwrite')).status).toBe(0)
    expect(await differs(folder, server)).toEqual([])
  })

  test('over TLS: nothing goes to a server that cannot prove its name, or whose authority nobody knows', async () => {
    const secured = certificates('ns1.upland-dns.example')
    const { folder, server } = await workspace('named', { secured })
    const reach = (...how: string[]) => {
      const all = ['label: upland', 'zones: ["*"]', 'by: update', 'address: 127.0.0.1', 'key: keys/upland.key', ...how]
      const tls = `port: ${server.ports.tls}, transport: tls`
      const config = `zones: [zones/*.zone]\ndeliveries:\n  - {${all.join(', ')}, ${tls}}\n`
      writeFileSync(join(folder, 'bramblefront.yaml'), config)
    }
    const [right, other] = ['name: ns1.upland-dns.example', 'name: other.upland-dns.example']
    const authority = `authority: ${secured.authority}`
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    for (const how of [[right], [other, authority]]) {
      reach(...how)
      const refused = await publish(folder, '--yes')
      expect([refused.status, refused.json().refused.why]).toEqual([3, expect.stringContaining('certificate')])
      expect(await differs(folder, server)).toEqual(['www A'])
    }
    reach(right, authority)
    const done = await publish(folder, '--yes')
    expect([done.status, done.json().readBack]).toEqual([0, true])
    expect(await differs(folder, server)).toEqual([])
  })

  test.each(['named', 'knotd'] as const)('%s: a secondary that it tells of the change has it, too', async (program) => {
    const port = await freePort()
    const { folder, server } = await workspace(program, { notifies: port })
    const fetched = join(folder, 'fetched')
    const secondary = await nsd({ [ZONE]: fetched }, { primary: server.port, port, notified: true })
    open.push(secondary)
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    expect((await publish(folder, '--yes')).status).toBe(0)
    await expect
      .poll(() => resolverAt(secondary.port).resolve4(`www.${ZONE}`), { timeout: 30_000 })
      .toEqual(['192.0.2.2'])
    expect((await run(folder, 'confirm', ZONE, '--at', server.at, '--at', secondary.at)).status).toBe(0)
    expect(await differs(folder, secondary)).toEqual([])
  })

  test.each([
    ['it closes the connection', undefined],
    ['it says FORMERR', 1],
  ])('a server that takes only small messages, %s: smaller ones, in the same order', async (_what, rcode) => {
    const { folder, server } = await workspace('named')
    through(folder, server, await relay(server.port, onlySmall(2000, rcode)))
    const more = Array.from({ length: 200 }, (_, i) => `pier${i} A 192.0.2.${i}\n`).join('')
    appendFileSync(join(folder, `zones/${ZONE}.zone`), `${more}landing CNAME pier199\n`)
    const done = await publish(folder, '--yes')
    const { messages, sent, readBack } = done.json()
    expect([done.status, messages > 3, sent.length, readBack]).toEqual([0, true, 201, true])
    const at = (owner: string): number => sent.findIndex((each: any) => each.owner.startsWith(owner))
    expect(at('pier199.')).toBeLessThan(at('landing.'))
    expect(await differs(folder, server)).toEqual([])
    const log = readFileSync(join(folder, 'log.jsonl'), 'utf8')
    expect(log.split('"by":"update"').length - 1).toBeGreaterThanOrEqual(messages)
  })
})
