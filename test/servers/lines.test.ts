import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { foldName } from '../../src/core/names/name.ts'
import { rdataKey } from '../../src/core/records/rdata.ts'
import { check } from '../../src/core/rules/engine.ts'
import { transferZone } from '../../src/index.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith } from '../cli/program.ts'
import { knotd, mayskip, named, nsd, type RealServer } from './servers.ts'

const HEAD = '$TTL 3600\n@ SOA ns1 hostmaster 1 7200 900 1209600 3600\n@ NS ns1\nns1 A 192.0.2.53\n'

/** Lines as people write them; each is put into a zone of its own. */
const LINES = [
  'www A 192.0.2.1',
  // Quotes.
  '"www" A 192.0.2.1',
  '"@" A 192.0.2.1',
  'www "300" A 192.0.2.1',
  'www "IN" A 192.0.2.1',
  'www 300 IN "A" 192.0.2.1',
  'www A "192.0.2.1"',
  'www CNAME "site.larkpost.example."',
  'www MX "10" mail.larkpost.example.',
  'www MX 10 "mail.larkpost.example."',
  'www SRV 0 "1" 443 x.larkpost.example.',
  'www CAA 0 issue "ca.example"',
  'www CAA 0 issue ca.example',
  'www CAA "0" issue "ca.example"',
  'www NAPTR 100 10 "s" x "" y.',
  'www NAPTR 100 10 "s" "x" "" "y."',
  'www DS 1 8 2 "00"',
  'www SVCB 1 . port="53"',
  'www SVCB 1 . "port=53"',
  'www SVCB "1" . port=53',
  'www TYPE65280 \\# "1" 00',
  'www TYPE65280 "\\#" 1 00',
  '$TTL "300"\nwww A 192.0.2.1',
  '$ORIGIN "sub"\nwww A 192.0.2.1',
  'www URI 10 1 "https://x.example/"',
  'www URI 10 1 https://x.example/',
  '$ORIGIN sub\nwww A 192.0.2.1',
  '$INCLUDE FOLDER/included sub',
  '$INCLUDE FOLDER/included',
  '( www A 192.0.2.1 )',
  'www ( A 192.0.2.1 )',
  // Values that touch.
  'www TXT "a""b"',
  'www TXT "a"b',
  'www TXT a"b"',
  'www TXT a"b',
  'www TXT ("a" "b")',
  'www TXT "a";c',
  'www HINFO "a""b"',
  'www SVCB 1 . alpn="h2"port=53',
  // Ends of lines.
  'www TXT "a\nb"',
  'www TXT ( "a"\n"b" )',
  'www A 192.0.2.1\r',
  'www TXT "ä"',
  'www TXT "\\228"',
  // Times and numbers.
  'www 1h30m A 192.0.2.1',
  'www 1h30 A 192.0.2.1',
  'www 1H A 192.0.2.1',
  'www 4294967296 A 192.0.2.1',
  'www MX 010 mail.larkpost.example.',
  'www MX 00000000000010 mail.larkpost.example.',
  'www MX 65536 mail.larkpost.example.',
  'www A 192.0.2.01',
  // The generic form.
  'www A \\# 4 c00002 01',
  'www A \\# 4 0xc0000201',
  'www A \\# 5 c0000201',
  // Names.
  'w\\046w A 192.0.2.1',
  'w..w A 192.0.2.1',
  'w@w A 192.0.2.1',
  'w_w A 192.0.2.1',
  'www MX 10 mail..',
  '\\;w A 192.0.2.1',
  '$w A 192.0.2.1',
  // Types.
  'www TYPE1 \\# 4 c0000201',
  'www TYPE0 \\# 0',
  'www TYPE41 \\# 0',
  'www TYPE128 \\# 0',
  'www TYPE251 \\# 0',
  'www ANY \\# 0',
  'www TYPE65535 \\# 0',
  'www SVCB 1 . no-default-alpn',
  'www SVCB 1 . alpn=h2 no-default-alpn',
  '*.w NS ns1',
  'www SVCB 1 . ohttp',
  'www SVCB 1 . dohpath=/q{?dns}',
  'www SVCB 1 . key7=/q{?dns}',
  'www SVCB 1 . docpath=dns',
  'www SVCB 1 . docpath',
  'www SVCB 1 . key10',
  'www SVCB 1 . key1=\\002h2',
  'www SVCB 1 . key1=h2',
  'www SVCB 1 . key3=\\000\\053',
  'www SVCB 1 . alpn=h2 mandatory=key1',
  'www IPSECKEY 10 1 0 192.0.2.1 AQID',
  'www IPSECKEY 10 1 2 192.0.2.1',
  'www RRSIG A 8 2 3600 20261301000000 20250101000000 1 a.example. AAAA',
  'www RRSIG A 8 2 3600 20260230000000 20250101000000 1 a.example. AAAA',
  'www RRSIG A 8 2 3600 20260101235960 20250101000000 1 a.example. AAAA',
  'www A6 0 2001:db8::1',
  // Places and digests.
  'www LOC 42 21 54 N 71 06 18 W -24m 30m',
  'www LOC 42 21 54 n 71 06 18 W -24m 30m',
  'www LOC 42 21 54 N 71 06 18 W -24M 30m',
  'www LOC 42 21 54 N 71 06 18 W 42849672.95m 90000000m',
  'www LOC 42 21 54 N 71 06 18 W 42849672.96m',
  'www LOC 42 21 54 N 71 06 18 W -100000.01m',
  'www LOC 42 21 54 N 71 06 18 W 0m 90000001m',
  'www LOC 042 21 54 N 71 06 18 W 0m',
  'www SSHFP 2 1 00',
  '@ ZONEMD 1 1 1 00',
  'www CDS 1 8 2 00',
]

/** Lines that only one of the servers knows, for that one. */
const GENERATED = [
  '$GENERATE 1-2 g$ MX 10 mail$',
  '$GENERATE 1-2 g$ 300 IN MX "10 mail$"',
  '$GENERATE 1-2 g$ TXT "\\"a $\\""',
  '$GENERATE 1-2 g$ TXT "a $ b"',
  '$GENERATE 1-2 g$ "300" A 192.0.2.$',
  '$GENERATE "1-2" g$ A 192.0.2.$',
  '$GENERATE 1-2 g$$ A 192.0.2.$',
  '$GENERATE 2-1 $ A 192.0.2.$',
  '$GENERATE 0-1 ${-1} A 192.0.2.$',
  '$GENERATE 1-2 g${-3,4,x} A 192.0.2.$',
  '$GENERATE 1-2 g$ URI "1 1 x:y"',
  '$GENERATE 1-2 g$ URI "1 1 \\"x:y\\""',
  '$GENERATE 171-172 g${0,5,N}z A 192.0.2.$',
  '$GENERATE 17-18 g${0,0,n} A 192.0.2.$',
]

/** Lines at the end of a file, without a newline. */
const LAST = [
  'www A 192.0.2.1',
  'www TXT "a"',
  '; note',
  '$TTL 5',
  '$TTL 5 ; note',
  '$ORIGIN x.example.',
  '$INCLUDE FOLDER/included',
  '$INCLUDE FOLDER/included ; note',
]

/** Whole files. */
const WHOLE = [
  `\ufeff${HEAD}www A 192.0.2.1\n`,
  `${HEAD.replaceAll('\n', '\r\n')}www A 192.0.2.1\r\n`,
  `${HEAD}www A 192.0.2.1\n`,
]

/** A line and one more record behind the head of a zone, or a line that is the last. */
const followed = (lines: string[]): string[] => lines.map((line) => `${HEAD}${line}\nafter A 192.0.2.77\n`)
const TEXTS = [...followed(LINES), ...LAST.map((line) => HEAD + line), ...WHOLE]
const zoneOf = (i: number): string => `z${i}.example`

const key = (owner: string, ttl: number, type: number, data: Uint8Array): string =>
  `${foldName(owner)} ${ttl} ${type} ${rdataKey(type, data)}`

interface Ours {
  records: string[] | undefined
  /** Findings about the line, and those that say what servers do. */
  told: number
  blames: string[]
}

async function ours(file: string): Promise<Ours> {
  const zones = loadZones(bareFiles([file]))
  const { findings } = await check(zones)
  const { problems } = zones.sources[0]!
  const records = new Set<string>()
  for (let record = 0; record < zones.count; record++)
    records.add(key(zones.tree.text(zones.owner(record)), zones.ttl(record), zones.type(record), zones.rdata(record)))
  return {
    records: problems.some((each) => !each.read) ? undefined : [...records].sort(),
    told: findings.filter(({ line, rule }) => line > 4 || rule.startsWith('file/')).length,
    blames: findings
      .filter(
        ({ rule, effect }) =>
          /^(?:file|digest|svcb)\//.test(rule) && /servers? (?:refuses?|leaves?|takes?)/i.test(effect),
      )
      .map(({ rule }) => rule),
  }
}

const SERVERS = [
  ['named', named, [...TEXTS, ...followed(GENERATED)]],
  ['knotd', knotd, TEXTS],
  ['nsd', nsd, TEXTS],
] as const
/** By text: whether each server that read it has just what the reader has. */
const agreements = new Map<string, boolean[]>()

describe.each(SERVERS)('%s', (program, start, texts) => {
  const files: Record<string, string> = {}
  let server: RealServer
  beforeAll(async () => {
    if (mayskip(program)) return
    const folder = folderWith({})
    const put = (zone: string, text: string): void => writeFileSync((files[zone] = join(folder, `${zone}.zone`)), text)
    put('sound.example', HEAD)
    writeFileSync(join(folder, 'included'), 'inside A 192.0.2.88\n')
    texts.forEach((text, i) => {
      put(zoneOf(i), text.replace('FOLDER', folder))
    })
    server = await start(files)
  })
  afterAll(() => server?.stop())

  test.skipIf(mayskip(program)).each(texts.map((text, i) => [text.replace(HEAD, ''), i] as const))(
    '%s',
    async (_text, i) => {
      const transferred = await transferZone(
        { label: program, address: '127.0.0.1', port: server.port },
        `${zoneOf(i)}.`,
      )
      const theirs =
        'failed' in transferred
          ? undefined
          : transferred.records.map(({ owner, ttl, type, data }) => key(owner, ttl, type, data)).sort()
      const { records, told } = await ours(files[zoneOf(i)]!)
      const agree = JSON.stringify(theirs) === JSON.stringify(records)
      agreements.set(texts[i]!, [...(agreements.get(texts[i]!) ?? []), theirs !== undefined && agree])
      // What a server refuses, or reads as something else, is spoken of; what is not spoken of, it reads as the reader does.
      if (told === 0) expect(theirs).toEqual(records)
      // What the reader leaves out, some server refuses: that the others are more generous is no matter.
      if (theirs === undefined) expect(told).toBeGreaterThan(0)
    },
  )
})

test.skipIf(mayskip('named', 'knotd', 'nsd')).each(TEXTS)(
  'nothing is said of servers that none of the three does: %s',
  async (text) => {
    const folder = folderWith({ included: 'inside A 192.0.2.88\n' })
    const file = join(folder, `${zoneOf(0)}.zone`)
    writeFileSync(file, text.replace('FOLDER', folder))
    const { blames } = await ours(file)
    expect(agreements.get(text)).toHaveLength(3)
    if (agreements.get(text)!.every(Boolean)) expect(blames).toEqual([])
  },
)
