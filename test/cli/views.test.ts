import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { folderWith, run } from './program.ts'

const zone = (address: string): string =>
  `$TTL 60\n@ SOA ns1.upland-dns.example. h.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\nwww A ${address}\n`
const folder = (): string =>
  folderWith({
    'bramblefront.yaml':
      'zones:\n  - {zone: a.example, file: zones/in/a.zone, view: inside, audience: private}\n  - {zone: a.example, file: zones/out/a.zone, view: outside}\n  - zones/b.example.zone\n',
    'zones/in/a.zone': zone('10.0.0.7'),
    'zones/out/a.zone': zone('198.51.100.7'),
    'zones/b.example.zone': zone('198.51.100.8').replace('@ SOA', '$ORIGIN b.example.\n@ SOA'),
  })

test.each([
  ['show', 'a.example'],
  ['show'],
  ['write', 'address', 'www.a.example', '198.51.100.9'],
  ['timing', 'a.example', 'www', 'A'],
  ['confirm', 'a.example', '--at', '127.0.0.1:9'],
])('%s %s without a view says which there are', async (...call) => {
  const { status, stderr } = await run(folder(), ...call)
  expect(status).toBe(2)
  expect(stderr).toMatch(/a\.example has several views \(inside, outside\).*--view inside/s)
})

test('a view that is none', async () => {
  const { status, stderr } = await run(folder(), 'show', '--view', 'out')
  expect(status).toBe(2)
  expect(stderr).toContain('inside, outside')
})

test('each view is shown, written, logged and backed up by itself', async () => {
  const here = folder()
  expect((await run(here, 'show', 'a.example', '--view', 'inside')).stdout).toContain('10.0.0.7')
  const outside = (await run(here, 'show', '--view', 'outside')).stdout
  expect(outside).toContain('198.51.100.7')
  expect(outside).toContain('b.example')
  expect(outside).not.toContain('10.0.0.7')
  const before = readFileSync(join(here, 'zones/in/a.zone'), 'utf8')
  for (const [view, address] of [
    ['outside', '203.0.113.9'],
    ['inside', '10.0.0.9'],
  ] as const) {
    expect((await run(here, 'write', 'address', 'www.a.example', address, '--view', view)).status).toBe(0)
    expect(readFileSync(join(here, `zones/${view.slice(0, -4)}/a.zone`), 'utf8')).toContain(address)
    if (view === 'outside') expect(readFileSync(join(here, 'zones/in/a.zone'), 'utf8')).toBe(before)
  }
  const log = readFileSync(join(here, 'log.jsonl'), 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
  expect(log.map(({ view }) => view)).toEqual(['outside', 'inside'])
  expect(log[1].sets[0].before.records).toEqual(['10.0.0.7'])
  for (const view of ['inside', 'outside']) expect(readdirSync(join(here, `backups/a.example@${view}`))).toHaveLength(1)
})

test('adopt takes a version of a zone into a view', async () => {
  const here = folder()
  const file = join(folderWith({ 'b.zone': zone('10.0.0.8') }), 'b.zone')
  expect((await run(here, 'adopt', file, '--zone', 'b.example', '--view', 'inside')).status).toBe(0)
  expect(existsSync(join(here, 'zones/inside/b.example.zone'))).toBe(true)
  expect((await run(here, 'show', 'b.example', '--view', 'inside')).stdout).toContain('10.0.0.8')
  expect((await run(here, 'show', 'b.example', '--view', 'outside')).stdout).toContain('198.51.100.8')
  expect((await run(here, 'check')).status).toBeLessThan(2)
})
