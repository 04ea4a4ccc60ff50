#!/usr/bin/env node
/** The program's entry. It stays small: what a command needs is loaded when that command runs. */
declare const BRAMBLEFRONT_VERSION: string

const args = process.argv.slice(2)
if (args.length === 1 && (args[0] === '--version' || args[0] === '-V')) process.stdout.write(`${BRAMBLEFRONT_VERSION}\n`)
else void import('./program.ts').then(({ run }) => run(args, BRAMBLEFRONT_VERSION))
