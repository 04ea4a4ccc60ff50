import { generateKeyPairSync } from 'node:crypto'
import { mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import type { FileBeside } from '../../src/core/change/change-set.ts'
import { parseKey } from '../../src/core/mail/dkim/key.ts'
import {
  keptKeyText,
  keptPolicy,
  keyFile,
  keyFiles,
  makeKey,
  policyFileOf,
  publicText,
  readKeys,
  readPolicies,
} from '../../src/workspace/beside.ts'
import { commit } from '../../src/workspace/commit.ts'
import { Unfinished } from '../../src/workspace/journal.ts'

const folder = mkdtempSync(join(tmpdir(), 'bramblefront-beside-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const put = (...beside: FileBeside[]) =>
  commit(
    { root: folder, backups: folder, logged: false },
    { zones: [], beside, command: 'test', now: new Date(0) },
    () => Promise.reject(new Error('there is another file')),
  )
const standing = new Unfinished(folder)
const shown = (path: string): string => path.slice(folder.length + 1)

describe('keys', () => {
  test.each([
    ['rsa', 2048, 2048],
    ['rsa', 3072, 3072],
    ['ed25519', 0, 256],
  ] as const)('%s %i: published data is the other half', async (kind, bits, size) => {
    const { pem, text } = await makeKey(kind, bits)
    const { record, problems } = parseKey(text)
    expect([record.type, record.bits, problems]).toEqual([kind, size, []])
    expect(await publicText(pem)).toBe(text)
  })

  test('are written for their owner alone, once, and read again by their selector', async () => {
    const owner = 'Ferry1._domainkey.Hollowmere.example.'
    const path = keyFile(folder, owner)
    expect(shown(path)).toBe('keys/ferry1._domainkey.hollowmere.example.pem')
    const { pem, text } = await makeKey('ed25519', 0)
    await put(...keyFiles(folder, owner, { pem, text }))
    expect([
      statSync(path).mode & 0o777,
      statSync(join(folder, 'keys')).mode & 0o777,
      await keptKeyText(folder, owner),
      readdirSync(join(folder, 'keys')).length,
    ]).toEqual([0o600, 0o700, text, 3])
    await expect(put(...keyFiles(folder, owner, { pem: 'another', text }))).rejects.toThrow('another file')
    const kept = readKeys(folder, shown, standing)[0]!
    expect([kept.owner, kept.file]).toEqual([
      'ferry1._domainkey.hollowmere.example.',
      'keys/ferry1._domainkey.hollowmere.example.pem',
    ])
    expect(await kept.publicHalf()).toEqual({ key: text.slice(text.indexOf('p=') + 2) })
    rmSync(join(folder, 'keys'), { recursive: true })
  })

  test('the public half is kept beside, and read instead of the private one unless that is newer', async () => {
    const owner = 'ferry2._domainkey.hollowmere.example.'
    const path = keyFile(folder, owner)
    const [one, two] = [await makeKey('ed25519', 0), await makeKey('ed25519', 0)]
    await put(...keyFiles(folder, owner, one))
    writeFileSync(path, 'whatever')
    utimesSync(path, 1, 1)
    expect(await keptKeyText(folder, owner)).toBe(one.text)
    writeFileSync(path, two.pem)
    utimesSync(path, new Date(), new Date(Date.now() + 5000))
    expect(await keptKeyText(folder, owner)).toBe(two.text)
    rmSync(join(folder, 'keys'), { recursive: true })
  })

  test('a file that is no such key says so when it is asked for; others beside it are not looked at', async () => {
    mkdirSync(join(folder, 'keys'), { recursive: true })
    writeFileSync(join(folder, 'keys', 'tls.pem'), 'whatever')
    expect(readKeys(folder, shown, standing)).toEqual([])
    for (const text of [
      'no key',
      generateKeyPairSync('ec', { namedCurve: 'P-256' }).privateKey.export({ type: 'pkcs8', format: 'pem' }).toString(),
    ]) {
      writeFileSync(join(folder, 'keys', 'a._domainkey.b.example.pem'), text)
      expect(await readKeys(folder, shown, standing)[0]!.publicHalf()).toEqual({
        refused: expect.stringContaining('private key'),
      })
    }
    rmSync(join(folder, 'keys', 'a._domainkey.b.example.pem'))
  })
})

describe('policies', () => {
  test('are replaced whole', async () => {
    await put(policyFileOf(folder, 'hollowmere.example.', 'one'))
    await put(policyFileOf(folder, 'hollowmere.example.', 'two'))
    expect([keptPolicy(folder, 'HOLLOWMERE.example.'), readPolicies(folder, shown, standing)]).toEqual([
      'two',
      [{ domain: 'hollowmere.example.', file: 'policies/hollowmere.example.mta-sts.txt', text: 'two' }],
    ])
    expect(keptPolicy(folder, 'lakepass.example.')).toBeUndefined()
  })

  test('a folder that cannot be made is told', async () => {
    writeFileSync(join(folder, 'closed'), 'a file where a folder belongs')
    const path = join(folder, 'closed', 'policies', 'x.txt')
    await expect(put({ path, content: 'x' })).rejects.toThrow('it was not changed')
  })
})
