import { createPublicKey, generateKeyPairSync } from 'node:crypto'
import { describe, expect, test } from 'vitest'
import {
  fromBase64,
  keyFromPasted,
  looksLikeKey,
  parseKey,
  rsaBits,
  toBase64,
} from '../../../../src/core/mail/dkim/key.ts'

// The keys of RFC 6376 appendix C and RFC 8463 appendix A.2.
const BRISBANE =
  'MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDwIRP/UC3SBsEmGqZ9ZJW3/DkMoGeLnQg1fWn7/zYtIxN2SnFCjxOCKG9v3b4jYfcTNh5ijSsq631uBItLa7od+v/RtdC2UzJ1lWT947qR+Rcac2gbto/NMqJ0fzfVjH4OuKhitdY9tf6mcwGjaNBcWToIMmPSPDdQPNUYckcQ2QIDAQAB'
const TEST =
  'MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDkHlOQoBTzWRiGs5V6NpP3idY6Wk08a5qhdR6wy5bdOKb2jLQiY/J16JYi0Qvx/byYzCNb3W91y3FutACDfzwQ/BC/e/8uBsCR+yz1Lxj+PL6lHvqMKrM3rG4hstT5QjvHO9PzoxZyVYLzBfO2EeC3Ip3G+2kryOTIKT+l/K4w3QIDAQAB'
const ED = '11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo='

const pairs = ([1024, 1536, 2048, 4096] as const).map(
  (bits) => generateKeyPairSync('rsa', { modulusLength: bits }).publicKey,
)
const spki = (i: number) => pairs[i]!.export({ type: 'spki', format: 'der' }).toString('base64')
const pkcs1 = (i: number) => pairs[i]!.export({ type: 'pkcs1', format: 'der' }).toString('base64')
const edInfo = generateKeyPairSync('ed25519').publicKey.export({ type: 'spki', format: 'der' })

describe('judging a key record', () => {
  test.each<[string, string[], number | undefined]>([
    [`v=DKIM1; p=${BRISBANE}`, ['key-short'], 1024],
    [`v=DKIM1; k=rsa; p=${TEST}`, ['key-short'], 1024],
    [`v=DKIM1; k=ed25519; p=${ED}`, [], 256],
    [`p=${spki(2)}`, [], 2048],
    [`v=DKIM1; k=rsa; p=${spki(2).replace(/(.{70})/g, '$1 ')};`, [], 2048],
    [`v=DKIM1; p=${pkcs1(2)}`, [], 2048],
    [`v=DKIM1; p=${spki(3)}`, [], 4096],
    [`v=DKIM1; p=${spki(1)}`, ['key-short'], 1536],
    [`v=DKIM1; p=${spki(2).slice(0, 255)}`, ['key-unreadable'], undefined],
    [`v=DKIM1; p=${spki(2)}AAAA`, ['key-unreadable'], undefined],
    ['v=DKIM1; p=MIGf*', ['key-unreadable'], undefined],
    [`v=DKIM1; p=-----BEGIN PUBLIC KEY-----${spki(2)}-----END PUBLIC KEY-----`, ['key-unreadable'], undefined],
    [`v=DKIM1; p=${ED}`, ['key-unreadable'], undefined],
    [`v=DKIM1; k=ed25519; p=${edInfo.toString('base64')}`, ['key-unreadable'], undefined],
    [`v=DKIM1; k=ed448; p=${ED}`, ['key-type'], undefined],
    ['v=DKIM1; p=', ['revoked'], undefined],
    ['v=DKIM1; k=rsa', ['key-missing'], undefined],
    [`k=rsa; v=DKIM1; p=${spki(2)}`, ['syntax'], 2048],
    [`v=DKIM2; p=${spki(2)}`, ['syntax'], 2048],
    [`v=DKIM1; p=${spki(2)}; p=${spki(2)}`, ['syntax'], 2048],
    [`v=DKIM1; h=sha1; p=${spki(2)}`, ['hash'], 2048],
    [`v=DKIM1; h=sha1:sha256; p=${spki(2)}`, [], 2048],
    [`v=DKIM1; s=tlsrpt; p=${spki(2)}`, ['service'], 2048],
    [`v=DKIM1; s=*; t=s; n=a note; p=${spki(2)}`, [], 2048],
    [`v=DKIM1; t=s:y; p=${spki(2)}`, ['testing'], 2048],
    [`v=DKIM1; g=*; p=${spki(2)}`, ['obsolete-tag'], 2048],
    [`v=DKIM1\\; k=rsa\\; p=${spki(2)}`, ['escaped-semicolon'], 2048],
    [`"v=DKIM1; k=rsa; p=${spki(2).slice(0, 200)}" "${spki(2).slice(200)}"`, ['quotes-inside'], 2048],
  ])('%s', (text, kinds, bits) => {
    const { record, problems } = parseKey(text)
    expect([problems.map(({ kind }) => kind), record.bits]).toEqual([kinds, bits])
    for (const { start, end, message, wanted } of problems)
      expect([start < end && end <= text.length, message !== '', wanted !== '']).toEqual([true, true, true])
  })

  test('how bad a size is', () => {
    const severity = (bits: 1024 | 2048) => parseKey(`p=${bits === 1024 ? spki(0) : spki(1)}`).problems[0]!.severity
    expect([
      severity(1024),
      parseKey(
        `p=${generateKeyPairSync('rsa', { modulusLength: 768 }).publicKey.export({ type: 'spki', format: 'der' }).toString('base64')}`,
      ).problems[0]!.severity,
    ]).toEqual(['warning', 'error'])
  })

  test('sizes as Node’s own crypto has them', () => {
    for (const [i, key] of pairs.entries())
      for (const text of [spki(i), pkcs1(i)])
        expect(rsaBits(fromBase64(text)!)).toBe(key.asymmetricKeyDetails!.modulusLength)
    for (const text of [BRISBANE, TEST])
      expect(rsaBits(fromBase64(text)!)).toBe(
        createPublicKey({ key: Buffer.from(text, 'base64'), format: 'der', type: 'spki' }).asymmetricKeyDetails!
          .modulusLength,
      )
  })

  test('a key of a megabyte, and one cut off anywhere, are told of', () => {
    expect(parseKey(`v=DKIM1; p=${'A'.repeat(1 << 20)}`).problems.map(({ kind }) => kind)).toEqual(['key-unreadable'])
    const whole = fromBase64(spki(2))!
    for (let length = 0; length < whole.length; length++) expect(rsaBits(whole.subarray(0, length))).toBeUndefined()
  })

  test.each([
    ['v=DKIM1; p=', true],
    [`k=rsa; p=${TEST}`, true],
    ['v=spf1 -all', false],
    ['p=none', false],
  ])('%s looks like a key: %s', (text, expected) => expect(looksLikeKey(text)).toBe(expected))
})

describe('a key of what people paste', () => {
  const pem = pairs[2]!.export({ type: 'spki', format: 'pem' }).toString()
  const expected = `v=DKIM1; k=rsa; p=${spki(2)}`
  test.each<[string, string, string | RegExp]>([
    ['PEM', pem, expected],
    ['PEM of PKCS #1', pairs[2]!.export({ type: 'pkcs1', format: 'pem' }).toString(), `v=DKIM1; k=rsa; p=${pkcs1(2)}`],
    [
      'PEM of Ed25519',
      `-----BEGIN PUBLIC KEY-----\n${edInfo.toString('base64')}\n-----END PUBLIC KEY-----\n`,
      `v=DKIM1; k=ed25519; p=${edInfo.subarray(12).toString('base64')}`,
    ],
    ['base64', spki(2).replace(/(.{64})/g, '$1\n'), expected],
    ['32 octets', ED, `v=DKIM1; k=ed25519; p=${ED}`],
    ['a record', `v=DKIM1; k=rsa; p=${spki(2)}`, expected],
    [
      'a record in a zone file’s form',
      `s1._domainkey IN TXT ( "v=DKIM1; k=rsa; "\n  "p=${spki(2).slice(0, 200)}"\n "${spki(2).slice(200)}" ) ; key`,
      expected,
    ],
    [
      'a private key',
      generateKeyPairSync('ed25519').privateKey.export({ type: 'pkcs8', format: 'pem' }).toString(),
      /private key/,
    ],
    ['half a key', spki(2).slice(0, 100), /truncated/],
    ['words', 'the key is in the mail', /neither/],
    ['a record without a key', 'v=DKIM1; k=rsa; p=hello!', /base64/],
  ])('%s', (_what, pasted, text) => {
    const read = keyFromPasted(pasted)
    if (typeof text === 'string') expect(read).toEqual({ text })
    else expect(read).toEqual({ refused: expect.stringMatching(text) })
  })
  test('base64 and back', () => expect(toBase64(fromBase64(BRISBANE)!)).toBe(BRISBANE))
})
