/** What both sides last had, at real servers: nothing of ours is forgotten, nothing of others is taken for ours, and what could not be seen is said. */
import { spawn } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join, resolve } from 'node:path'
import { describe, expect, test } from 'vitest'
import { run } from '../cli/program.ts'
import { resolverAt } from '../cli/rehearsal.ts'
import {
  butTheFirst,
  byOthers,
  differs,
  KEY,
  LINES,
  nobodyElse,
  onlySmall,
  open,
  publish,
  relay,
  through,
  workspace,
  ZONE,
} from './delivery.ts'
import { mayskip, updatable } from './servers.ts'

const owners = (sets: { owner: string }[]): string[] => sets.map(({ owner }) => owner.split('.')[0]!).sort()
const FILE = `zones/${ZONE}.zone`
const AXFR = Buffer.from([0, 252, 0, 1])

describe.skipIf(mayskip('named', 'knotd') || nobodyElse())('both sides', () => {
  test('an edit by hand in an included file is ours, and is published', async () => {
    const { folder, server } = await workspace('named')
    const text = readFileSync(join(folder, FILE), 'utf8')
    writeFileSync(join(folder, FILE), `${text.replace(/^mail .*\n/m, '')}$INCLUDE hosts\n`)
    writeFileSync(join(folder, 'zones/hosts'), 'mail A 192.0.2.25\n')
    expect((await publish(folder, '--yes')).json()).toMatchObject({ sent: [], readBack: true })
    writeFileSync(join(folder, 'zones/hosts'), 'mail A 192.0.2.26\n')
    const done = await publish(folder, '--yes')
    expect([done.status, owners(done.json().sent), done.json().foreign]).toEqual([0, ['mail'], []])
    expect(await resolverAt(server.port).resolve4(`mail.${ZONE}`)).toEqual(['192.0.2.26'])
    // Going back gives what was in the included file then.
    const { entries } = (await run(folder, 'history', ZONE, '--json')).json()
    const first = entries.findLast(({ what }: any) => what === 'published')
    const back = await run(folder, 'restore', ZONE, 'mail', '--from', first.id, '--yes', '--json')
    expect(back.json().sets[0].after.records).toEqual(['192.0.2.25'])
  })

  test('a removal that --only leaves for later is not forgotten', async () => {
    const { folder, server } = await workspace('named')
    await run(folder, 'remove', `old.${ZONE}`, 'A', '--force')
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const only = await publish(folder, '--yes', '--only', 'www')
    expect([only.status, owners(only.json().sent), only.json().pending]).toEqual([0, ['www'], 1])
    expect(owners((await publish(folder, '--yes')).json().sent)).toEqual(['old'])
    expect(await differs(folder, server)).toEqual([])
  })

  test('what was sent before a call was cut short is ours, acknowledged or not', async () => {
    const { folder, server } = await workspace('named')
    let cut = (): void => {}
    const hangs = new Promise<void>((done) => (cut = done))
    const port = await relay(
      server.port,
      butTheFirst((piece, _client, there) => {
        there.write(piece)
        there.removeAllListeners('data').once('data', () => cut())
      }),
    )
    through(folder, server, port)
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const child = spawn(
      process.execPath,
      [resolve('dist/bramblefront.js'), 'publish', ZONE, '--yes', '--force', '--timeout', '60'],
      { cwd: folder, stdio: 'ignore' },
    )
    const ended = new Promise((done) => child.on('close', done))
    await hangs
    child.kill('SIGKILL')
    await ended
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.3')
    const next = await publish(folder, '--yes')
    expect([next.status, next.json().conflicts, owners(next.json().sent)]).toEqual([0, [], ['www']])
    expect(await resolverAt(server.port).resolve4(`www.${ZONE}`)).toEqual(['192.0.2.3'])
  }, 60_000)

  test('what was left out when the zone was brought in is a removal that is still to be published', async () => {
    const { folder, server } = await workspace('named', {}, { adopt: ['--leave', 'old'] })
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const dry = (await publish(folder, '--dry-run')).json()
    expect([owners(dry.sent), dry.foreign, dry.conflicts]).toEqual([['old', 'www'], [], []])
    expect((await publish(folder, '--yes')).status).toBe(0)
    expect(await differs(folder, server)).toEqual([])
  })

  test('a name that nobody asked for when the zone was brought in by asking is not removed', async () => {
    const { folder, server } = await workspace('named', {}, { lines: `${LINES}qx7 A 192.0.2.70\n` })
    expect((await publish(folder, '--yes')).status).toBe(0)
    expect((await run(folder, 'adopt', ZONE, '--by-asking', '--at', server.at, '--yes')).status).toBe(0)
    const dry = (await publish(folder, '--dry-run')).json()
    expect([owners(dry.sent), owners(dry.foreign)]).toEqual([[], ['old', 'qx7']])
  })

  test('a colleague’s addition is taken in, by name, and then is no difference any more', async () => {
    const { folder, server } = await workspace('named')
    byOthers(server, `add theirs.${ZONE}. 60 A 192.0.2.66`, `gone old.${ZONE}. A`)
    const diff = await run(folder, 'diff', ZONE, '--with', 'upland')
    expect(diff.stdout).toMatch(
      /bramblefront publish hollowmere[\s\S]*bramblefront adopt hollowmere\S+ \S+ \w+ --from upland/,
    )
    for (const [name, count] of [
      ['theirs', 1],
      ['old', 1],
      ['www', 0],
    ] as const) {
      const taken = await run(folder, 'adopt', ZONE, name, '--from', 'upland', '--yes', '--force', '--json')
      expect([taken.status, taken.json().sets.length]).toEqual([0, count])
    }
    expect(await differs(folder, server)).toEqual([])
    expect((await publish(folder, '--yes')).json()).toMatchObject({ sent: [], foreign: [] })
    // From now on, theirs is what both have: a change of it is ours.
    await run(folder, 'write', 'address', `theirs.${ZONE}`, '192.0.2.67')
    expect((await publish(folder, '--yes')).json()).toMatchObject({ conflicts: [], sent: [{ type: 'A' }] })
    expect((await run(folder, 'adopt', ZONE, 'www', 'SOA', '--from', server.at, '--yes')).status).toBe(2)
    expect((await run(folder, 'adopt', ZONE, 'www', '--from', server.at, '--json')).json().written).toBe(false)
  })

  test('a conflict at a terminal: one side is chosen for each', async () => {
    const { atTerminal } = await import('../cli/terminal.ts')
    const { folder, server } = await workspace('named')
    byOthers(
      server,
      ...['www', 'mail'].flatMap((name) => [`gone ${name}.${ZONE}. A`, `add ${name}.${ZONE}. 60 A 192.0.2.77`]),
    )
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    await run(folder, 'write', 'address', `mail.${ZONE}`, '192.0.2.26')
    const { shown, status } = await atTerminal(folder, ['publish', ZONE, '--force'], ['there', 'here', 'yes'])
    expect([status, shown]).toEqual([0, expect.stringContaining('which one is right?')])
    const ask = resolverAt(server.port)
    const both = await Promise.all(['www', 'mail'].map((name) => ask.resolve4(`${name}.${ZONE}`)))
    // Of one theirs was taken over, of the other ours was sent; which of them was asked for first does not matter.
    expect([
      ['192.0.2.77', '192.0.2.26'],
      ['192.0.2.2', '192.0.2.77'],
    ]).toContainEqual(both.flat())
    expect(await differs(folder, server)).toEqual([])
  })

  test.each(['named', 'knotd'] as const)(
    '%s: all name servers of a zone change, with their addresses in it',
    async (program) => {
      const before = `${LINES}ns1.in A 192.0.2.51\nns2.in A 192.0.2.52\n`
      const { folder, server } = await workspace(program, {}, { lines: before })
      const set = (type: string, ...values: string[]) =>
        run(folder, 'write', 'record', ZONE, type, ...values, '--force')
      await set('NS', `ns1.in.${ZONE}.`, `ns2.in.${ZONE}.`)
      expect((await publish(folder, '--yes')).status).toBe(0)
      await run(folder, 'write', 'address', `ns3.in.${ZONE}`, '192.0.2.53', '--force')
      await run(folder, 'write', 'address', `ns4.in.${ZONE}`, '192.0.2.54', '--force')
      await set('NS', `ns3.in.${ZONE}.`, `ns4.in.${ZONE}.`)
      for (const old of ['ns1.in', 'ns2.in']) await run(folder, 'remove', `${old}.${ZONE}`, 'A', '--force')
      const moved = await publish(folder, '--yes')
      expect([moved.status, moved.json().messages, moved.json().readBack]).toEqual([0, 1, true])
      expect((await resolverAt(server.port).resolveNs(ZONE)).sort()).toEqual([`ns3.in.${ZONE}`, `ns4.in.${ZONE}`])
      expect(await differs(folder, server)).toEqual([])
    },
  )

  test('a name server without an address: what is refused is not called a matter of the key', async () => {
    const { folder } = await workspace('named')
    await run(folder, 'write', 'record', ZONE, 'NS', `nowhere.${ZONE}.`, '--force')
    const ran = await publish(folder, '--yes')
    expect([ran.status, ran.json().refused.rcode]).toEqual([1, 'REFUSED'])
    expect(ran.json().refused.why).toMatch(
      /refuses the data: some refuse a name server of the zone that has no address/,
    )
  })

  test('an alias takes the place of an address in a zone that knotd signs: repaired in the same call', async () => {
    const { folder, server } = await workspace('knotd', { signs: true })
    await run(folder, 'remove', `www.${ZONE}`, 'A', '--force')
    await run(folder, 'write', 'cname', `www.${ZONE}`, 'mail', '--force')
    const done = await publish(folder, '--yes')
    expect([done.status, done.json().readBack, done.json().messages]).toEqual([0, true, 2])
    expect(await resolverAt(server.port).resolveCname(`www.${ZONE}`)).toEqual([`mail.${ZONE}`])
  })

  test('other types come to a name between comparing and sending: nobody changed what we change', async () => {
    const { folder, server } = await workspace('named')
    const race = butTheFirst((piece, _, there) => {
      byOthers(server, `add fresh.${ZONE}. 60 TXT "theirs"`)
      there.write(piece)
    })
    through(folder, server, await relay(server.port, race))
    await run(folder, 'write', 'address', `fresh.${ZONE}`, '192.0.2.2')
    const done = await publish(folder, '--yes')
    expect([done.status, done.json().refused, owners(done.json().sent)]).toEqual([0, null, ['fresh']])
    expect(await resolverAt(server.port).resolveTxt(`fresh.${ZONE}`)).toEqual([['theirs']])
  })

  test('the serial moves between comparing and sending the SOA record: the timers are sent all the same', async () => {
    const { folder, server } = await workspace('named')
    const race = butTheFirst((piece, _, there) => {
      byOthers(server, `add other.${ZONE}. 60 A 192.0.2.66`)
      there.write(piece)
    })
    through(folder, server, await relay(server.port, race))
    const timers = 'ns1.upland-dns.example. hostmaster.hollowmere.example. 2026010101 3600 900 1209600 300'
    await run(folder, 'write', 'record', ZONE, 'SOA', timers, '--force')
    const done = await publish(folder, '--yes')
    expect([done.status, done.json().refused]).toEqual([0, null])
    expect(await resolverAt(server.port).resolveSoa(ZONE)).toMatchObject({ refresh: 3600, minttl: 300 })
  })

  test('timers that others changed stay; those that both changed are a conflict', async () => {
    const { folder, server } = await workspace('named')
    const theirs = (refresh: number): void =>
      byOthers(
        server,
        `add ${ZONE}. 3600 SOA ns1.upland-dns.example. hostmaster.${ZONE}. 20260102${String(refresh).slice(0, 2)} ${refresh} 900 1209600 3600`,
      )
    theirs(1111)
    const first = await publish(folder, '--yes')
    expect([first.status, first.json().foreign.map(({ type }: any) => type)]).toEqual([0, ['SOA']])
    const timers = `ns1.upland-dns.example. hostmaster.${ZONE}. 2026010101 3600 900 1209600 3600`
    await run(folder, 'write', 'record', ZONE, 'SOA', timers, '--force')
    const both = await publish(folder, '--yes')
    expect([both.status, both.json().conflicts.map(({ type }: any) => type), both.json().sent]).toEqual([
      1,
      ['SOA'],
      [],
    ])
    const ask = resolverAt(server.port)
    expect(await ask.resolveSoa(ZONE)).toMatchObject({ refresh: 1111 })
    expect((await publish(folder, '--yes', '--overwrite')).status).toBe(0)
    expect(await ask.resolveSoa(ZONE)).toMatchObject({ refresh: 3600 })
    expect((await publish(folder, '--yes')).json()).toMatchObject({ sent: [], foreign: [], conflicts: [] })
  })

  test('a secondary that passes updates on: it is waited for; and what it does not show is not called somebody’s change', async () => {
    const { folder, server } = await workspace('named')
    const second = await updatable('named', ZONE, '', KEY, { primary: server.port })
    open.push(second)
    through(folder, server, second)
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    const first = await publish(folder, '--yes', '--timeout', '1')
    // Its own copy may be the former one; the primary has it.
    await expect.poll(() => resolverAt(server.port).resolve4(`www.${ZONE}`)).toEqual(['192.0.2.2'])
    if (first.json().readBack) return
    expect([first.status, first.json().refused]).toEqual([1, null])
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.3')
    const next = await publish(folder, '--yes', '--timeout', '1')
    expect(next.json().refused?.why ?? 'forwards updates').toMatch(/forwards? updates/)
    expect(next.json().refused?.owner).toBeUndefined()
  })

  test('a server without transfers: what was looked at is counted, what was not is said, what cannot be seen is 3', async () => {
    const { folder, server } = await workspace('named')
    const closed = await relay(server.port, (piece, client, there) =>
      piece.includes(AXFR) ? client.destroy() : there.write(piece),
    )
    through(folder, server, closed)
    byOthers(server, `add theirs.${ZONE}. 60 A 192.0.2.66`)
    const none = await publish(folder, '--yes')
    expect(none.json()).toMatchObject({ sent: [], whole: false, unseen: 0 })
    expect(none.json().compared).toBeGreaterThan(3)
    const said = (await run(folder, 'publish', ZONE, '--force', '--yes')).stdout.replace(/\s+/g, ' ')
    expect(said).toMatch(/as far as it can be seen[\s\S]*was not looked at/)
    const diff = await run(folder, 'diff', ZONE, '--with', 'upland')
    expect([diff.status, diff.stdout.replace(/\s+/g, ' ')]).toEqual([
      0,
      expect.stringMatching(/in what was compared[\s\S]*was not looked at/),
    ])
    // Whoever drops the questions of one type leaves its sets unseen.
    const TXT = Buffer.from([0, 16, 0, 1])
    const deaf = await relay(server.port, (piece, client, there) =>
      piece.includes(AXFR) ? client.destroy() : piece.includes(TXT) ? undefined : there.write(piece),
    )
    through(folder, closed, deaf)
    await run(folder, 'write', 'txt', ZONE, 'v=spf1 -all', '--force')
    const blind = await publish(folder, '--yes', '--timeout', '1')
    expect([blind.status, blind.json().unseen > 0, blind.json().sent]).toEqual([3, true, []])
  })

  test('diff transfers with the key of the delivery, and by its label', async () => {
    const { folder, server } = await workspace('named', { closed: true }, { adopt: ['--key', 'keys/upland.key'] })
    byOthers(server, `add theirs.${ZONE}. 60 A 192.0.2.66`)
    for (const who of ['upland', server.at]) {
      const { whole, sets } = (await run(folder, 'diff', ZONE, '--with', who, '--json')).json()
      expect([whole, owners(sets)]).toEqual([true, ['theirs']])
    }
  })

  test('a server that takes connections and says nothing costs one timeout; so do many zones there', async () => {
    const silent = createServer((socket) => void socket.on('error', () => {}))
    await new Promise<void>((done) => silent.listen(0, '127.0.0.1', done))
    open.push({ stop: () => silent.close() })
    const { folder, server } = await workspace('named')
    through(folder, server, silent.address() as { port: number })
    for (let i = 0; i < 20; i++)
      writeFileSync(
        join(folder, `zones/n${i}.example.zone`),
        readFileSync(join(folder, FILE), 'utf8').replaceAll(ZONE, `n${i}.example`),
      )
    const started = performance.now()
    const ran = await run(folder, 'publish', '--force', '--yes', '--json', '--timeout', '1')
    const seconds = (performance.now() - started) / 1000
    expect([ran.status, ran.json().deliveries.length]).toEqual([3, 21])
    expect(seconds).toBeLessThan(6)
  })

  test('nothing to do over many zones: one SOA query each, and no transfer', async () => {
    const { folder, server } = await workspace('named')
    const asked = { axfr: 0, soa: 0 }
    const counting = await relay(server.port, (piece, _, there) => {
      if (piece.includes(AXFR)) asked.axfr++
      asked.soa += piece.toString('latin1').split('\0\x06\0\x01').length - 1
      there.write(piece)
    })
    through(folder, server, counting)
    await publish(folder, '--yes')
    Object.assign(asked, { axfr: 0, soa: 0 })
    expect((await publish(folder, '--yes')).json()).toMatchObject({ sent: [], readBack: true, whole: true })
    expect(asked).toEqual({ axfr: 0, soa: 1 })
    // What others do moves the serial, and is seen.
    byOthers(server, `add theirs.${ZONE}. 60 A 192.0.2.66`)
    expect(owners((await publish(folder, '--yes')).json().foreign)).toEqual(['theirs'])
    expect((await publish(folder, '--yes', '--only', 'theirs')).status).toBe(0)
    expect(owners((await publish(folder, '--yes')).json().foreign)).toEqual(['theirs'])
    expect(asked.axfr).toBe(1)
  })

  test('interrupted with Ctrl-C: it is said what is in place', async () => {
    const { folder, server } = await workspace('named')
    const port = await relay(
      server.port,
      butTheFirst(() => child?.kill('SIGINT')),
    )
    through(folder, server, port)
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.2')
    let said = ''
    const child = spawn(
      process.execPath,
      [resolve('dist/bramblefront.js'), 'publish', ZONE, '--yes', '--force', '--timeout', '60'],
      { cwd: folder, stdio: ['ignore', 'ignore', 'pipe'] },
    )
    child.stderr!.on('data', (text) => (said += text))
    const code = await new Promise((done) => child.on('close', done))
    expect([code, said]).toEqual([130, expect.stringMatching(/interrupted\. Nothing was changed there/)])
    expect((await publish(folder, '--yes')).status).toBe(0)
  })

  test('a name that is nowhere is no name to publish alone', async () => {
    const { folder } = await workspace('named')
    const ran = await publish(folder, '--yes', '--only', 'wwww')
    expect([ran.status, ran.stderr]).toEqual([2, expect.stringMatching(/--only wwww\.\S+ there are no record sets/)])
    expect((await publish(folder, '--yes', '--only', 'www')).status).toBe(0)
  })

  test('zones of two views go to their own servers, whatever is published', async () => {
    const { folder, server } = await workspace('named')
    const inside = await workspace('named', {}, { lines: 'secret A 10.0.0.1\n' })
    const text = readFileSync(join(folder, FILE), 'utf8')
    writeFileSync(join(folder, 'zones/inside.zone'), `${text}secret A 10.0.0.2\n`)
    const delivery = (label: string, port: number, view: string): string =>
      `  - {label: ${label}, zones: ["*"], by: update, address: 127.0.0.1, port: ${port}, key: keys/upland.key${view}}\n`
    const configure = (outside: string): void =>
      writeFileSync(
        join(folder, 'bramblefront.yaml'),
        `zones:\n  - {zone: ${ZONE}, file: ${FILE}, view: outside}\n  - {zone: ${ZONE}, file: zones/inside.zone, view: inside, audience: private}\ndeliveries:\n${delivery('out', server.port, outside)}${delivery('in', inside.server.port, ', view: inside')}`,
      )
    configure('')
    const open = await publish(folder, '--yes')
    expect(
      open.json().deliveries.map(({ delivery: label, view, refused }: any) => [label, view, refused === null]),
    ).toEqual([
      ['out', 'outside', false],
      ['in', 'inside', true],
    ])
    configure(', view: outside')
    expect((await publish(folder, '--yes', '--remove-extra')).status).toBe(0)
    await expect(resolverAt(server.port).resolve4(`secret.${ZONE}`)).rejects.toThrow()
    expect(await resolverAt(inside.server.port).resolve4(`secret.${ZONE}`)).toEqual(['10.0.0.2'])
  })

  test('a resolver that follows the delegation has an answer all the while that the name servers change', async () => {
    const { folder, server } = await workspace('named', {}, { lines: `${LINES}ns1.in A 127.0.0.1\n` })
    await run(folder, 'write', 'record', ZONE, 'NS', `ns1.in.${ZONE}.`, '--force')
    await publish(folder, '--yes')
    const ask = resolverAt(server.port)
    /** Whether the name servers of the zone lead anywhere just now. */
    const leads = async (): Promise<boolean> => {
      const names = await ask.resolveNs(ZONE)
      const addresses = await Promise.all(names.map((name) => ask.resolve4(name).catch(() => [])))
      return addresses.flat().length > 0
    }
    const moments = [await leads()]
    const isUpdate = (piece: Buffer): boolean => piece.length > 4 && ((piece[4]! >> 3) & 15) === 5
    // Large messages are not read, so that the change takes several; between them nothing is under way.
    const small = onlySmall(2000, 1)
    const watching = await relay(server.port, (piece, client, there) => {
      if (!isUpdate(piece) || piece.length > 2000) return small(piece, client, there)
      there.removeAllListeners('data').once('data', async (answer) => {
        moments.push(await leads())
        client.write(answer)
      })
      return there.write(piece)
    })
    through(folder, server, watching)
    const file = join(folder, FILE)
    const piers = Array.from({ length: 120 }, (_, i) => `pier${i} A 192.0.2.${i}\n`).join('')
    const text = readFileSync(file, 'utf8')
      .replace(/^ns1\.in .*\n/m, 'ns2.in A 127.0.0.1\n')
      .replace(/ns1\.in/g, 'ns2.in')
    writeFileSync(file, text + piers)
    const done = await publish(folder, '--yes')
    expect([done.status, done.json().messages > 2]).toEqual([0, true])
    expect(moments).toHaveLength(done.json().messages + 1)
    expect(moments).not.toContain(false)
    expect(await ask.resolveNs(ZONE)).toEqual([`ns2.in.${ZONE}`])
  })
})
