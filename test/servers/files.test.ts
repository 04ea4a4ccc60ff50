import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { foldName } from '../../src/core/names/name.ts'
import { octetsOf } from '../../src/core/names/octets.ts'
import { rdataKey } from '../../src/core/records/rdata.ts'
import { typeText } from '../../src/core/records/types.ts'
import { transferZone } from '../../src/index.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD, run } from '../cli/program.ts'
import { VECTORS } from '../core/records/vectors.ts'
import { knotd, mayskip, named, nsd, type RealServer } from './servers.ts'
import { UNREAD } from './unread.ts'

const ZONE = 'hollowmere.example.'

/** Everything that a zone file may hold by the standards, in as many styles as one file bears. */
const RICH = `\ufeff${HEAD}
; a comment with "quotes" and (parentheses
www\t300\tIN\tA\t192.0.2.10 ; behind a record
     IN 600 AAAA 2001:db8::10
UPPER      A ( 192.0.2.1 )
a\\.b.c     TXT "a;b" c\\;d "e\\"f" \\101\\009 "\\\\"
*.wild      MX  10 mail
$ORIGIN lake.hollowmere.example.
@           1h30m TXT ( "one"   ; first
                        "two" ) ; second
pier        A 192.0.2.20
$TTL 1d
boat        A 192.0.2.21
            TXT unquoted
$ORIGIN hollowmere.example.
mail        A 192.0.2.25
_imaps._tcp SRV 0 1 993 mail
\\*.literal  A 192.0.2.30
odd         TYPE65280 \\# 3 ( 01 02
                              03 )
also        A \\# 4 c0000207
last        A 192.0.2.99`.replace('\ufeff', '')

function key(owner: string, ttl: number, type: number, data: Uint8Array): string {
  return `${foldName(owner)} ${ttl} ${typeText(type)} ${Buffer.from(rdataKey(type, data), 'latin1').toString('hex')}`
}

function ours(file: string): string[] {
  const zones = loadZones(bareFiles([file], ZONE))
  expect(zones.sources.flatMap((source) => source.problems.filter((each) => !each.read))).toEqual([])
  return [
    ...new Set(
      Array.from({ length: zones.count }, (_, record) =>
        key(zones.tree.text(zones.owner(record)), zones.ttl(record), zones.type(record), zones.rdata(record)),
      ),
    ),
  ].sort()
}

async function theirs(start: (zones: Record<string, string>) => Promise<RealServer>, file: string): Promise<string[]> {
  const server = await start({ 'hollowmere.example': file })
  try {
    const transferred = await transferZone({ label: 'server', address: '127.0.0.1', port: server.port }, ZONE)
    if ('failed' in transferred) throw new Error(transferred.failed)
    return transferred.records.map((record) => key(record.owner, record.ttl, record.type, record.data)).sort()
  } finally {
    await server.stop()
  }
}

const SERVERS: [string, (zones: Record<string, string>) => Promise<RealServer>][] = [
  ['named', named],
  ['knotd', knotd],
  ['nsd', nsd],
]

describe.each(SERVERS)('%s', (program, start) => {
  test.skipIf(mayskip(program))('reads a file of every style as the reader does', async () => {
    const file = join(folderWith({ 'rich.zone': RICH }), 'rich.zone')
    expect(await theirs(start, file)).toEqual(ours(file))
  })

  test.skipIf(mayskip(program))('loads what “show --format” writes, and sends the same records back', async () => {
    const vectors = VECTORS.map(([type, text], i) => ({ type, text, i })).filter(
      ({ type }) => type !== 'SOA' && !UNREAD[program]!.includes(type),
    )
    const folder = folderWith({
      'rich.zone': `${RICH}\n${vectors.map(({ type, text, i }) => `v${i} ${type} ${text}`).join('\n')}\n`,
    })
    const before = ours(join(folder, 'rich.zone'))
    for (const form of ['zone', 'canonical', 'generic']) {
      const { stdout, stderr, status } = await run(folder, 'show', 'rich.zone', '--zone', ZONE, '--format', form)
      expect([status, stderr]).toEqual([0, ''])
      const written = join(folderWith({ 'written.zone': octetsOf(stdout) }), 'written.zone')
      expect(ours(written)).toEqual(before)
      expect(await theirs(start, written)).toEqual(before)
    }
  })
})

test.skipIf(mayskip('named'))('named includes and generates as the reader does', async () => {
  const folder = folderWith({
    'parts/inner': '$TTL 77\nin A 192.0.2.1\n$ORIGIN deep\nx A 192.0.2.2\n',
    'main.zone': `${HEAD}before A 192.0.2.3\n$INCLUDE ${'parts/inner'} sub\n       AAAA 2001:db8::4\n$ORIGIN lake\n@ A 192.0.2.8\n$ORIGIN hollowmere.example.\nafter A 192.0.2.5\n$GENERATE 1-5/2 g\${1,3,x} 60 A 192.0.2.$\n$GENERATE 1-2 h$ CNAME g\${0,3}\n`,
  })
  const main = join(folder, 'main.zone')
  // named looks for includes in its own folder; an absolute path is the same file for both. (A relative $ORIGIN is refused by knotd and nsd.)
  const absolute = join(folderWith({ 'main.zone': RICH }), 'absolute.zone')
  writeFileSync(absolute, readFileSync(main, 'utf8').replace('parts/inner', join(folder, 'parts/inner')))
  expect(await theirs(named, absolute)).toEqual(ours(main))
})

test.skipIf(mayskip('nsd'))('nsd lets a text go on over the end of a line, as the reader does', async () => {
  const text = `${HEAD}note TXT "one ; (\ntwo" ( "three\\"\n\nfour"\n) ; five\nafter A 192.0.2.5\n`
  const file = join(folderWith({ 'text.zone': text }), 'text.zone')
  expect(await theirs(nsd, file)).toEqual(ours(file))
  // And what is written beside it leaves it as it stands.
  const folder = folderWith({ 'text.zone': text })
  expect(
    await run(folder, 'write', 'address', 'after', '192.0.2.6', '--file', 'text.zone', '--zone', ZONE, '--force'),
  ).toMatchObject({ status: 0 })
  const written = readFileSync(join(folder, 'text.zone'), 'utf8')
  expect(written).toContain('note TXT "one ; (\ntwo" ( "three\\"\n\nfour"\n) ; five\n')
  expect(ours(join(folder, 'text.zone')).length).toBe(ours(file).length)
})
