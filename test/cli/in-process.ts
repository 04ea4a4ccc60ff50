/** Calls the program inside this process: many times faster than a process of its own, for what is played thousands of times. */
import { run as runProgram } from '../../src/cli/program.ts'
import type { Ran } from './program.ts'

/** Calls it with these arguments in a workspace. One call at a time. */
export async function callHere(folder: string, ...args: string[]): Promise<Ran> {
  const words = [...args, '--workspace', folder]
  const { argv, exitCode } = process
  const { write } = process.stdout
  const { write: complain } = process.stderr
  let stdout = ''
  let stderr = ''
  process.argv = [argv[0]!, argv[1]!, ...words]
  process.exitCode = undefined
  process.stdout.write = ((text: string) => {
    stdout += text
    return true
  }) as typeof write
  process.stderr.write = ((text: string) => {
    stderr += text
    return true
  }) as typeof complain
  try {
    await runProgram(words, '0')
    return { status: Number(process.exitCode ?? 0), stdout, stderr, json: () => JSON.parse(stdout) }
  } finally {
    process.argv = argv
    process.exitCode = exitCode
    process.stdout.write = write
    process.stderr.write = complain
  }
}
