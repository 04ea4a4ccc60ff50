/** `rehearse`, asked by clients that nobody here wrote: Node’s resolver, Unbound, and a mail server that delivers by MX. */
import { execFile } from 'node:child_process'
import { appendFileSync, existsSync, readFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { afterEach, describe, expect, test } from 'vitest'
import { folderWith, HEAD, run } from '../cli/program.ts'
import { rehearsal, resolverAt } from '../cli/rehearsal.ts'
import { mayskip, named, type RealServer, unbound } from './servers.ts'

const running: { stop(): unknown }[] = []
afterEach(async () => {
  for (const each of running.splice(0)) await each.stop()
})

const ZONE = 'hollowmere.example'
const LINES = `@ MX 20 second\n@ MX 10 first\nfirst A 192.0.2.25\nsecond A 192.0.2.26\nwww CNAME site.front.example.\n_imaps._tcp SRV 1 2 993 first\n_ldap._tcp SRV 5 0 3890 first\n_ldap._tcp SRV 1 0 3891 second\nbelow NS ns.front.example.\n`

const workspace = (): string =>
  folderWith({ 'bramblefront.yaml': 'zones: [zones/*.zone]\n', [`zones/${ZONE}.zone`]: HEAD + LINES })

describe.skipIf(mayskip('named', 'unbound'))('the intended zones, before they are public', () => {
  test('Node’s resolver gets them, and of others what they answer; files that change are read again', async () => {
    const folder = workspace()
    const front = folderWith({ 'front.zone': `${HEAD}site A 198.51.100.7\nns A 127.0.0.1\n` })
    const server: RealServer = await named({ 'front.example': join(front, 'front.zone') })
    running.push(server)
    const it = await rehearsal(folder, ZONE, '--forward', server.at)
    const ask = resolverAt(it.port)
    expect((await ask.resolveMx(ZONE)).sort((a, b) => a.priority - b.priority).map(({ exchange }) => exchange)).toEqual(
      [`first.${ZONE}`, `second.${ZONE}`],
    )
    expect(await ask.resolveSrv(`_imaps._tcp.${ZONE}`)).toMatchObject([{ name: `first.${ZONE}`, port: 993 }])
    expect(await ask.resolve4(`www.${ZONE}`)).toEqual(['198.51.100.7'])
    expect(await ask.resolve4('site.front.example')).toEqual(['198.51.100.7'])
    await expect(ask.resolve4(`nobody.${ZONE}`)).rejects.toMatchObject({ code: 'ENOTFOUND' })
    appendFileSync(join(folder, `zones/${ZONE}.zone`), 'late A 192.0.2.99\n')
    for (let tries = 0; ; tries++) {
      const found = await ask.resolve4(`late.${ZONE}`).catch(() => [])
      if (found.length > 0 || tries > 50) {
        expect(found).toEqual(['192.0.2.99'])
        break
      }
      await new Promise((done) => setTimeout(done, 100))
    }
    const ended = await it.ended()
    expect(ended).toMatchObject({ zones: [`${ZONE}.`], forward: server.at, counts: { both: 1 } })
    expect(ended.reloads).toBeGreaterThan(0)
    expect(ended.asked.map(({ by }: any) => by)).toContain('others')
  })

  test('Unbound, which asks it for the zone, gets them, too; nothing else is answered without --forward', async () => {
    const folder = workspace()
    const it = await rehearsal(folder, ZONE)
    const resolver = await unbound([ZONE], it.port)
    running.push(resolver)
    expect((await resolverAt(resolver.port).resolveMx(ZONE)).length).toBe(2)
    await expect(resolverAt(it.port).resolve4('site.front.example')).rejects.toMatchObject({ code: 'EREFUSED' })
    const ended = await it.ended()
    expect(ended.counts.nobody).toBeGreaterThan(0)
  })

  test('bad calls: a port that is in use, an address that is none, forwarding beyond loopback', async () => {
    const folder = workspace()
    const it = await rehearsal(folder, ZONE)
    for (const [args, says] of [
      [['--port', String(it.port)], /something else uses that port/],
      [['--port', '70000'], /0 to 65535/],
      [['--listen', 'here'], /must be an address/],
      [['--listen', '203.0.113.77'], /no such address/],
      [['--listen', '0.0.0.0', '--forward', 'system'], /for loopback alone/],
      [['--forward', 'nobody'], /must be ADDRESS/],
    ] as const) {
      const ran = await run(folder, 'rehearse', ...args)
      expect([ran.status, ran.stderr]).toEqual([2, expect.stringMatching(says)])
    }
  })
})

/** Whether a mail server can be run here in a world of its own; in CI it must. */
const cannotDeliver = (): boolean =>
  (!existsSync('/usr/sbin/dma') || !existsSync('/usr/bin/ldapsearch') || process.getuid?.() !== 0) && !process.env.CI

/**
 * In network and mount namespaces of its own: the exchanges’ addresses and port 53 are here, resolv.conf names the rehearsal, two exchanges take mail, and a
 * mail server of Debian’s hands a message in. Prints which exchange got it.
 */
const DELIVERING = `
set -e
ip link set lo up
for each in 192.0.2.25 192.0.2.26; do ip address add $each/32 dev lo; done
echo "nameserver 127.0.0.1" >resolv.conf
mount --bind resolv.conf /etc/resolv.conf
mkdir -p spool conf mail
printf 'SPOOLDIR /var/spool/dma\\nMAILNAME sender.example\\n' >conf/dma.conf
mount --bind conf /etc/dma
"$NODE" "$PROGRAM" rehearse --port 53 >/dev/null &
"$NODE" sink.mjs $DOWN &
sleep 2
eval "$CLIENT"
for i in 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20; do [ -e got ] && break; sleep 0.5; done
cat got
`
/** Takes mail at the exchanges but for those that are down, and notes at which. */
const SINK = `
import { appendFileSync } from 'node:fs'
import { createServer } from 'node:net'
for (const address of ['192.0.2.25', '192.0.2.26'].filter((each) => !process.argv.includes(each)))
  createServer((socket) => {
    let isData = false
    socket.on('error', () => {})
    socket.write('220 ready\\r\\n')
    socket.on('data', (chunk) => {
      for (const line of chunk.toString().split('\\r\\n').slice(0, -1)) {
        if (isData) {
          if (line !== '.') continue
          isData = false
          appendFileSync('got', address + '\\n')
          socket.write('250 taken\\r\\n')
        } else if (/^DATA/i.test(line)) {
          isData = true
          socket.write('354 go on\\r\\n')
        } else if (/^QUIT/i.test(line)) socket.end('221 bye\\r\\n')
        else socket.write('250 well\\r\\n')
      }
    })
  }).listen(25, address)
for (const [address, port] of [['192.0.2.25', 3890], ['192.0.2.26', 3891]])
  createServer((socket) => {
    appendFileSync('got', address + ' ' + port + '\\n')
    socket.destroy()
  }).listen(port, address)
`
const MAIL =
  "printf 'Subject: the ferry\\n\\nhello\\n' | /usr/sbin/dma -D -f crew@sender.example office@hollowmere.example"
/** A client of directories finds its server by SRV. */
const DIRECTORY = 'ldapsearch -x -H "ldap:///dc%3Dhollowmere%2Cdc%3Dexample" -l 2 || true'

describe.skipIf(cannotDeliver())('programs that follow MX and SRV', () => {
  test.each([
    ['mail arrives at the exchange with the lowest preference', MAIL, '', '192.0.2.25'],
    ['mail arrives at the next one, where that is down', MAIL, '192.0.2.25', '192.0.2.26'],
    ['a client finds its directory by SRV, the lowest priority first', DIRECTORY, '', '192.0.2.26 3891'],
  ])('%s', async (_what, client, down, arrived) => {
    const folder = folderWith({
      'bramblefront.yaml': 'zones: [zones/*.zone]\n',
      [`zones/${ZONE}.zone`]: HEAD + LINES,
      'sink.mjs': SINK,
      'deliver.sh': DELIVERING,
    })
    await new Promise<void>((done) =>
      execFile(
        'unshare',
        ['--net', '--mount', '--pid', '--fork', '--kill-child', 'bash', 'deliver.sh'],
        {
          cwd: folder,
          env: {
            ...process.env,
            NODE: process.execPath,
            PROGRAM: resolve('dist/bramblefront.js'),
            DOWN: down,
            CLIENT: client,
          },
          timeout: 60_000,
        },
        () => done(),
      ),
    )
    expect(existsSync(join(folder, 'got')) && readFileSync(join(folder, 'got'), 'utf8')).toBe(`${arrived}\n`)
  })
})
