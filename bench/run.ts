// Side-by-side measurements, each in one run on one machine, as ratios. Absolute times are of this machine and this hour only.
// npm run bench [records, default 1000000; or “asking”, or “workspace” and a number of zones, for that part alone]

import { spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { build } from 'rolldown'
import { CLOCK } from '../src/cli/clock.ts'
import type { Found, Lookup } from '../src/core/mail/lookup.ts'
import { checkHost } from '../src/core/mail/spf/check-host.ts'
import { Asker } from '../src/net/ask.ts'
import { type Layout, makeZone, oneOfMany } from './zones.ts'

const PROGRAM = 'dist/bramblefront.js'
const records = Number(process.argv[2] ?? 1_000_000) || 1_000_000
const folder = mkdtempSync(join(tmpdir(), 'bramblefront-bench-'))
const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!

interface Ran {
  seconds: number
  megabytes: number
  stdout: string
}

/** Runs Node once; the memory is the process's largest, as it says itself when it ends. */
function node(...args: string[]): Ran {
  const tell = 'data:text/javascript,process.on("exit",()=>process.stderr.write("rss "+process.resourceUsage().maxRSS))'
  const started = performance.now()
  const { stdout, stderr } = spawnSync(process.execPath, ['--import', tell, ...args], {
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  })
  return {
    seconds: (performance.now() - started) / 1000,
    megabytes: Number(/rss (\d+)/.exec(stderr)?.[1]) / 1024,
    stdout,
  }
}

/** The ratio of two calls of Node, run in turn, as the median over pairs. */
function ratio(what: string, a: string[], b: string[], runs: number): void {
  const time = (args: string[]): number => {
    const started = performance.now()
    spawnSync(process.execPath, args, { stdio: 'ignore' })
    return performance.now() - started
  }
  time(a)
  time(b)
  const ratios = Array.from({ length: runs }, () => time(a) / time(b))
  console.log(`${what.padEnd(66)} ${median(ratios).toFixed(2)}`)
}

function planted(stdout: string, expected: Record<string, number>): string {
  const { findings } = JSON.parse(stdout)
  const found: Record<string, number> = {}
  for (const { rule } of findings) found[rule] = (found[rule] ?? 0) + 1
  for (const [rule, count] of Object.entries(expected))
    if (found[rule] !== count) throw new Error(`${rule}: ${count} planted, ${found[rule] ?? 0} found`)
  return `${findings.length} planted faults found`
}

type Config = (port: number, zone: string, file: string) => { config: string; args: (path: string) => string[] }

const SERVERS: Record<string, Config> = {
  named: (port, zone, file) => ({
    config: `options { directory "${folder}"; pid-file none; session-keyfile "${folder}/session.key"; lock-file none; listen-on port ${port} { 127.0.0.1; }; listen-on-v6 { none; }; recursion no; check-names primary ignore; check-mx ignore; check-mx-cname ignore; check-integrity no; notify no; };
controls { };
zone "${zone}" { type primary; file "${file}"; };`,
    args: (path) => ['-g', '-c', path],
  }),
  nsd: (port, zone, file) => ({
    config: `server:
  ip-address: 127.0.0.1@${port}
  username: ""
  zonesdir: "${folder}"
  pidfile: "${folder}/nsd.pid"
  database: ""
  zonelistfile: "${folder}/zone.list"
  xfrdfile: "${folder}/xfrd.state"
  xfrdir: "${folder}"
  server-count: 1
remote-control:
  control-enable: no
zone:
  name: "${zone}"
  zonefile: "${file}"
`,
    args: (path) => ['-d', '-c', path],
  }),
}

/** Seconds from the start of a server to its first answer for the zone; undefined where it is not installed or does not answer. */
async function firstAnswer(program: string, zone: string, file: string): Promise<number | undefined> {
  const path = `/usr/sbin/${program}`
  if (!existsSync(path)) return undefined
  const port = 20_000 + Math.floor(Math.random() * 20_000)
  const { config, args } = SERVERS[program]!(port, zone, file)
  const configFile = join(folder, `${program}.conf`)
  writeFileSync(configFile, config)
  const started = performance.now()
  const child = spawn(path, args(configFile), { stdio: 'ignore' })
  const asker = new Asker({ label: program, address: '127.0.0.1', port }, CLOCK, {
    limitMs: 30,
    firstWaitMs: 20,
    patient: true,
  })
  try {
    while (performance.now() - started < 120_000 && child.exitCode === null) {
      const { message } = await asker.ask(`${zone}.`, 6)
      if (message?.rcode === 0 && message.authoritative) return (performance.now() - started) / 1000
      await new Promise((resolve) => setTimeout(resolve, 10))
    }
    return undefined
  } finally {
    asker.close()
    child.kill('SIGKILL')
    await new Promise((resolve) => setTimeout(resolve, 300))
  }
}

const loader = join(folder, 'load.mjs')
writeFileSync(
  loader,
  `import { readFileSync } from 'node:fs'\nimport { keepTogether } from ${JSON.stringify(new URL('../dist/index.js', import.meta.url).href)}\nkeepTogether([{ input: readFileSync(process.argv[2]), zone: 'bench.example' }])\n`,
)

/** One zone in one layout: loading, loading and checking, one write, each against servers and one another. */
async function oneZone(layout: Layout): Promise<void> {
  const big = makeZone('bench.example', records, true, layout)
  const home = join(folder, 'one')
  mkdirSync(home, { recursive: true })
  const file = join(home, 'bench.example.zone')
  writeFileSync(file, big.text)
  spawnSync('sync')
  const mebibytes = statSync(file).size / 1048576
  console.log(`\nOne zone of ${big.records} records, ${layout}, ${mebibytes.toFixed(0)} MiB (medians of 5 rounds)`)
  const rounds: Record<string, number[]> = {}
  const note = (what: string, value: number | undefined): void => {
    if (value !== undefined) rounds[what] = [...(rounds[what] ?? []), value]
  }
  let found = ''
  for (let round = 0; round < 5; round++) {
    note('load', node(loader, file).seconds)
    const checked = node(PROGRAM, 'check', file, '--json')
    note('load and check', checked.seconds)
    note('memory', checked.megabytes)
    found = planted(checked.stdout, big.planted)
    for (const program of Object.keys(SERVERS)) note(program, await firstAnswer(program, 'bench.example', file))
    // Last, and with the disk done before the next round: what is still being written slows down whatever runs beside it.
    const written = node(PROGRAM, 'write', 'address', 'h64x.bench.example', `192.0.2.${round}`, '--file', file)
    note('write', written.seconds)
    writeFileSync(file, big.text)
    spawnSync('sync')
  }
  const figure = (what: string): number => median(rounds[what] ?? [Number.NaN])
  console.log(
    `  load ${figure('load').toFixed(2)} s; load and check ${figure('load and check').toFixed(2)} s; one write ${figure('write').toFixed(2)} s; ${found}`,
  )
  console.log(`  memory ${figure('memory').toFixed(0)} MiB (wanted: at most ${(mebibytes * 10 + 60).toFixed(0)})`)
  for (const program of Object.keys(SERVERS))
    console.log(
      `  ${program} first answers after ${figure(program).toFixed(2)} s: load ${(figure('load') / figure(program)).toFixed(2)}, load and check ${(figure('load and check') / figure(program)).toFixed(2)} of that`,
    )
  console.log(`  one write is ${(figure('write') / figure('load')).toFixed(2)} of a load`)
}

/** Ten thousand senders judged by SPF, against as many lookups alone: what is asked is there at once, so this is the evaluation's own time. */
async function evaluations(): Promise<void> {
  const text = (data: string): Found => ({ data: [data] })
  const known = new Map<string, Found>([
    ['hollowmere.example. TXT', text('v=spf1 mx include:_spf.larkpost.example include:_spf.quillwing.example ~all')],
    ['hollowmere.example. MX', { data: ['10 office.hollowmere.example.', '20 mx2.larkpost.example.'] }],
    ['office.hollowmere.example. A', text('192.0.2.25')],
    ['mx2.larkpost.example. A', text('198.51.100.26')],
    ['_spf.larkpost.example. TXT', text('v=spf1 ip4:198.51.100.0/27 include:_relay.larkpost.example ~all')],
    ['_relay.larkpost.example. TXT', text('v=spf1 a:out.larkpost.example ip4:198.51.100.64/28 ~all')],
    ['out.larkpost.example. A', text('198.51.100.70')],
    ['_spf.quillwing.example. TXT', text('v=spf1 ip4:203.0.113.128/26 exists:%{i}._senders.quillwing.example ~all')],
  ])
  let lookups = 0
  const lookup: Lookup = async (name, type) => {
    lookups++
    return known.get(`${name} ${type}`) ?? { trouble: 'no-name' }
  }
  const results: Record<string, number> = {}
  const judge = async (rounds: number): Promise<void> => {
    for (let i = 0; i < rounds; i++) {
      const { result } = await checkHost({
        ip: `203.0.113.${i & 255}`,
        helo: 'x.example',
        mailFrom: 'crew@hollowmere.example',
        lookup,
      })
      results[result] = (results[result] ?? 0) + 1
    }
  }
  await judge(1000)
  lookups = 0
  const heap = process.memoryUsage().heapUsed
  const started = performance.now()
  await judge(10_000)
  const took = performance.now() - started
  const asked = lookups
  const bare = performance.now()
  for (let i = 0; i < asked; i++) await lookup('out.larkpost.example.', 'A')
  console.log(
    `\n10000 SPF evaluations of a record with six lookups: ${took.toFixed(0)} ms (${(took / 10).toFixed(0)} microseconds each, ${(asked / 10_000).toFixed(1)} lookups each), ${(took / (performance.now() - bare)).toFixed(1)} times the lookups alone; the heap grew by ${Math.max(0, (process.memoryUsage().heapUsed - heap) / 1048576).toFixed(0)} MiB`,
  )
  if ((results.pass ?? 0) === 0 || (results.softfail ?? 0) === 0) throw new Error('senders of both kinds were expected')
}

const SMALL = join(folder, 'lakepass.example.zone')
writeFileSync(
  SMALL,
  '$TTL 1d\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 3 7200 900 1209600 3600\n NS ns1.upland-dns.example.\n NS ns2.upland-dns.example.\n MX 0 .\n TXT "v=spf1 -all"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:dmarc@larkpost.example"\n',
)

/** Bundled as the program is: how it is run here wraps every function once more. */
async function asking(): Promise<void> {
  const outfile = join(folder, 'asking.mjs')
  await build({
    input: 'bench/asking.ts',
    platform: 'node',
    transform: { target: 'node20' },
    output: { file: outfile, format: 'esm', codeSplitting: false, minify: { compress: true, mangle: false } },
  })
  const bundled = await import(outfile)
  await bundled.asking(folder)
  await bundled.confirming(folder)
}

/** Commands about one zone of many, against the same in a workspace of that zone alone; whole processes, by turns. */
function amongMany(count: number): void {
  console.log(`\nOne zone among ${count}, against one alone (medians)`)
  const [many, one] = [count, 1].map((zones) => {
    const place = join(folder, `of-${zones}`)
    mkdirSync(join(place, 'zones'), { recursive: true })
    writeFileSync(join(place, 'bramblefront.yaml'), 'zones: [zones/*.zone]\n')
    for (let i = 0; i < zones; i++) {
      const file = join(place, 'zones', `line${i}.example.zone`)
      writeFileSync(file, oneOfMany(i))
      utimesSync(file, 1_700_000_000, 1_700_000_000)
    }
    return { place, zone: `line${zones >> 1}.example` }
  }) as [{ place: string; zone: string }, { place: string; zone: string }]
  const first = node(PROGRAM, 'show', many.zone, '--workspace', many.place)
  console.log(
    `  the first call, which makes the index: ${first.seconds.toFixed(2)} s, ${first.megabytes.toFixed(0)} MB`,
  )
  const calls: [string, (zone: string, run: number) => string[]][] = [
    ['show', (zone) => ['show', zone]],
    ['write', (zone, run) => ['write', 'txt', zone, `proof=${run}`]],
    ['sheet', (zone) => ['sheet', zone]],
    ['timing', (zone) => ['timing', zone]],
    ['diff', (zone) => ['diff', zone, '--with', '2026-01-01']],
    ['history', (zone) => ['history', zone]],
  ]
  for (const [what, args] of calls) {
    const seconds: [number[], number[]] = [[], []]
    let megabytes = 0
    for (let run = 0; run < 7; run++)
      for (const [i, { place, zone }] of [many, one].entries()) {
        const ran = node(PROGRAM, ...args(zone, run), '--workspace', place)
        seconds[i]!.push(ran.seconds)
        if (i === 0) megabytes = ran.megabytes
      }
    const [a, b] = [median(seconds[0]), median(seconds[1])]
    console.log(
      `  ${what.padEnd(8)} ${a.toFixed(2)} s, ${megabytes.toFixed(0)} MB: ${(a / b).toFixed(2)} times as long`,
    )
  }
}

/** One zone’s history in a log of many entries, against the start of the program. */
function longLog(entries: number): void {
  const place = join(folder, `log-${entries}`)
  mkdirSync(join(place, 'zones'), { recursive: true })
  writeFileSync(join(place, 'bramblefront.yaml'), 'zones: [zones/*.zone]\n')
  writeFileSync(join(place, 'zones', 'line1.example.zone'), oneOfMany(1))
  const sides = { before: { ttl: 60, records: ['192.0.2.1'] }, after: { ttl: 60, records: ['192.0.2.2'] } }
  const lines = Array.from({ length: entries }, (_, i) => {
    const zone = `line${i % 1000}.example.`
    const at = new Date(1_700_000_000_000 + i * 60_000).toISOString()
    const sets = [{ owner: `www.${zone}`, type: 'A', ...sides }]
    const entry = {
      id: `${at}-${i}`,
      at,
      zone,
      what: 'change',
      command: 'write address',
      file: 'x',
      serial: null,
      sets,
    }
    return `${JSON.stringify({ ...entry, findings: { added: [], gone: [] }, backup: null, digest: String(i) })}\n`
  })
  writeFileSync(join(place, 'log.jsonl'), lines.join(''))
  ratio(
    `  history of one zone in ${entries} entries, against a small check`,
    [PROGRAM, 'history', 'line1.example', '--workspace', place],
    [PROGRAM, 'check', SMALL],
    11,
  )
}

if (process.argv[2] === 'workspace') {
  const count = Number(process.argv[3] ?? 10_000)
  amongMany(count)
  longLog(10_000)
  longLog(200_000)
  rmSync(folder, { recursive: true, force: true })
  process.exit()
}

if (process.argv[2] === 'asking') {
  await asking()
  rmSync(folder, { recursive: true, force: true })
  process.exit()
}

try {
  console.log('Starting, against node -e 0 (median ratio of pairs)')
  ratio('  --version', [PROGRAM, '--version'], ['-e', '0'], 21)
  ratio('  check of a small zone', [PROGRAM, 'check', SMALL], ['-e', '0'], 21)
  ratio(
    '  check of the demo zone, five findings',
    [PROGRAM, 'check', 'demo/zones/hollowmere.example.zone'],
    ['-e', '0'],
    21,
  )

  amongMany(10_000)
  longLog(10_000)
  await evaluations()
  await asking()
  await oneZone('relative names in order')
  await oneZone('absolute names, shuffled')

  console.log('\nGrowth: load and check, microseconds a record')
  for (const size of [records / 100, records / 10, records]) {
    const made = makeZone('bench.example', size)
    const file = join(folder, 'growth.zone')
    writeFileSync(file, made.text)
    const start = median([1, 2, 3].map(() => node(PROGRAM, 'check', SMALL).seconds))
    const seconds = median([1, 2, 3].map(() => node(PROGRAM, 'check', file, '--json').seconds))
    console.log(`  ${String(made.records).padStart(8)}  ${(((seconds - start) / made.records) * 1e6).toFixed(2)}`)
  }

  const count = Math.round(records / 100)
  console.log(`\n${count} zones of forty records`)
  mkdirSync(join(folder, 'zones'))
  let small = 0
  const expected: Record<string, number> = {}
  for (let i = 0; i < count; i++) {
    const made = makeZone(`z${i}.example`, 40, i % 1000 === 0)
    small += made.records
    for (const [rule, planted] of Object.entries(made.planted)) expected[rule] = (expected[rule] ?? 0) + planted
    writeFileSync(join(folder, 'zones', `z${i}.example.zone`), made.text)
  }
  writeFileSync(join(folder, 'bramblefront.yaml'), 'zones: [zones/*.zone]\n')
  const one = makeZone('one.example', small)
  const oneFile = join(folder, 'one.example.zone')
  writeFileSync(oneFile, one.text)
  const pairs = [1, 2, 3, 4, 5].map(() => {
    const many = node(PROGRAM, 'check', '--workspace', folder, '--json')
    planted(many.stdout, expected)
    const single = node(PROGRAM, 'check', oneFile, '--json')
    planted(single.stdout, one.planted)
    return { many: many.seconds, single: single.seconds, ratio: many.seconds / small / (single.seconds / one.records) }
  })
  const middle = pairs.sort((a, b) => a.ratio - b.ratio)[2]!
  console.log(
    `  ${middle.many.toFixed(2)} s for ${small} records; as one zone ${middle.single.toFixed(2)} s: per record ${middle.ratio.toFixed(2)} times as much`,
  )
} finally {
  rmSync(folder, { recursive: true, force: true })
}
