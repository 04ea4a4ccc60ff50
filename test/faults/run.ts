/**
 * Plants the faults of list.ts, one at a time, in copies of the project, and runs the tests of verdicts and time there: a fault that none of them sees is told, and ends this
 * with 1. `npm run faults [WORD]`: all of them, or those whose file or description has that word.
 */
import { spawn } from 'node:child_process'
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { FAULTS, type Fault } from './list.ts'

/** Quick ones first: what they see need not be looked for by the others. */
const TESTS = [['test/core/confirm'], ['test/histories'], ['test/cli/verdicts.test.ts', 'test/cli/confirm.test.ts']]
const COPIED = ['src', 'test', 'demo', 'recipes', 'scripts', 'package.json', 'tsconfig.json', 'vitest.config.ts']

const word = process.argv[2]
const wanted = FAULTS.filter(({ file, what }) => word === undefined || `${file} ${what}`.includes(word))
const survivors: Fault[] = []
let next = 0
let done = 0

function copyOfProject(): string {
  const folder = mkdtempSync(join(tmpdir(), 'bramblefront-faults-'))
  for (const each of COPIED) cpSync(each, join(folder, each), { recursive: true })
  symlinkSync(resolve('node_modules'), join(folder, 'node_modules'))
  return folder
}

const passes = (folder: string, tests: readonly string[]): Promise<boolean> =>
  new Promise((tell) => {
    const child = spawn('node_modules/.bin/vitest', ['run', '--bail', '1', ...tests], { cwd: folder, stdio: 'ignore' })
    child.on('close', (code) => tell(code === 0))
  })

/** Which of the tests see it; undefined where none does. */
async function seenBy(folder: string, { file, find, put }: Fault): Promise<string | undefined> {
  const path = join(folder, 'src/core/confirm', file)
  const text = readFileSync(path, 'utf8')
  writeFileSync(
    path,
    text.replace(find, () => put),
  )
  try {
    for (const tests of TESTS) if (!(await passes(folder, tests))) return tests[0]
    return undefined
  } finally {
    writeFileSync(path, text)
  }
}

async function work(): Promise<void> {
  const folder = copyOfProject()
  try {
    for (let fault = wanted[next++]; fault; fault = wanted[next++]) {
      const by = await seenBy(folder, fault)
      if (by === undefined) survivors.push(fault)
      console.log(
        `${++done}/${wanted.length}  ${by === undefined ? 'LIVED ' : 'caught'}  ${fault.file}: ${fault.what}${by ? `  (${by})` : ''}`,
      )
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

await Promise.all(Array.from({ length: Math.min(availableParallelism(), wanted.length) }, work))
console.log(`${wanted.length - survivors.length} of ${wanted.length} faults caught`)
process.exitCode = survivors.length > 0 ? 1 : 0
