/** The workspace’s log: one JSON line for each change of a zone, each confirmation, and each state that all authoritative servers were first seen to have. */
import { closeSync, existsSync, openSync, readFileSync, readSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { finishJournal } from './journal.ts'
import { lock } from './lock.ts'
import { systemText, Trouble } from './trouble.ts'
import { appendFrom } from './write.ts'

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

/** Appends lines; a last line that was cut off is closed first. */
export async function appendLog(folder: string, lines: readonly object[]): Promise<void> {
  if (lines.length === 0) return
  const file = join(folder, LOG_FILE)
  const held = await lock([folder])
  try {
    finishJournal(folder)
    const { size, open } = logEnd(file)
    appendFrom(file, size, (open ? '\n' : '') + lines.map((line) => `${JSON.stringify(line)}\n`).join(''))
  } catch (error) {
    throw error instanceof Trouble ? error : new Trouble(`cannot write ${file}: ${systemText(error)}`)
  } finally {
    await held.release()
  }
}

/** How long a log is, and whether its last line is open. */
export function logEnd(file: string): { size: number; open: boolean } {
  if (!existsSync(file)) return { size: 0, open: false }
  const { size } = statSync(file)
  if (size === 0) return { size, open: false }
  const descriptor = openSync(file, 'r')
  try {
    const last = new Uint8Array(1)
    readSync(descriptor, last, 0, 1, size - 1)
    return { size, open: last[0] !== 0x0a }
  } finally {
    closeSync(descriptor)
  }
}
