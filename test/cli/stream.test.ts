import { spawn } from 'node:child_process'
import { join, resolve } from 'node:path'
import { expect, test } from 'vitest'
import { folderWith, HEAD, run } from './program.ts'

test('a reader that goes away is no error, and what cannot be read is said', async () => {
  const folder = folderWith({
    'hollowmere.example.zone': `${HEAD}bad A 192.0.2\n${Array.from({ length: 60_000 }, (_, i) => `h${i} A 192.0.2.1\n`).join('')}`,
  })
  const shell = spawn(
    'sh',
    [
      '-c',
      `"${process.execPath}" "${resolve('dist/bramblefront.js')}" show hollowmere.example.zone --format canonical; echo "status $?" >&2`,
    ],
    { cwd: folder, stdio: ['ignore', 'pipe', 'pipe'] },
  )
  let heard = ''
  shell.stderr.setEncoding('utf8').on('data', (text) => (heard += text))
  shell.stdout.once('data', () => shell.stdout.destroy())
  await new Promise((done) => shell.on('exit', done))
  expect(heard).toMatch(/1 entry could not be read[^\n]*\nstatus 0\n$/)
  const csv = await run(folder, 'show', 'hollowmere.example.zone', '--format', 'csv')
  expect([csv.status, csv.stdout.split('\n').length]).toEqual([0, 60_005])
  expect(await run(folder, 'show', join(folder, 'hollowmere.example.zone'), '--format', 'yaml')).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('must be text, json, csv, zone, canonical, generic'),
  })
})
