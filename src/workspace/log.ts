/** The workspace’s log: one JSON line for each confirmation, and for each state that all authoritative servers were first seen to have. */
import { appendFileSync, existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { systemText, Trouble } from './trouble.ts'

export const LOG_FILE = 'log.jsonl'

/** The lines of the log, oldest first; one that was cut off or is no JSON is passed over. */
export function readLog(folder: string): unknown[] {
  const file = join(folder, LOG_FILE)
  if (!existsSync(file)) return []
  let text: string
  try {
    text = readFileSync(file, 'utf8')
  } catch (error) {
    throw new Trouble(`cannot read ${file}: ${systemText(error)}`)
  }
  return text.split('\n').flatMap((line) => {
    if (line === '') return []
    try {
      return [JSON.parse(line)]
    } catch {
      return []
    }
  })
}

/** Appends lines, all with one write, so that two processes do not mix theirs; a last line that was cut off is closed first. */
export function appendLog(folder: string, lines: readonly object[]): void {
  if (lines.length === 0) return
  const file = join(folder, LOG_FILE)
  try {
    const open = existsSync(file) && !endsLine(file)
    appendFileSync(file, (open ? '\n' : '') + lines.map((line) => `${JSON.stringify(line)}\n`).join(''))
  } catch (error) {
    throw new Trouble(`cannot write ${file}: ${systemText(error)}`)
  }
}

function endsLine(file: string): boolean {
  const octets = readFileSync(file)
  return octets.length === 0 || octets[octets.length - 1] === 0x0a
}
