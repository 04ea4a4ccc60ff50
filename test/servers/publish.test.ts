/** `publish` at real servers that take dynamic updates: what is sent is there, what others did stays, and refusals are told as what they are. */
import { execFileSync, spawnSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { connect, createServer, type Socket } from 'node:net'
import { join } from 'node:path'
import { afterEach, describe, expect, test } from 'vitest'
import { folderWith, HEAD, type Ran, run } from '../cli/program.ts'
import { resolverAt } from '../cli/rehearsal.ts'
import { mayskip, type RealServer, type SharedKey, updatable } from './servers.ts'

const open: { stop(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.stop()
})

const ZONE = 'hollowmere.example'
const KEY: SharedKey = { name: 'upland', algorithm: 'hmac-sha256', secret: Buffer.alloc(32, 7).toString('base64') }
const LINES = '@ MX 10 mail\nmail A 192.0.2.25\nwww A 192.0.2.1\nold A 192.0.2.9\n@ TXT "v=spf1 mx -all"\n'
const keyText = ({ name, algorithm, secret }: SharedKey): string =>
  `key "${name}" { algorithm ${algorithm}; secret "${secret}"; };\n`

/** A workspace with the zone as the server handed it over, and a delivery to it. */
async function workspace(program: 'named' | 'knotd', port?: (server: RealServer) => number) {
  const server = await updatable(program, ZONE, HEAD + LINES, KEY)
  open.push(server)
  const folder = folderWith({ 'keys/upland.key': keyText(KEY), 'bramblefront.yaml': 'zones: [zones/*.zone]\n' })
  const at = port?.(server) ?? server.port
  writeFileSync(
    join(folder, 'bramblefront.yaml'),
    `zones: [zones/*.zone]\ndeliveries:\n  - {label: upland, zones: ["*"], by: update, address: 127.0.0.1, port: ${at}, key: keys/upland.key}\n`,
  )
  expect((await run(folder, 'adopt', ZONE, '--from', server.at)).status).toBe(0)
  return { folder, server }
}
const publish = (folder: string, ...args: string[]): Promise<Ran> =>
  run(folder, 'publish', ZONE, '--force', '--json', ...args)
const differs = async (folder: string, server: RealServer): Promise<string[]> =>
  (await run(folder, 'diff', ZONE, '--with', server.at, '--json'))
    .json()
    .sets.map(({ owner, type }: any) => `${owner.split('.')[0]} ${type}`)

/** Somebody else’s update, made and signed by a library that nobody here wrote: `add` records, and `gone` sets. */
const OTHERS = `
my ($port, $key, $secret, @lines) = @ARGV;
my $update = Net::DNS::Update->new('hollowmere.example');
for (@lines) { $update->push(update => s/^add // ? rr_add($_) : s/^gone // ? rr_del($_) : die $_) }
$update->sign_tsig(Net::DNS::RR->new(name => $key, type => 'TSIG', algorithm => 'HMAC-SHA256', key => $secret));
my $reply = Net::DNS::Resolver->new(nameservers => ['127.0.0.1'], port => $port, usevc => 1)->send($update);
die 'no answer' unless $reply;
die $reply->header->rcode unless $reply->header->rcode eq 'NOERROR';
`
const byOthers = (server: RealServer, ...lines: string[]): void =>
  void execFileSync('perl', ['-MNet::DNS', '-e', OTHERS, String(server.port), KEY.name, KEY.secret, ...lines])

/** Lets everything through, and holds the first message of dynamic update until it is let go. */
async function relay(
  port: number,
  held: (letGo: () => void) => void,
  drop = false,
): Promise<{ port: number; stop(): void }> {
  let isHeld = false
  const listening = createServer((client) => {
    const server: Socket = connect(port, '127.0.0.1')
    let isOurs = false
    client.on('data', (chunk: Buffer) => {
      const isUpdate = chunk.length > 4 && ((chunk[4]! >> 3) & 15) === 5
      if (!isUpdate || isHeld) return void server.write(chunk)
      isHeld = true
      isOurs = true
      held(() => server.write(chunk))
    })
    server.on('data', (chunk) => void (isOurs && drop ? client.destroy() : client.write(chunk)))
    for (const each of [client, server])
      each
        .on('error', () => {})
        .on('close', () => {
          client.destroy()
          server.destroy()
        })
  })
  await new Promise<void>((done) => listening.listen(0, '127.0.0.1', done))
  const made = { port: (listening.address() as { port: number }).port, stop: () => void listening.close() }
  open.push(made)
  return made
}

/** Whether the others’ library is missing; never in CI. */
const nobodyElse = (): boolean => spawnSync('perl', ['-MNet::DNS', '-e', '1']).status !== 0 && !process.env.CI

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
      ]).toEqual([0, ['NS', 'NS', 'SOA'], 2])
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
    let race = (_letGo: () => void): void => {}
    const { folder, server } = await workspace('named')
    const between = await relay(server.port, (letGo) => race(letGo))
    const config = readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')
    writeFileSync(join(folder, 'bramblefront.yaml'), config.replace(`port: ${server.port}`, `port: ${between.port}`))
    race = (letGo) => {
      byOthers(server, `gone www.${ZONE}. A`, `add www.${ZONE}. 60 A 192.0.2.77`)
      letGo()
    }
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
    const between = await relay(server.port, (letGo) => letGo(), true)
    const config = readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')
    writeFileSync(join(folder, 'bramblefront.yaml'), config.replace(`port: ${server.port}`, `port: ${between.port}`))
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const ran = await publish(folder, '--yes', '--timeout', '2')
    expect([ran.status, ran.json().messages]).toEqual([0, 1])
    expect(await differs(folder, server)).toEqual([])
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
})
