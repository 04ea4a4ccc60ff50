// Asking ten thousand sets of one server on loopback, against a bare UDP loop of Node on the same server: both with as many questions under way, in turn, in one run.

import { type ChildProcess, spawn } from 'node:child_process'
import { createSocket } from 'node:dgram'
import { existsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { CLOCK } from '../src/cli/clock.ts'
import { queryOctets } from '../src/core/message/encode.ts'
import { Asker } from '../src/net/ask.ts'

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
  const program = '/usr/sbin/nsd'
  if (!existsSync(program)) return
  const port = 20_000 + Math.floor(Math.random() * 20_000)
  const lines = Array.from({ length: SETS }, (_, i) => `h${i} A 192.0.2.${i % 250}`)
  const zone = join(folder, 'asking.zone')
  writeFileSync(zone, `$TTL 3600\n@ SOA ns1 h 1 7200 900 1209600 300\n@ NS ns1\nns1 A 127.0.0.1\n${lines.join('\n')}\n`)
  const config = join(folder, 'asking.conf')
  writeFileSync(
    config,
    `server:\n  ip-address: 127.0.0.1@${port}\n  username: ""\n  zonesdir: "${folder}"\n  pidfile: "${folder}/asking.pid"\n  database: ""\n  zonelistfile: "${folder}/asking.list"\n  xfrdfile: "${folder}/asking.xfrd"\n  xfrdir: "${folder}"\n  server-count: 1\nremote-control:\n  control-enable: no\nzone:\n  name: bench.example\n  zonefile: "${zone}"\n`,
  )
  const child: ChildProcess = spawn(program, ['-d', '-c', config], { stdio: 'ignore' })
  const probe = new Asker({ label: 'probe', address: '127.0.0.1', port }, CLOCK, {
    limitMs: 100,
    firstWaitMs: 50,
    patient: true,
  })
  while ((await probe.ask('bench.example.', 6)).message?.rcode !== 0)
    await new Promise((resolve) => setTimeout(resolve, 50))
  probe.close()
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
