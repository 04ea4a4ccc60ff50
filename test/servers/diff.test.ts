/** `diff` at real servers: by zone transfer where one is allowed, else set by set, and both together. */
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, type Ran, run } from '../cli/program.ts'
import { knotd, mayskip, named, nsd } from './servers.ts'
import { running } from './started.ts'

const ZONE = 'hollowmere.example'
const LINES = 'www A 192.0.2.1\n@ TXT "a" "b"\n*.w CNAME www\nmail MX 10 www\n'
/** Whoever has no key gets no transfer. */
const KEY = { name: 'quay', algorithm: 'hmac-sha256', secret: Buffer.alloc(32, 7).toString('base64') }
const told = (ran: Ran): string[] =>
  ran
    .json()
    .sets.map((set: any) =>
      [set.owner.replace(`.${ZONE}.`, ''), set.type, set.change, ...set.missing, ...set.extra].join(' '),
    )
    .sort()
const DIFFERENT = [
  '*.w CNAME changed hollowmere.example. www.hollowmere.example.',
  'mail MX added 10 www.hollowmere.example.',
  'www A ttl',
]

describe.skipIf(mayskip('named', 'knotd', 'nsd'))('the zone at its servers', () => {
  test.each([
    ['named', named],
    ['knotd', knotd],
    ['nsd', nsd],
  ] as const)('by transfer from %s: what nobody here knows of, too', async (_what, start) => {
    const folder = folderWith({
      'bramblefront.yaml': 'zones: [zones/*.zone]\n',
      [`zones/${ZONE}.zone`]: HEAD + LINES.replace('CNAME www', 'CNAME @'),
      same: HEAD + LINES,
      served: `${HEAD}www 60 A 192.0.2.1\n@ TXT "a" "b"\n*.w CNAME www\nstranger A 192.0.2.9\n`,
    })
    const server = await start({ [ZONE]: join(folder, 'served') })
    running.push(server)
    const ran = await run(folder, 'diff', ZONE, '--with', server.at, '--json')
    expect([ran.status, told(ran)]).toEqual([1, [...DIFFERENT, 'stranger A removed 192.0.2.9'].sort()])
    expect((await run(folder, 'diff', 'same', '--zone', ZONE, '--with', 'same')).status).toBe(0)
  })

  test('set by set where no transfer is allowed', async () => {
    const folder = folderWith({
      'bramblefront.yaml': 'zones: [zones/*.zone]\n',
      [`zones/${ZONE}.zone`]: HEAD + LINES.replace('CNAME www', 'CNAME @'),
      served: `${HEAD}www 60 A 192.0.2.1\n@ TXT "a" "b"\n*.w CNAME www\nstranger A 192.0.2.9\n`,
    })
    const server = await named({ [ZONE]: join(folder, 'served') }, undefined, KEY)
    running.push(server)
    const ran = await run(folder, 'diff', ZONE, '--with', server.at, '--json')
    expect([ran.status, told(ran)]).toEqual([1, DIFFERENT])
  })
})
