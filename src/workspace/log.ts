/** The workspace’s log: one JSON line for each change of a zone, each confirmation, and each state that all authoritative servers were first seen to have. */
import { closeSync, existsSync, openSync, readSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { foldName, type Name } from '../core/names/name.ts'
import { jsonText } from '../core/printable.ts'
import { finishJournal } from './journal.ts'
import { lock } from './lock.ts'
import { systemText, Trouble } from './trouble.ts'
import { append } from './write.ts'

export const LOG_FILE = 'log.jsonl'

/** So many octets of the log are held at a time. */
const PIECE = 1 << 22
/** Looking for more names than this in every line takes longer than parsing all of them. */
const MOST_NAMES = 8

/**
 * The lines of the log, oldest first; one that was cut off or is no JSON is passed over. With `zones`, those of these zones, and perhaps others:
 * only lines that hold one of these names are parsed, so that a long log needs no index beside it, which could be out of date.
 */
export function readLog(folder: string, zones?: readonly Name[]): unknown[] {
  const file = join(folder, LOG_FILE)
  if (!existsSync(file)) return []
  const wanted =
    zones && zones.length <= MOST_NAMES ? zones.map((zone) => Buffer.from(JSON.stringify(foldName(zone)))) : undefined
  const found: unknown[] = []
  try {
    for (const line of linesOf(file, wanted)) {
      try {
        found.push(JSON.parse(line.toString()))
      } catch {
        // It was cut off.
      }
    }
  } catch (error) {
    throw new Trouble(`cannot read ${file}: ${systemText(error)}`)
  }
  return found
}

/** The lines of a file, read in pieces; of those alone that hold one of `wanted`, where that is stated. */
function* linesOf(file: string, wanted: readonly Buffer[] | undefined): Generator<Buffer> {
  const descriptor = openSync(file, 'r')
  try {
    let rest = Buffer.alloc(0)
    for (;;) {
      const piece = Buffer.allocUnsafe(rest.length + PIECE)
      rest.copy(piece)
      const read = readSync(descriptor, piece, rest.length, PIECE, null)
      // The last line may have no end.
      const end = read === 0 ? rest.length : piece.lastIndexOf(0x0a, rest.length + read - 1) + 1
      const whole = piece.subarray(0, end)
      yield* wanted ? linesWith(whole, wanted) : linesIn(whole)
      rest = piece.subarray(end, rest.length + read)
      if (read === 0) return
    }
  } finally {
    closeSync(descriptor)
  }
}

/**
 * The lines of the log, newest first, one at a time: however long it is, only a piece of it is held. With `zone`, only those that may be its own are parsed.
 * What is no JSON is passed over.
 */
export function* logBackwards(folder: string, zone?: Name): Generator<unknown> {
  const file = join(folder, LOG_FILE)
  if (!existsSync(file)) return
  const wanted = zone === undefined ? undefined : Buffer.from(JSON.stringify(foldName(zone)))
  for (const line of linesBackwards(file)) {
    if (line.length === 0 || (wanted && !line.includes(wanted))) continue
    try {
      yield JSON.parse(line.toString())
    } catch {
      // It was cut off.
    }
  }
}

function* linesBackwards(file: string): Generator<Buffer> {
  const descriptor = openSync(file, 'r')
  try {
    let at = statSync(file).size
    let rest = Buffer.alloc(0)
    while (at > 0) {
      const size = Math.min(PIECE, at)
      at -= size
      const piece = Buffer.allocUnsafe(size + rest.length)
      rest.copy(piece, size)
      for (let read = 0; read < size; ) read += readSync(descriptor, piece, read, size - read, at + read)
      let end = piece.length
      for (
        let from = piece.lastIndexOf(0x0a, end - 1);
        from >= 0;
        from = from === 0 ? -1 : piece.lastIndexOf(0x0a, from - 1)
      ) {
        yield piece.subarray(from + 1, end)
        end = from
      }
      // The first line of a piece begins in the one before.
      rest = Buffer.from(piece.subarray(0, end))
    }
    yield rest
  } catch (error) {
    throw new Trouble(`cannot read ${file}: ${systemText(error)}`)
  } finally {
    closeSync(descriptor)
  }
}

function* linesIn(octets: Buffer): Generator<Buffer> {
  for (let from = 0; from < octets.length; ) {
    const end = lineEnd(octets, from)
    if (end > from) yield octets.subarray(from, end)
    from = end + 1
  }
}

/** The lines that hold one of these, in their order: what lies between them is not looked at line by line. */
function* linesWith(octets: Buffer, wanted: readonly Buffer[]): Generator<Buffer> {
  const starts = new Set<number>()
  for (const each of wanted)
    for (let at = octets.indexOf(each); at >= 0; at = octets.indexOf(each, lineEnd(octets, at)))
      starts.add(at === 0 ? 0 : octets.lastIndexOf(0x0a, at) + 1)
  for (const from of [...starts].sort((a, b) => a - b)) yield octets.subarray(from, lineEnd(octets, from))
}

function lineEnd(octets: Buffer, from: number): number {
  const end = octets.indexOf(0x0a, from)
  return end < 0 ? octets.length : end
}

/** Appends lines, under the lock; a last line that was cut off is closed first. `lines` is called once the lock is held. */
export async function appendLog(folder: string, lines: () => readonly object[]): Promise<void> {
  const file = join(folder, LOG_FILE)
  const held = await lock([folder])
  try {
    finishJournal(folder, held.check)
    const fresh = lines()
    if (fresh.length === 0) return
    held.check()
    append(file, (logEnd(file).open ? '\n' : '') + fresh.map((line) => `${jsonText(line)}\n`).join(''))
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
