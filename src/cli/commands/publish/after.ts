/** The command that a delivery by file runs afterwards: confirmed once on each machine, run once for all zones of a call. */
import { spawn } from 'node:child_process'
import { realpathSync, statSync } from 'node:fs'
import { delimiter, join, resolve, sep } from 'node:path'
import { printable } from '../../../core/printable.ts'
import { type Agreement, isAgreed, rememberAgreed } from '../../../workspace/agreed.ts'
import { sumOf } from '../../../workspace/backups.ts'
import { readFileOrTrouble } from '../../../workspace/files.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import type { AfterRun } from './job.ts'

/** A command afterwards may take so long, in milliseconds. */
const LIMIT = 60_000
/** Paths are handed over as long as all of them have no more octets than this together: systems limit it. */
const MOST_OCTETS = 1 << 19

/** The program of a command. */
export interface Program {
  path: string
  /** The sum of what it and the files among its arguments hold, where others than this machine’s administrator may change them: what was confirmed is this very content. */
  sum?: string
}

/** Finds the program of a command: a path from the workspace’s folder, or a name on PATH. */
export function programOf(after: readonly string[], folder: string): Program | { missing: string } {
  const [stated = ''] = after
  const isPath = stated.includes('/') || stated.includes(sep)
  const places = isPath
    ? [resolve(folder, stated)]
    : (process.env.PATH ?? '').split(delimiter).map((each) => join(each || '.', stated))
  const path = places.find(isExecutable)
  if (path === undefined) {
    const why = isPath ? (isFile(places[0]!) ? 'it may not be executed' : 'there is no such file') : 'it is not on PATH'
    return { missing: `the program ${stated} cannot be run afterwards: ${why}` }
  }
  const files = [
    path,
    ...after
      .slice(1)
      .map((word) => resolve(folder, word))
      .filter(isFile),
  ]
  const sums = files.filter((each) => isChangeable(each, folder)).map((each) => sumOf(readFileOrTrouble(each)))
  return { path, ...(sums.length > 0 ? { sum: sums.join(' ') } : {}) }
}

const isFile = (path: string): boolean => {
  try {
    return statSync(path).isFile()
  } catch {
    return false
  }
}

function isExecutable(path: string): boolean {
  return isFile(path) && (statSync(path).mode & 0o111) !== 0
}

/** Whether it lies in the workspace, which may come from anywhere, or others may write to it. */
function isChangeable(path: string, folder: string): boolean {
  const real = realpathSync(path)
  return `${real}${sep}`.startsWith(`${realpathSync(folder)}${sep}`) || (statSync(real).mode & 0o022) !== 0
}

/** Whether it may be run: confirmed here before, in these very words and with this content, or now. */
export async function mayRun(
  folder: string,
  label: string,
  after: readonly string[],
  { sum }: Program,
): Promise<boolean> {
  const agreement: Agreement = { folder, label, command: after, sum }
  if (isAgreed(agreement)) return true
  if (!canAsk()) return false
  const question = `Run this after each delivery of ${label}, from now on without asking${sum === undefined ? '' : ', as long as the program is what it is now'}: ${after.join(' ')} PATH?`
  if (!(await agreedTo(printable(question)))) return false
  rememberAgreed(agreement)
  return true
}

/** Runs it with the delivered paths as its last words, without a shell; in several runs only where they are too many for one. The first that fails ends it. */
export async function runAfter(after: readonly string[], paths: readonly string[], folder: string): Promise<AfterRun> {
  let left = [...paths]
  for (;;) {
    let count = 0
    for (let octets = 0; count < left.length && (count === 0 || octets < MOST_OCTETS); count++)
      octets += Buffer.byteLength(left[count]!) + 1
    const ran = await runOnce(after, left.slice(0, count), folder)
    left = left.slice(count)
    if (ran.status !== 0 || left.length === 0) return ran
  }
}

function runOnce(after: readonly string[], paths: readonly string[], folder: string): Promise<AfterRun> {
  return new Promise((done) => {
    const [program, ...args] = after
    const child = spawn(program!, [...args, ...paths], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'pipe'],
      timeout: LIMIT,
    })
    let said = ''
    const hear = (text: string): void => void (said = (said + text).slice(-2000))
    child.stdout.setEncoding('utf8').on('data', hear)
    child.stderr.setEncoding('utf8').on('data', hear)
    child.on('error', (error) => done({ status: 127, said: String(error.message) }))
    child.on('close', (status) => done({ status, said: said.trim() }))
  })
}
