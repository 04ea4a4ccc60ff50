/** Questions to a person: on the controlling terminal, since standard input may hold the data. */
// biome-ignore lint/style/noRestrictedImports: the terminal is opened to read from it.
import { openSync } from 'node:fs'
import { printable } from '../../core/printable.ts'

/** The terminal to read answers from: standard input, or where that holds data, the controlling one. */
function terminal(): number | undefined {
  if (process.stdout.isTTY !== true) return undefined
  if (process.stdin.isTTY === true) return 0
  try {
    return openSync('/dev/tty', 'r')
  } catch {
    return undefined
  }
}

let opened: { descriptor: number | undefined } | undefined
const answersFrom = (): number | undefined => (opened ??= { descriptor: terminal() }).descriptor

/** Whether a person is there to be asked. */
export const canAsk = (): boolean => answersFrom() !== undefined

/** Asks on the terminal; true for yes, false for everything else, and where nobody is there. */
export async function agreedTo(question: string): Promise<boolean> {
  return /^y(?:es)?$/i.test((await answered(`${question} [yes/no]`)) ?? '')
}

/** Asks on the terminal for a word; undefined where nobody is there. */
export async function answered(question: string): Promise<string | undefined> {
  const descriptor = answersFrom()
  if (descriptor === undefined) return undefined
  const { createInterface } = await import('node:readline/promises')
  const input = descriptor === 0 ? process.stdin : new (await import('node:tty')).ReadStream(descriptor)
  const asking = createInterface({ input, output: process.stdout })
  try {
    // Closed by the person (end of file, interrupt): no answer.
    const closed = new Promise<undefined>((resolve) => asking.once('close', () => resolve(undefined)))
    return (await Promise.race([asking.question(printable(`${question} `)), closed]))?.trim()
  } finally {
    asking.close()
    if (descriptor !== 0) {
      input.destroy()
      opened = undefined
    }
  }
}
