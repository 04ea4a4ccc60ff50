/** Long output piece by piece: waits while the reader is slow, and ends quietly when the reader has gone. */
import { print } from './terminal.ts'

const PIECE = 1 << 16

/** Writes pieces to standard output. */
export async function stream(pieces: Iterable<string>): Promise<void> {
  let waiting = ''
  const flush = async (): Promise<boolean> => {
    if (process.stdout.destroyed || !process.stdout.writable) return false
    const text = waiting
    waiting = ''
    if (!print(text)) await new Promise<void>((resolve) => process.stdout.once('drain', resolve))
    return true
  }
  for (const piece of pieces) {
    waiting += piece
    if (waiting.length >= PIECE && !(await flush())) return
  }
  if (waiting !== '') await flush()
}
