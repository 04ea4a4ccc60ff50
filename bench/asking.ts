// Asking ten thousand sets of one server on loopback, against a bare UDP loop of Node on the same server: both with as many questions under way, in turn, in one run.

import { type ChildProcess, spawn, spawnSync } from 'node:child_process'
import { createSocket } from 'node:dgram'
import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { performance } from 'node:perf_hooks'
import { CLOCK } from '../src/cli/clock.ts'
import { queryOctets } from '../src/core/message/encode.ts'
import { Asker } from '../src/net/ask.ts'

const NSD = '/usr/sbin/nsd'
const SETS = 10_000
const UNDER_WAY = 128
const ROUNDS = 9

const middle = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!

/** Questions a second of a loop that sends, waits for any answer, and sends the next. */
async function bare(port: number): Promise<number> {
  const socket = createSocket('udp4')
  await new Promise<void>((resolve) => socket.connect(port, '127.0.0.1', () => resolve()))
  const started = performance.now()
  let timer: NodeJS.Timeout | undefined
  await new Promise<void>((resolve) => {
    let sent = 0
    let heard = 0
    const next = (): void => {
      if (sent < SETS) socket.send(queryOctets(sent & 0xffff, `h${sent++}.bench.example.`, 1, { recursion: false }))
    }
    socket.on('message', () => {
      if (++heard >= SETS) resolve()
      else next()
    })
    for (let i = 0; i < UNDER_WAY; i++) next()
    // A datagram that is lost has nobody to send it again here.
    timer = setTimeout(resolve, 5000)
  })
  clearTimeout(timer)
  socket.close()
  return SETS / ((performance.now() - started) / 1000)
}

/** The same by this program: each question guarded, answered, read whole. */
async function asked(port: number): Promise<number> {
  const asker = new Asker({ label: 'bench', address: '127.0.0.1', port }, CLOCK)
  const started = performance.now()
  let next = 0
  const worker = async (): Promise<void> => {
    while (next < SETS) {
      const { message } = await asker.ask(`h${next++}.bench.example.`, 1, { recursion: false })
      if (message?.answers.length !== 1) throw new Error('an answer is missing')
    }
  }
  await Promise.all(Array.from({ length: UNDER_WAY }, worker))
  const rate = SETS / ((performance.now() - started) / 1000)
  asker.close()
  return rate
}

export async function asking(folder: string): Promise<void> {
  if (!existsSync(NSD)) return
  const port = 20_000 + Math.floor(Math.random() * 20_000)
  const lines = Array.from({ length: SETS }, (_, i) => `h${i} A 192.0.2.${i % 250}`)
  const zone = join(folder, 'asking.zone')
  writeFileSync(zone, `$TTL 3600\n@ SOA ns1 h 1 7200 900 1209600 300\n@ NS ns1\nns1 A 127.0.0.1\n${lines.join('\n')}\n`)
  const child = await nsd(folder, port, [['bench.example', zone]])
  try {
    await bare(port)
    await asked(port)
    const rounds: { bare: number; asked: number }[] = []
    const before = process.memoryUsage().rss
    for (let i = 0; i < ROUNDS; i++) rounds.push({ bare: await bare(port), asked: await asked(port) })
    const grown = (process.memoryUsage().rss - before) / 1048576
    console.log(
      `\nAsking ${SETS} sets of nsd on loopback: ${middle(rounds.map((each) => each.asked)).toFixed(0)} a second, a bare loop ${middle(rounds.map((each) => each.bare)).toFixed(0)}: ` +
        `${middle(rounds.map((each) => each.asked / each.bare)).toFixed(2)} of it (median of ${ROUNDS} pairs); the process grew by ${Math.max(0, grown).toFixed(0)} MiB over ${ROUNDS * SETS} questions`,
    )
  } finally {
    child.kill('SIGKILL')
  }
}

/** nsd on loopback with these zones, once it answers. */
async function nsd(folder: string, port: number, zones: readonly (readonly [string, string])[]): Promise<ChildProcess> {
  const config = join(folder, 'nsd.conf')
  writeFileSync(
    config,
    `server:\n  ip-address: 127.0.0.1@${port}\n  username: ""\n  zonesdir: "${folder}"\n  pidfile: "${folder}/nsd.pid"\n  database: ""\n  zonelistfile: "${folder}/nsd.list"\n  xfrdfile: "${folder}/nsd.xfrd"\n  xfrdir: "${folder}"\n  server-count: 1\nremote-control:\n  control-enable: no\n${zones
      .map(([name, file]) => `zone:\n  name: ${name}\n  zonefile: "${file}"\n`)
      .join('')}`,
  )
  const child: ChildProcess = spawn(NSD, ['-d', '-c', config], { stdio: 'ignore' })
  const probe = new Asker({ label: 'probe', address: '127.0.0.1', port }, CLOCK, {
    limitMs: 100,
    firstWaitMs: 50,
    patient: true,
  })
  while ((await probe.ask(`${zones[0]![0]}.`, 6)).message?.rcode !== 0)
    await new Promise((resolve) => setTimeout(resolve, 50))
  probe.close()
  return child
}

const ZONES = 2000
const PAIRS = 5

/** A whole `confirm` of thousands of zones, as a process, against asking the same questions alone: in turn, in one run. */
export async function confirming(folder: string): Promise<void> {
  if (!existsSync(NSD)) return
  const port = 20_000 + Math.floor(Math.random() * 20_000)
  const lines = [
    ...Array.from({ length: 20 }, (_, i) => `h${i} A 192.0.2.${i}`),
    ...Array.from({ length: 8 }, (_, i) => `t${i} TXT "x${i}"`),
    ...['@ MX 10 h1', '@ TXT "v=spf1 mx -all"', '_dmarc TXT "v=DMARC1; p=reject"', 'www CNAME h1'],
    ...['_imaps._tcp SRV 0 1 993 h1', 'h2 AAAA 2001:db8::1', 'h3 AAAA 2001:db8::2'],
  ]
  const head = '$TTL 3600\n@ SOA ns1.upland-dns.example. h 1 7200 900 1209600 300\n@ NS ns1.upland-dns.example.\n'
  mkdirSync(join(folder, 'zones'), { recursive: true })
  const zones = Array.from({ length: ZONES }, (_, i) => {
    const file = join(folder, 'zones', `z${i}.bench.example.zone`)
    writeFileSync(file, `${head}${lines.join('\n')}\n`)
    return [`z${i}.bench.example`, file] as const
  })
  writeFileSync(
    join(folder, 'bramblefront.yaml'),
    `zones: [zones/*.zone]\nvantages: [authoritative]\nservers:\n  - {name: ns1.upland-dns.example, address: 127.0.0.1, port: ${port}}\n`,
  )
  const questions = zones.flatMap(([zone]) => [
    [`${zone}.`, 6] as const,
    [`${zone}.`, 2] as const,
    ...lines.map((line) => {
      const [owner = '', type = ''] = line.split(' ')
      return [owner === '@' ? `${zone}.` : `${owner}.${zone}.`, TYPE_NUMBER[type]!] as const
    }),
  ])
  const child = await nsd(folder, port, zones)
  try {
    const pairs: { alone: number; whole: number }[] = []
    for (let i = 0; i <= PAIRS; i++) {
      const alone = askingAlone(port, questions)
      const started = performance.now()
      const { stdout } = spawnSync(process.execPath, [resolve('dist/bramblefront.js'), 'confirm'], {
        cwd: folder,
        encoding: 'utf8',
      })
      if (!stdout.includes(`All ${ZONES * lines.length} record sets are confirmed`)) throw new Error(stdout.slice(-300))
      // The first pair warms the disk.
      if (i > 0) pairs.push({ alone, whole: performance.now() - started })
    }
    console.log(
      `Confirming ${ZONES} zones with ${ZONES * lines.length} sets: ${middle(pairs.map(({ whole, alone }) => whole / alone)).toFixed(2)} of the time that asking alone takes in a process of its own (${middle(pairs.map(({ whole }) => whole)).toFixed(0)} and ${middle(pairs.map(({ alone }) => alone)).toFixed(0)} ms, medians of ${PAIRS} pairs)`,
    )
  } finally {
    child.kill('SIGKILL')
  }
}

const TYPE_NUMBER: Record<string, number> = { A: 1, AAAA: 28, MX: 15, TXT: 16, CNAME: 5, SRV: 33 }

/** Milliseconds for asking all of these and nothing else, in a process of its own: what `confirm` runs in is not warm either. Starting it does not count. */
function askingAlone(port: number, questions: readonly (readonly [string, number])[]): number {
  const { stdout } = spawnSync(process.execPath, ['--import', 'tsx', 'bench/ask-alone.ts', String(port)], {
    input: JSON.stringify(questions),
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  })
  return Number(stdout)
}
