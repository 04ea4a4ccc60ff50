/** The workspace’s log: one JSON line for each confirmation, and for each state that all authoritative servers were first seen to have. */
import { closeSync, existsSync, openSync, readFileSync, readSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { systemText, Trouble } from './trouble.ts'
import { appendToFile } from './write.ts'

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
    appendToFile(file, (open ? '\n' : '') + lines.map((line) => `${JSON.stringify(line)}\n`).join(''))
  } catch (error) {
    throw new Trouble(`cannot write ${file}: ${systemText(error)}`)
  }
}

/** Whether a file is empty or ends with a line's end. */
function endsLine(file: string): boolean {
  const { size } = statSync(file)
  if (size === 0) return true
  const descriptor = openSync(file, 'r')
  try {
    const last = new Uint8Array(1)
    readSync(descriptor, last, 0, 1, size - 1)
    return last[0] === 0x0a
  } finally {
    closeSync(descriptor)
  }
}
