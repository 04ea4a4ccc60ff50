import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { expect, test } from 'vitest'
import { answer, check, editZone, keepTogether, parseRdata, parseType, parseZoneFile, rdataText } from '../src/index.ts'

test('the example of docs/library.md is the file, and runs against the built package', () => {
  const example = readFileSync('docs/library-example.mjs', 'utf8')
  expect(readFileSync('docs/library.md', 'utf8')).toContain(`\`\`\`js\n${example}\`\`\``)
  expect(execFileSync(process.execPath, ['docs/library-example.mjs'], { encoding: 'utf8' }).split('\n')).toEqual([
    'hollowmere.example. 3600 SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600',
    'hollowmere.example. 3600 NS ns1.upland-dns.example.',
    'hollowmere.example. 3600 NS ns2.upland-dns.example.',
    'hollowmere.example. 3600 MX 10 mail.hollowmere.example.',
    'line 7, column 11: not an IPv4 address (expected four numbers from 0 to 255, as in 192.0.2.7)',
    expect.stringContaining('dmarc/missing: '),
    expect.stringContaining('spf/missing: '),
    expect.stringContaining('mx/target-without-address: '),
    expect.stringContaining('address/with-port: '),
    "pass [ 'mx: 192.0.2.25 is an address of mail.hollowmere.example: pass' ]",
    '',
  ])
})

test('from a text to records, places, findings, answers and an edit', async () => {
  const text = '$TTL 300\n@ SOA a. b. 1 2 3 4 5\n  NS ns\nns A 192.0.2.53\n$INCLUDE more\n'
  const options = {
    zone: 'hollowmere.example',
    file: 'main',
    include: () => ({ file: 'more', octets: new TextEncoder().encode('www 60 CH TXT "x"\n') }),
  }
  const { zone, records, problems } = parseZoneFile(new TextEncoder().encode(text), options)
  expect([zone, problems]).toEqual(['hollowmere.example.', []])
  expect(records[2]).toEqual({
    owner: 'ns.hollowmere.example.',
    class: 1,
    ttl: 300,
    type: 1,
    data: new Uint8Array([192, 0, 2, 53]),
    file: 'main',
    line: 4,
    column: 1,
  })
  expect(records[1]).toMatchObject({ line: 3, column: 3 })
  expect(records[3]).toMatchObject({ owner: 'www.hollowmere.example.', class: 3, ttl: 60, file: 'more', line: 1 })
  expect(() => parseZoneFile('www 1 A 192.0.2.1')).toThrow(TypeError)
  expect(() => parseZoneFile('', { zone: 'a..b' })).toThrow(TypeError)
  const zones = keepTogether([{ input: text, ...options }])
  expect((await check(zones)).counts).toMatchObject({ error: 1, warning: 3 })
  expect(answer(zones, 'ns.hollowmere.example.', parseType('A')!).answers).toHaveLength(1)
  const data = parseRdata(1, '192.0.2.54', new Uint8Array(1))
  const edited = editZone(
    new TextEncoder().encode(text),
    'hollowmere.example.',
    [{ owner: 'ns.hollowmere.example.', type: 1, data: 'wire' in data ? [data.wire] : [] }],
    options,
  )
  expect('octets' in edited && new TextDecoder().decode(edited.octets)).toBe(text.replace('.53', '.54'))
  expect(rdataText(1, new Uint8Array([1, 2, 3]))).toBe('\\# 3 010203')
})
