/** Verdicts that must not be wrong, as real servers and resolvers give occasion for them. */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { Asker } from '../../src/net/ask.ts'
import { folderWith, type Ran, run } from '../cli/program.ts'
import { knotd, mayskip, named, nsd, unbound } from './servers.ts'
import { running, started } from './started.ts'

const ZONE = 'hollowmere.example'
const text = (lines: string, serial = 1, timers = '7200 900 1209600 300'): string =>
  `$ORIGIN ${ZONE}.\n$TTL 600\n@ SOA ns1 hostmaster ${serial} ${timers}\n@ NS ns1\nns1 A 192.0.2.53\n${lines}\n`
const statusOf = (ran: Ran): Record<string, string> =>
  Object.fromEntries(ran.json().sets.map(({ owner, type, status }: any) => [`${owner} ${type}`, status]))

describe.skipIf(mayskip('named', 'nsd', 'knotd'))('a delegation in the zone', () => {
  const CUT = 'isle NS ns1.isle\nisle NS ns.larkpost.example.\nns1.isle A 192.0.2.61\nisle DS 1 13 2 {digest}'.replace(
    '{digest}',
    'ab'.repeat(32),
  )
  test.each([
    ['named', named],
    ['nsd', nsd],
    ['knotd', knotd],
  ] as const)('as %s refers to it: as intended, another server, other glue', async (_program, serve) => {
    for (const [lines, expected] of [
      [CUT, ['confirmed', 'confirmed', 'confirmed', 0]],
      [CUT.replace('ns.larkpost', 'ns.quillwing'), ['wrong', 'confirmed', 'confirmed', 1]],
      [CUT.replace('192.0.2.61', '192.0.2.62'), ['confirmed', 'wrong', 'confirmed', 1]],
      [CUT.replace('DS 1 ', 'DS 2 '), ['confirmed', 'confirmed', 'wrong', 1]],
    ] as const) {
      const folder = folderWith({ [`${ZONE}.zone`]: text(CUT), 'served.zone': text(lines) })
      const server = await started(serve({ [ZONE]: join(folder, 'served.zone') }))
      const ran = await run(folder, 'confirm', `${ZONE}.zone`, '--at', server.at, '--json')
      const status = statusOf(ran)
      expect([
        status[`isle.${ZONE}. NS`],
        status[`ns1.isle.${ZONE}. A`],
        status[`isle.${ZONE}. DS`],
        ran.status,
      ]).toEqual(expected)
      await running.pop()!.stop()
    }
  })
})

describe.skipIf(mayskip('named', 'unbound'))('a resolver that answers by itself', () => {
  const LINES = 'www A 192.0.2.10\nftp A 192.0.2.20\nchat A 192.0.2.30'
  const confirmed = async (lines: string[], write?: string): Promise<{ ran: Ran; folder: string }> => {
    const folder = folderWith({ [`zones/${ZONE}.zone`]: text(LINES), 'served.zone': text(LINES) })
    const server = await started(named({ [ZONE]: join(folder, 'served.zone') }))
    const resolver = await started(unbound([ZONE], server.port, lines))
    writeFileSync(
      join(folder, 'bramblefront.yaml'),
      `zones: [zones/*.zone]\nvantages:\n  - authoritative\n  - {label: lake, address: 127.0.0.1, port: ${resolver.port}}\nservers:\n  - {name: ns1.${ZONE}, address: 127.0.0.1, port: ${server.port}}\n`,
    )
    if (write) {
      const asker = new Asker({ label: 'somebody', address: '127.0.0.1', port: resolver.port }, CLOCK)
      await asker.ask(`www.${ZONE}.`, 1)
      asker.close()
      await run(folder, 'write', 'address', `www.${ZONE}`, write)
      writeFileSync(join(folder, 'served.zone'), text(LINES.replace('192.0.2.10', write), 2_026_112_801))
      server.reload()
      await new Promise((resolve) => setTimeout(resolve, 800))
    }
    return { ran: await run(folder, 'confirm', ZONE, '--json'), folder }
  }
  const causes = (ran: Ran): Record<string, string[]> =>
    Object.fromEntries(
      ran.json().sets.map((each: any) => [each.owner.split('.')[0], each.causes.map(({ kind }: any) => kind)]),
    )

  test('local data, and a name that is blocked, are wrong and told as that', async () => {
    const { ran } = await confirmed([
      `local-zone: "${ZONE}." transparent`,
      `local-data: "www.${ZONE}. 300 A 203.0.113.9"`,
      `local-zone: "ftp.${ZONE}." always_nxdomain`,
    ])
    expect(ran.status).toBe(1)
    expect(statusOf(ran)).toMatchObject({
      [`www.${ZONE}. A`]: 'wrong',
      [`ftp.${ZONE}. A`]: 'wrong',
      [`chat.${ZONE}. A`]: 'confirmed',
    })
    expect(causes(ran)).toMatchObject({ www: ['answers-itself'], ftp: ['answers-itself'], chat: [] })
  })

  test('looks alike and is not: an earlier answer in the cache, with a floor under its TTL and without', async () => {
    for (const lines of [[], ['cache-min-ttl: 1200']]) {
      const { ran } = await confirmed(lines, '192.0.2.11')
      const www = ran.json().sets.find(({ owner }: any) => owner === `www.${ZONE}.`)
      expect([ran.status, www.status, www.causes]).toEqual([4, 'settling', []])
      const left = (Date.parse(www.until) - Date.parse(ran.json().at)) / 1000
      expect(left).toBeGreaterThan(lines.length > 0 ? 1100 : 500)
      expect(left).toBeLessThanOrEqual(lines.length > 0 ? 1201 : 601)
      for (const server of running.splice(0)) await server.stop()
    }
  })
})

test.skipIf(mayskip('named', 'nsd'))('a secondary is behind by its own timers', async () => {
  const folder = folderWith({
    [`${ZONE}.zone`]: text('www A 192.0.2.11', 5).replace('@ NS ns1', '@ NS ns1\n@ NS ns2\nns2 A 192.0.2.54'),
  })
  const old = text('www A 192.0.2.10', 4, '300 60 9999 300').replace('@ NS ns1', '@ NS ns1\n@ NS ns2\nns2 A 192.0.2.54')
  writeFileSync(join(folder, 'old.zone'), old)
  const first = await started(named({ [ZONE]: join(folder, `${ZONE}.zone`) }))
  const second = await started(nsd({ [ZONE]: join(folder, 'old.zone') }))
  const ran = await run(folder, 'confirm', `${ZONE}.zone`, '--at', first.at, '--at', second.at, '--json')
  const www = ran.json().sets.find(({ owner }: any) => owner === `www.${ZONE}.`)
  expect([www.status, (Date.parse(www.until) - Date.parse(ran.json().at)) / 1000]).toEqual(['settling', 360])
})
