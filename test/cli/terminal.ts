/** The built program at a terminal, as a person has it. */
import { spawn } from 'node:child_process'
import { resolve } from 'node:path'

const PROGRAM = resolve('dist/bramblefront.js')
const quoted = (word: string): string => `'${word.replaceAll("'", "'\\''")}'`

/**
 * Runs it at a terminal (util-linux’s script makes one). Whenever it waits behind a `›` or a `]`, the next of `answers` is done and its text typed;
 * without any left, the terminal is closed.
 */
export function atTerminal(
  folder: string,
  args: readonly string[],
  answers: readonly (string | (() => string))[],
): Promise<{ status: number; shown: string }> {
  return new Promise((done, fail) => {
    const call = [process.execPath, PROGRAM, ...args].map(quoted).join(' ')
    const child = spawn('script', ['-qec', `stty cols 100; exec ${call}`, '/dev/null'], {
      cwd: folder,
      stdio: ['pipe', 'pipe', 'inherit'],
      env: { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined, TERM: 'dumb' },
    })
    let shown = ''
    let asked = 0
    let waiting: NodeJS.Timeout | undefined
    // A prompt is drawn in several steps: it is answered once all is quiet.
    const answer = (): void => {
      const next = answers[asked++]
      const said = typeof next === 'function' ? next() : next
      child.stdin.write(said === undefined ? '\u0004' : `${said}\n`)
    }
    child.stdout.setEncoding('utf8').on('data', (text: string) => {
      shown += text
      clearTimeout(waiting)
      if (/[›\]] ?$/.test(shown.trimEnd())) waiting = setTimeout(answer, 300)
    })
    child.on('error', fail)
    child.on('close', (code) => done({ status: code ?? -1, shown: shown.replaceAll('\r', '') }))
  })
}
