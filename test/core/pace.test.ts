import { describe, expect, test } from 'vitest'
import { affectedBy } from '../../src/core/change/affected.ts'
import { valuesAsTyped } from '../../src/core/change/as-typed.ts'
import { namesIn } from '../../src/core/change/ties.ts'
import { typedData, typedName } from '../../src/core/change/typed.ts'
import { parseVantage } from '../../src/core/confirm/vantage.ts'
import { judge } from '../../src/core/confirm/verdict.ts'
import { keyFromPasted } from '../../src/core/mail/dkim/key.ts'
import { parsePolicy } from '../../src/core/mail/transport.ts'
import { decodeMessage } from '../../src/core/message/decode.ts'
import { encodeMessage } from '../../src/core/message/encode.ts'
import { parseKey } from '../../src/core/message/key.ts'
import { emptyMessage } from '../../src/core/message/message.ts'
import { toAsciiName } from '../../src/core/names/idna.ts'
import { octetsOf } from '../../src/core/names/octets.ts'
import { BLANK_KINDS, type Blank, valueFor } from '../../src/core/recipe/recipe.ts'
import { parseBase64 } from '../../src/core/records/encodings.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import { kindOfText } from '../../src/core/transcribe/kinds.ts'
import { roleOf } from '../../src/core/transcribe/labels.ts'
import { readInstructions } from '../../src/core/transcribe/read.ts'
import { hostIn, ttlIn } from '../../src/core/transcribe/values.ts'
import { check, checkHost, keepTogether, mergeSpf, parseDkimKey, readDmarc } from '../../src/index.ts'
import { growsLinearly } from '../pace.ts'

const UNITS = [
  'a',
  'A1',
  '-',
  '.',
  'a.',
  'a-',
  ' ',
  '\t',
  ';',
  '; ',
  '=',
  'a=',
  'a=b;',
  ':',
  '/',
  '//',
  '/1',
  '(',
  '((',
  '"',
  '\\',
  '\\a',
  '%',
  '%{',
  '%{d',
  '%{d}',
  '%{l-.r}',
  '@',
  '@a.',
  ',',
  '!',
  '{',
  '<',
  '<a',
  'v',
  'v ',
  'v=',
  'v=spf1 ',
  'spf',
  'spf1',
  'spf v',
  '1.0',
  'p=',
  'p =',
  'p=none;',
  'mailto:',
  'mailto:a@',
  'a@b,',
  'your',
  'ip4:',
  'include:a.b ',
  'include:',
  ' a',
  ' mx ',
  '\u00e9',
  '\u0001',
  '0',
  '1 ',
  '*',
  '_',
  '_dmarc',
  'xn--',
  'http://',
  '://',
  '[',
  ':a:',
  '#',
  '/*',
  '\n\t',
  '\r',
  'verif',
  '._domainkey.',
  '- ',
  '${',
]
const ALL = process.env.PACE === 'all'
/** Lines have no bound: octets that are tried of them. */
const LARGE = ALL ? 98_304 : 24_576
/** Of which lines are made; these are tried in large. */
const LINE_UNITS = ['(', '"', '\\', '.', 'a.', ' ', ';', '=']
const PREFIXES: [string, string][] = [
  ['@', ''],
  ['@', 'v=spf1 '],
  ['@', 'v=spf1 include:'],
  ['@', 'v=spf1 exists:'],
  ['@', 'v=spf1 ip4:'],
  ['@', 'v=spf1 a'],
  ['@', 'v=spf1 a:a.'],
  ['@', 'v spf'],
  ['s._domainkey', ''],
  ['s._domainkey', 'v=DKIM1; p='],
  ['s._domainkey', 'v=DKIM1; t='],
  ['_dmarc', ''],
  ['_dmarc', 'v=DMARC1; p=none; rua='],
  ['_dmarc', 'v=DMARC1; p=none; rua=mailto:'],
  ['_dmarc', 'v=DMARC1; p=none; '],
  ['_mta-sts', 'v=STSv1; id='],
  ['_smtp._tls', 'v=TLSRPTv1; rua='],
  ['x._report._dmarc', 'v'],
]
const HEAD =
  '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n'
const escaped = (text: string): string => text.replace(/["\\]/g, '\\$&')
const strings = (text: string): string =>
  (text.match(/[\s\S]{1,200}/g) ?? ['']).map((each) => `"${escaped(each)}"`).join(' ')
const FRAMES: [string, (text: string) => string, number?][] = [
  ...PREFIXES.map(([owner, prefix]): [string, (text: string) => string] => [
    `TXT at ${owner}, ${prefix}`,
    (text) => `${owner} TXT ${strings(prefix + text)}`,
  ]),
  ['CAA issue', (text) => `@ CAA 0 issue "${escaped(text)}"`],
  ['CAA issue, parameters', (text) => `@ CAA 0 issue "ca.larkpost.example; a=b; ${escaped(text)}"`],
  ['CAA iodef', (text) => `@ CAA 0 iodef "mailto:${escaped(text)}"`],
  ['URI', (text) => `@ URI 1 1 "http://${escaped(text)}"`, LARGE],
  ['HTTPS', (text) => `@ HTTPS 1 . ${escaped(text)}`, LARGE],
  ['NAPTR', (text) => `@ NAPTR 1 1 "U" "E2U+sip" "!^${escaped(text)}" .`],
  ['a line', (text) => text, LARGE],
  ['a directive', (text) => `$${text}`, LARGE],
  ['an address', (text) => `a A ${text}`, LARGE],
  ['an exchange', (text) => `a MX 10 ${text}`, LARGE],
  ['a comment', (text) => `a A 192.0.2.1 ; ${text}`, LARGE],
  ['a comment of a copy', (text) => `; copied from include:${text}\n@ TXT "v=spf1 -all"`],
]

async function sound(zones: Parameters<typeof check>[0]): Promise<void> {
  const { findings } = await check(zones)
  expect(findings.filter(({ rule }) => rule === 'internal/error')).toEqual([])
}

describe('checking takes no longer than a text is long', () => {
  // Every other unit in every other frame; all of them with PACE=all.
  const tried = (frame: number) => UNITS.filter((_, i) => ALL || (i + frame) % 2 === 0)
  test.each(
    FRAMES.map(
      (each, i) => [...each.slice(0, 2), each[2] ?? 6144, i] as [string, (text: string) => string, number, number],
    ),
  )('%s', async (what, frame, most, index) => {
    for (const unit of most >= LARGE ? LINE_UNITS : tried(index))
      for (const end of most >= LARGE ? [''] : ['!']) {
        await growsLinearly(
          `${what} of ${JSON.stringify(unit)}`,
          (n) => {
            const zones = keepTogether([
              {
                input: `${HEAD}${frame(unit.repeat(Math.ceil(n / unit.length)) + end)}\nwww A 192.0.2.1\n`,
                zone: 'hollowmere.example',
              },
            ])
            return () => sound(zones)
          },
          most,
        )
      }
  })
})

describe('and what hangs together no longer than it is large', () => {
  const zone = (lines: string[]) =>
    keepTogether([{ input: `${HEAD}${lines.join('\n')}\n`, zone: 'hollowmere.example' }])
  const spf = (i: number, includes: number, all: number): string =>
    `s${i} TXT ${strings(`v=spf1 ${Array.from({ length: includes }, (_, k) => `include:s${(i * 7 + k * k + 1) % all}.hollowmere.example`).join(' ')} -all`)}`
  test.each<[string, (n: number) => string[], number]>([
    ['SPF records with nine includes each', (n) => Array.from({ length: n }, (_, i) => spf(i, 9, n)), ALL ? 384 : 96],
    ['SPF records with 140 includes each', (n) => Array.from({ length: n }, (_, i) => spf(i, 140, n)), ALL ? 96 : 24],
    [
      'a chain of SPF records',
      (n) => Array.from({ length: n }, (_, i) => spf(i, 1, n).replace(/:s\d+/, `:s${i + 1}`)),
      1536,
    ],
    [
      'a record of many includes',
      (n) => [spf(0, n / 2, n), ...Array.from({ length: n / 2 }, (_, i) => `s${i + 1} TXT "v=spf1 -all"`)],
      1536,
    ],
    ['a chain of aliases', (n) => Array.from({ length: n }, (_, i) => `a${i} CNAME a${i + 1}`), 6144],
    ['a chain of DNAMEs', (n) => Array.from({ length: n }, (_, i) => `d${i} DNAME d${i + 1}`), 6144],
    ['many records at a name', (n) => Array.from({ length: n }, (_, i) => `@ A 192.0.${i >> 8}.${i & 255}`), 6144],
    ['many exchanges', (n) => Array.from({ length: n }, (_, i) => `@ MX ${i} m${i}`), 6144],
    ['many texts', (n) => Array.from({ length: n }, (_, i) => `@ TXT "v=spf1 ${i}"`), 6144],
    ['many keys at a selector', (n) => Array.from({ length: n }, (_, i) => `s._domainkey TXT "v=DKIM1; p=${i}"`), 6144],
    ['many services', (n) => Array.from({ length: n }, (_, i) => `_sip._tcp SRV 0 ${i} ${i} m${i % 7}`), 6144],
    ['a deep name', (n) => Array.from({ length: n }, (_, i) => `${'a.'.repeat(100)}b${i} A 192.0.2.1`), 6144],
    [
      'wildcards below one another',
      (n) => Array.from({ length: n }, (_, i) => `*.${'a.'.repeat(i % 100)}b${i} A 192.0.2.1`),
      6144,
    ],
    [
      'policies',
      (n) =>
        Array.from(
          { length: n },
          (_, i) => `_dmarc.a${i} TXT "v=DMARC1; p=none; rua=mailto:x@a${i + 1}.hollowmere.example"`,
        ),
      6144,
    ],
    ['delegations', (n) => Array.from({ length: n }, (_, i) => `a${i} NS ns.a${i}\nns.a${i} A 192.0.2.1`), 6144],
    [
      'what $GENERATE makes',
      (n) => Array.from({ length: 5 }, (_, i) => `$GENERATE 1-${n} g${i}-\${0,6} A 10.${i}.0.1`),
      24_576,
    ],
    [
      'targets that are addresses',
      (n) => Array.from({ length: n }, (_, i) => `m${i} MX 10 192.0.2.1\na${i} A 198.51.100.${i & 255}`),
      6144,
    ],
    ['unreadable lines', (n) => Array.from({ length: n }, () => 'a MX ten'), 6144],
  ])('%s', async (what, lines, most) => {
    await growsLinearly(
      what,
      (n) => {
        const zones = zone(lines(n))
        return () => sound(zones)
      },
      most,
    )
  })
})

describe('other readers take no longer than what they read is long', () => {
  const zone = exampleZones('www A 192.0.2.1')
  const readers: [string, (text: string) => unknown][] = [
    ['names in a text', namesIn],
    [
      'checkHost',
      (text) =>
        checkHost({
          ip: '192.0.2.1',
          helo: text.slice(0, 200),
          mailFrom: 'x@a.example',
          lookup: () => ({ data: [`v=spf1 ${text}`] }),
        }),
    ],
    [
      'checkHost, include',
      (text) =>
        checkHost({
          ip: '192.0.2.1',
          helo: 'h',
          mailFrom: 'x@a.example',
          lookup: () => ({ data: [`v=spf1 include:${text}`] }),
        }),
    ],
    ['mergeSpf', (text) => mergeSpf(`v=spf1 ${text} -all`, `v=spf1 mx ${text} ~all`)],
    ['a key', (text) => parseDkimKey(`v=DKIM1; ${text}`)],
    ['a pasted key', (text) => keyFromPasted(text)],
    ['a policy', (text) => readDmarc(`v=DMARC1; ${text}`)],
    ['a policy’s text', (text) => parsePolicy(`version: STSv1\nmx: ${text}\n${text}`)],
    ['a name', (text) => typedName(text, zone.zones[0]!, zone.zones)],
    ['a value', (text) => typedData(16, text, zone.zones[0]!, zone, false)],
    ['a value of another type', (text) => typedData(257, text, zone.zones[0]!, zone, false)],
    ['letters', (text) => toAsciiName(`é${text}`)],
    ['a vantage', (text) => parseVantage(text)],
    ['a key file', (text) => parseKey(`key "k" { algorithm hmac-sha256; secret "${text}"; };\n${text}`)],
    ['base64', (text) => parseBase64(text)],
    ['a value as typed', (text) => valuesAsTyped(16, [`a${text}`], 'write txt')],
    ['a blank’s value', (text) => BLANK_KINDS.map((kind) => valueFor({ kind } as Blank, text))],
    ['a label', (text) => roleOf(text)],
    ['a value’s kind', (text) => kindOfText(text)],
    ['a TTL', (text) => ttlIn(text)],
    ['a host', (text) => hostIn(text)],
    ['a pasted row', (text) => readInstructions(`TXT\twww\t${text}`, 'hollowmere.example.')],
    ['a pasted host', (text) => readInstructions(`Type\tHost\tValue\nA\t${text}\t192.0.2.1`, 'hollowmere.example.')],
    ['a pasted line', (text) => readInstructions(text, 'hollowmere.example.')],
  ]
  test.each(readers)('%s', async (what, read) => {
    for (const unit of UNITS)
      await growsLinearly(
        `${what} of ${JSON.stringify(unit)}`,
        (n) => () => read(`${unit.repeat(Math.ceil(n / unit.length))}!`),
        24_576,
      )
  })

  test('exceptions, all of one rule, and what they accept', async () => {
    for (const at of [() => undefined, (i: number) => `h${i}.hollowmere.example.`])
      await growsLinearly(
        'exceptions',
        (n) => {
          const zones = exampleZones(Array.from({ length: n >> 6 }, (_, i) => `h${i} CNAME none${i}`).join('\n'))
          const exceptions = Array.from({ length: n }, (_, i) => ({
            rule: 'cname/target-missing',
            at: at(i),
            reason: 'r',
          }))
          return () => check(zones, { exceptions })
        },
        24_576,
      )
  })

  test('a message of many records, and the verdict on it', async () => {
    const addresses = (n: number): Uint8Array[] =>
      Array.from({ length: n }, (_, i) => new Uint8Array([10, i >> 16, i >> 8, i]))
    const records = (n: number) =>
      addresses(n).map((data) => ({ owner: 'www.hollowmere.example.', type: 1, class: 1, ttl: 60, data }))
    const intended = (n: number) => ({
      owner: 'www.hollowmere.example.',
      type: 1,
      asked: 'www.hollowmere.example.',
      intended: { owner: '', type: 1, ttl: 60, data: addresses(n) },
    })
    const observed = (n: number) => ({
      vantage: 'v',
      transport: 'tcp' as const,
      tookMs: 1,
      at: 0,
      message: { ...emptyMessage(1), answers: records(n).reverse() },
    })
    await growsLinearly(
      'judging',
      (n) => {
        const [question, observation] = [intended(n), observed(n)]
        return () => judge(question, observation, { role: 'resolver' })
      },
      24_576,
    )
    await growsLinearly(
      'judging what follows',
      (n) => {
        const [question, observation] = [{ ...intended(n), follow: 'site.northlight.example.' }, observed(n)]
        return () => judge(question, observation, { role: 'resolver', followed: addresses(n) })
      },
      24_576,
    )
    await growsLinearly(
      'reading',
      (n) => {
        const octets = encodeMessage({ ...emptyMessage(1), answers: records(n).slice(0, 2300) })
        return () => decodeMessage(octets)
      },
      1536,
    )
  })

  test('files that include one another many times over come to an end', () => {
    const include = (name: string) => ({
      file: name,
      octets: octetsOf(Array.from({ length: 8 }, () => `$INCLUDE f${Number(name.slice(1)) + 1}\n`).join('')),
    })
    const zones = keepTogether([{ input: `${HEAD}$INCLUDE f1\n`, zone: 'hollowmere.example', include }])
    expect(zones.sources.length).toBeLessThanOrEqual(1001)
    expect(
      zones.sources.some(({ problems }) => problems.some(({ message }) => /1000 included files/.test(message))),
    ).toBe(true)
  })

  test('a change in a chain of SPF records', async () => {
    await growsLinearly(
      'affected',
      (n) => {
        const zones = exampleZones(
          Array.from({ length: n }, (_, i) => `s${i} TXT "v=spf1 include:s${i + 1}.hollowmere.example -all"`).join(
            '\n',
          ),
        )
        return () =>
          affectedBy(zones, zones.zones[0]!, [
            { owner: `s${n}.hollowmere.example.`, type: 16, data: [octetsOf('\u0001x')] },
          ])
      },
      6144,
    )
  })
})
