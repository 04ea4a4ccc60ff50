/** Runs the built program as people do: a process of its own, in a temporary folder. */
import { spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { afterAll } from 'vitest'

const PROGRAM = resolve('dist/bramblefront.js')
const folders: string[] = []
afterAll(() => {
  for (const folder of folders) rmSync(folder, { recursive: true, force: true })
})

/** A temporary folder with these files in it. */
export function folderWith(files: Record<string, string | Uint8Array> = {}): string {
  const folder = mkdtempSync(join(tmpdir(), 'bramblefront-test-'))
  folders.push(folder)
  for (const [name, text] of Object.entries(files)) {
    mkdirSync(dirname(join(folder, name)), { recursive: true })
    writeFileSync(join(folder, name), text)
  }
  return folder
}

export interface Ran {
  status: number
  stdout: string
  stderr: string
  /** What it printed, as JSON. */
  json(): any
}

/** Calls `bramblefront` with these arguments in `folder`. */
export const run = (folder: string, ...args: string[]): Promise<Ran> => runWith(folder, {}, ...args)

/** The same with more in its environment. */
export function runWith(folder: string, env: Record<string, string>, ...args: string[]): Promise<Ran> {
  return new Promise((done, fail) => {
    const child = spawn(process.execPath, [PROGRAM, ...args], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined, COLUMNS: '100', ...env },
    })
    let stdout = ''
    let stderr = ''
    child.stdout.setEncoding('utf8').on('data', (text) => (stdout += text))
    child.stderr.setEncoding('utf8').on('data', (text) => (stderr += text))
    child.on('error', fail)
    child.on('close', (code) => done({ status: code ?? -1, stdout, stderr, json: () => JSON.parse(stdout) }))
  })
}

export const HEAD = `$TTL 3600
@ SOA ns1.upland-dns.example. hostmaster 2026010101 7200 900 1209600 3600
@ NS ns1.upland-dns.example.
@ NS ns2.upland-dns.example.
`
