#!/usr/bin/env node
/** The program's entry. It stays small: what a command needs is loaded when that command runs. */
declare const BRAMBLEFRONT_VERSION: string

// Whoever reads may have gone, or the disk that it is written to may be full.
process.stdout.on('error', ({ code }: NodeJS.ErrnoException) => {
  if (code === 'EPIPE') process.exit(process.exitCode ?? 0)
  process.stderr.write(
    `bramblefront: cannot write to standard output: ${code === 'ENOSPC' ? 'the disk is full' : code}\n`,
  )
  process.exit(2)
})
const args = process.argv.slice(2)
if (args.length === 1 && (args[0] === '--version' || args[0] === '-V'))
  process.stdout.write(`${BRAMBLEFRONT_VERSION}\n`)
else void import('./program.ts').then(({ run }) => run(args, BRAMBLEFRONT_VERSION))
