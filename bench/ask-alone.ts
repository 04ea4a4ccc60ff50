// Asks the server at a port of loopback the questions that come by standard input, as fast as it goes, and prints the milliseconds that took.
import { readFileSync } from 'node:fs'
import { performance } from 'node:perf_hooks'
import { CLOCK } from '../src/cli/clock.ts'
import { Asker } from '../src/net/ask.ts'

const UNDER_WAY = 128

const questions = JSON.parse(readFileSync(0, 'utf8')) as [string, number][]
const asker = new Asker({ label: 'bench', address: '127.0.0.1', port: Number(process.argv[2]) }, CLOCK)
const started = performance.now()
let next = 0
const worker = async (): Promise<void> => {
  while (next < questions.length) {
    const [name, type] = questions[next++]!
    const { message } = await asker.ask(name, type, { recursion: false })
    if (message?.rcode !== 0) throw new Error(`no answer for ${name}`)
  }
}
await Promise.all(Array.from({ length: UNDER_WAY }, worker))
asker.close()
console.log(performance.now() - started)
