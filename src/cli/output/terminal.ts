/** The one way out: whatever is printed goes through here, and nothing of it that came from outside is obeyed. Lint forbids any other. */
import { printableOutput } from '../../core/printable.ts'

/** Where no terminal is told anything, nothing is taken for what it is told. */
const printableOn = (stream: NodeJS.WriteStream, text: string): string =>
  printableOutput(text, stream.isTTY === true || process.env.FORCE_COLOR !== undefined)

let isPrinted = false

/** Whether this call has printed anything on standard output yet. */
export const hasPrinted = (): boolean => isPrinted

/** Prints what a call is for. False where whoever reads is slow: wait for `drain`. */
export function print(text: string): boolean {
  isPrinted = true
  return process.stdout.write(printableOn(process.stdout, text))
}

/** Prints what else there is to say, on standard error. */
export const printNote = (text: string): boolean => process.stderr.write(printableOn(process.stderr, text))

/** Holds standard output back until it is known whether anything is wrong; what is returned prints it then, or drops it. */
export function holdBack(): () => void {
  const { stdout } = process
  const pieces: (string | Uint8Array)[] = []
  const { write } = stdout
  stdout.write = ((piece: string | Uint8Array) => pieces.push(piece) > 0) as typeof write
  return () => {
    stdout.write = write
    if (process.exitCode) for (const piece of pieces) stdout.write(piece)
  }
}
