import { generateKeyPairSync } from 'node:crypto'
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, test } from 'vitest'
import { parseKey } from '../../src/core/mail/dkim/key.ts'
import {
  keptKeyText,
  keptPolicy,
  keyFile,
  makeKey,
  policyFile,
  publicText,
  putBeside,
  readKeys,
  readPolicies,
} from '../../src/workspace/beside.ts'

const folder = mkdtempSync(join(tmpdir(), 'bramblefront-beside-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const shown = (path: string): string => path.slice(folder.length + 1)

describe('keys', () => {
  test.each([
    ['rsa', 2048, 2048],
    ['rsa', 3072, 3072],
    ['ed25519', 0, 256],
  ] as const)('%s %i: what is published is the other half', async (kind, bits, size) => {
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
    const takeBack = putBeside({ path, text: pem, secret: true })
    expect([
      statSync(path).mode & 0o777,
      statSync(join(folder, 'keys')).mode & 0o777,
      await keptKeyText(folder, owner),
    ]).toEqual([0o600, 0o700, text])
    expect(() => putBeside({ path, text: 'another', secret: true })).toThrow('never overwritten')
    const kept = readKeys(folder, shown)[0]!
    expect([kept.owner, kept.file]).toEqual([
      'ferry1._domainkey.hollowmere.example.',
      'keys/ferry1._domainkey.hollowmere.example.pem',
    ])
    expect(await kept.publicHalf()).toEqual({ key: text.slice(text.indexOf('p=') + 2) })
    takeBack()
    expect([
      existsSync(path),
      await keptKeyText(folder, owner),
      readKeys(folder, shown),
      readdirSync(join(folder, 'keys')),
    ]).toEqual([false, undefined, [], ['.gitignore']])
  })

  test('the public half is kept beside, and read in place of the private one unless that is newer', async () => {
    const owner = 'ferry2._domainkey.hollowmere.example.'
    const path = keyFile(folder, owner)
    const [one, two] = [await makeKey('ed25519', 0), await makeKey('ed25519', 0)]
    putBeside({ path, text: one.pem, secret: true, publicText: one.text })
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
    expect(readKeys(folder, shown)).toEqual([])
    for (const text of [
      'no key',
      generateKeyPairSync('ec', { namedCurve: 'P-256' }).privateKey.export({ type: 'pkcs8', format: 'pem' }).toString(),
    ]) {
      writeFileSync(join(folder, 'keys', 'a._domainkey.b.example.pem'), text)
      expect(await readKeys(folder, shown)[0]!.publicHalf()).toEqual({
        unreadable: expect.stringContaining('no private key'),
      })
    }
    rmSync(join(folder, 'keys', 'a._domainkey.b.example.pem'))
  })
})

describe('policies', () => {
  test('are replaced whole, and put back', () => {
    const path = policyFile(folder, 'hollowmere.example.')
    putBeside({ path, text: 'one', secret: false })
    const takeBack = putBeside({ path, text: 'two', secret: false })
    expect([keptPolicy(folder, 'HOLLOWMERE.example.'), readPolicies(folder, shown)]).toEqual([
      'two',
      [{ domain: 'hollowmere.example.', file: 'policies/hollowmere.example.mta-sts.txt', text: 'two' }],
    ])
    takeBack()
    expect(readFileSync(path, 'utf8')).toBe('one')
    expect(keptPolicy(folder, 'lakepass.example.')).toBeUndefined()
  })

  test('a folder that cannot be made is told', () => {
    const closed = join(folder, 'closed')
    writeFileSync(closed, 'a file where a folder belongs')
    expect(() => putBeside({ path: join(closed, 'policies', 'x.txt'), text: 'x', secret: false })).toThrow(
      'nothing was changed',
    )
  })
})
