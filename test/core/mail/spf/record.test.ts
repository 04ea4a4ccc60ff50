import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Found } from '../../../../src/core/mail/lookup.ts'
import { type KnownSpf, spfBudget, unknownIn } from '../../../../src/core/mail/spf/budget.ts'
import { checkHost } from '../../../../src/core/mail/spf/check-host.ts'
import {
  buildSpf,
  maskedRange,
  mergeSpf,
  shareAllowed,
  withEnd,
  withoutSender,
} from '../../../../src/core/mail/spf/merge.ts'
import { rangesOf } from '../../../../src/core/mail/spf/ranges.ts'
import { letsSend, parseSpf, spfText } from '../../../../src/core/mail/spf/record.ts'

describe('reading an SPF record', () => {
  // The place is where the fault begins and ends in the text behind “v=spf1 ”.
  test.each([
    [
      'mx a:mail.larkpost.example ip4:192.0.2.0/24 ip6:2001:db8::/32 include:_spf.larkpost.example exists:%{i}._s.larkpost.example ptr -all',
      '',
    ],
    ['a/24//64 mx//64 a:h.example.com/32 ?all moo=x redirect=_spf.larkpost.example exp=%{d}.why.larkpost.example', ''],
    ['moo', 'moo'],
    ['ip:192.0.2.1', 'ip:192.0.2.1'],
    ['192.0.2.1', '192.0.2.1'],
    ['ip4:192.0.2', '192.0.2'],
    ['ip4:192.0.2.1/33', '/33'],
    ['ip4:192.0.2.1/024', '/024'],
    ['ip4:192.0.2.1/x', '/x'],
    ['ip4:2001:db8::1', 'ip4:2001:db8::1'],
    ['ip6:2001:db8::/129', '/129'],
    ['ip6:192.0.2.1', 'ip6:192.0.2.1'],
    ['a:192.0.2.1', '192.0.2.1'],
    ['a:', 'a:'],
    ['a/33', '/33'],
    ['mx/24//129', '/24//129'],
    ['include', 'include'],
    ['include:larkpost', 'larkpost'],
    ['include:x.example/24', 'include:x.example/24'],
    ['all:x', 'all:x'],
    ['-all.', '-all.'],
    ['exists:%{x}.larkpost.example', '%{x}'],
    ['exists:%{d0}.larkpost.example', '%{d0}'],
    ['exists:%{c}.larkpost.example', '%{c}'],
    ['exists:%(i).larkpost.example', '%('],
    ['redirect=', ' '],
    ['!mx', '!mx'],
    ['mx;', 'mx;'],
    ['exp=a.example.com exp=b.example.com', 'exp=b.example.com'],
  ])('%s: %s', (terms, wrong) => {
    const text = `v=spf1 ${terms} `
    const { problems } = parseSpf(text)
    expect(problems.map(({ start, end }) => text.slice(start, end))).toEqual(wrong === '' ? [] : [wrong])
    for (const { message, wanted } of problems) expect(message.length * wanted.length).toBeGreaterThan(0)
  })

  test('is written as it usually is, and means the same', () => {
    expect(
      spfText(
        parseSpf(
          'V=SPF1  +MX/32//128 IP4:192.0.2.1/32 ip6:2001:0DB8:0::1 -Include:x.EXAMPLE.com a//64  REDIRECT=y.example.com ~ALL',
        ).record.terms,
      ),
    ).toBe('v=spf1 mx ip4:192.0.2.1 ip6:2001:db8::1 -include:x.EXAMPLE.com a//64 redirect=y.example.com ~all')
  })

  test.each([
    ['v=spf1 -all', false],
    ['v=spf1', false],
    ['v=spf1 exp=why.larkpost.example -all', false],
    ['v=spf1 mx -all', true],
    ['v=spf1 redirect=_spf.larkpost.example', true],
  ])('%s lets somebody send: %s', (text, expected) => expect(letsSend(text)).toBe(expected))

  test.each([
    ['ip4:0.0.0.0/1 ip4:128.0.0.0/2 ip4:0.0.0.0/8 ip6:::/0', 4, 0.75],
    ['ip4:0.0.0.0/1 ip4:0.0.0.0/1 -ip4:128.0.0.0/1', 4, 0.5],
    ['ip6:2000::/3', 16, 0.125],
  ] as const)('%s lets a share of IPv%s send: %s', (terms, octets, share) =>
    expect(shareAllowed(parseSpf(`v=spf1 ${terms}`).record.mechanisms, octets)).toBe(share),
  )

  test('bits beyond a range', () =>
    expect(
      parseSpf('v=spf1 ip4:192.0.2.25/24 ip4:192.0.2.0/24 ip6:2001:db8::1/33 ip4:10.0.0.0/0').record.mechanisms.map(
        maskedRange,
      ),
    ).toEqual(['ip4:192.0.2.0/24', undefined, 'ip6:2001:db8::/33', 'ip4:0.0.0.0/0']))
})

describe('making one of two', () => {
  test.each([
    [
      'v=spf1 mx include:_spf.larkpost.example ~all',
      'v=spf1 include:_spf.quillwing.example -all',
      'v=spf1 mx include:_spf.larkpost.example include:_spf.quillwing.example ~all',
      '-all',
    ],
    ['v=spf1 mx ~all', 'v=spf1 mx ip4:192.0.2.0/25 ip4:192.0.2.7 ~all', 'v=spf1 mx ip4:192.0.2.0/25 ~all', undefined],
    ['v=spf1 ip4:192.0.2.7 -all', 'v=spf1 ip4:192.0.2.0/24 -all', 'v=spf1 ip4:192.0.2.0/24 -all', undefined],
    [
      'v=spf1 mx redirect=a.example.com',
      'v=spf1 a redirect=b.example.com',
      'v=spf1 mx a include:b.example.com redirect=a.example.com',
      'redirect=b.example.com',
    ],
    ['v=spf1 mx -ip4:192.0.2.9 a ~all', 'v=spf1 ip4:192.0.2.0/24 -all', 'v=spf1 mx ip4:192.0.2.0/24 a ~all', '-all'],
    [
      'v=spf1 mx ~all exp=why.example.com',
      'v=spf1 a -ip4:192.0.2.9 -all exp=no.example.com',
      'v=spf1 mx a ~all exp=why.example.com',
      '-all',
    ],
    [
      'v=spf1 mx -ip4:192.0.2.9 ~all',
      'v=spf1 -ip4:192.0.2.8 a ?all',
      'v=spf1 mx -ip4:192.0.2.8 a -ip4:192.0.2.9 ~all',
      '?all',
    ],
  ])('%s and %s', (a, b, text, otherEnd) =>
    expect(mergeSpf(a, b)).toMatchObject({ text, ...(otherEnd ? { otherEnd } : {}) }),
  )

  test.each([
    ['v=spf1 -ip4:192.0.2.9 a ~all', 'v=spf1 -ip4:192.0.2.8 mx -all', /disallow senders/],
    ['v=spf1 mx ~all', 'v=spf1 +all', /everyone/],
    ['v=spf1 mx ~all', 'v=spf1 moo ~all', /moo/],
  ])('%s and %s cannot be one', (a, b, why) => expect(mergeSpf(a, b)).toEqual({ refused: expect.stringMatching(why) }))

  const range = fc
    .tuple(fc.integer({ min: 0, max: 31 }), fc.integer({ min: 27, max: 32 }))
    .map(([host, bits]) => `ip4:192.0.2.${host}/${bits}`)
  const sender = fc.oneof(
    { weight: 5, arbitrary: range },
    fc.constantFrom('a', 'mx', 'include:one.example.com', 'include:two.example.com', 'exists:%{i}.list.example.com'),
  )
  const term = fc.tuple(fc.constantFrom('', '', '', '-', '~', '?'), sender).map(([sign, text]) => sign + text)
  const end = fc.constantFrom('-all', '~all', '?all', '', 'redirect=one.example.com', 'redirect=two.example.com')
  const record = fc
    .tuple(fc.array(term, { maxLength: 5 }), end)
    .map(([terms, last]) => ['v=spf1', ...terms, last].join(' ').trim())
  const names: Record<string, string[]> = {
    'a.example.com. A': ['192.0.2.3'],
    'a.example.com. MX': ['10 m.example.com.'],
    'm.example.com. A': ['192.0.2.4'],
    'one.example.com. TXT': ['v=spf1 ip4:192.0.2.16/30 -all'],
    'two.example.com. TXT': ['v=spf1 -ip4:192.0.2.17 ip4:192.0.2.16/29 ~all'],
    '192.0.2.9.list.example.com. A': ['127.0.0.2'],
  }
  const judge = async (text: string, host: number) => {
    const lookup = (name: string, type: string): Found => {
      const data = name === 'a.example.com.' && type === 'TXT' ? [text] : names[`${name} ${type}`]
      return data ? { data } : { trouble: 'no-name' }
    }
    return (await checkHost({ ip: `192.0.2.${host}`, helo: 'h.example.com', mailFrom: 'x@a.example.com', lookup }))
      .result
  }

  test('what passes by either passes by the merged record', async () => {
    let merged = 0
    await fc.assert(
      fc.asyncProperty(record, record, fc.integer({ min: 0, max: 31 }), async (a, b, host) => {
        const one = mergeSpf(a, b)
        if ('refused' in one) return
        const results = [await judge(a, host), await judge(b, host)]
        // Records that receivers give up on promise nothing.
        if (!results.includes('pass') || results.includes('permerror')) return
        merged++
        const result = await judge(one.text, host)
        expect(result === 'permerror' ? 'pass' : result).toBe('pass')
      }),
      { numRuns: 1500 },
    )
    expect(merged).toBeGreaterThan(50)
  })

  test('print → parse', () =>
    fc.assert(
      fc.property(record, (text) => {
        const printed = spfText(parseSpf(text).record.terms)
        expect(spfText(parseSpf(printed).record.terms)).toBe(printed)
        expect(parseSpf(printed).problems).toEqual([])
      }),
    ))

  test('built of senders as people name them', () => {
    expect(
      buildSpf(['mx', '192.0.2.0/24', '192.0.2.7', '2001:db8::25', 'include:_spf.larkpost.example', 'mx'], '~'),
    ).toEqual({
      text: 'v=spf1 mx ip4:192.0.2.0/24 ip6:2001:db8::25 include:_spf.larkpost.example ~all',
    })
    expect(buildSpf(['mail.larkpost.example'], '~')).toMatchObject({
      sender: 'mail.larkpost.example',
      problem: { wanted: expect.stringContaining('include:mail.larkpost.example') },
    })
  })

  test.each([
    ['include:b.example.com', 'v=spf1 mx ip4:192.0.2.1 ~all'],
    ['b.example.com', 'v=spf1 mx ip4:192.0.2.1 ~all'],
    ['192.0.2.1', 'v=spf1 mx include:b.example.com ~all'],
    ['a', undefined],
  ])('without %s', (gone, left) =>
    expect(withoutSender('v=spf1 mx ip4:192.0.2.1 include:b.example.com ~all', gone)).toBe(left),
  )

  test('another end', () =>
    expect(withEnd('v=spf1 mx exp=a.example.com redirect=b.example.com', '-')).toBe('v=spf1 mx -all exp=a.example.com'))
})

describe('the budget', () => {
  const at = (records: Record<string, KnownSpf>) => (name: string) => records[name] ?? 'unknown'
  test('counts the worst case through includes and redirects', () => {
    const budget = spfBudget(
      'a.example.',
      'v=spf1 mx include:b.example ip4:192.0.2.1 include:c.example include:d.example exists:%{i}.x.example ~all a',
      at({
        'b.example.': { text: 'v=spf1 a a:x.example include:c.example -all' },
        'c.example.': { text: 'v=spf1 redirect=e.example' },
        'e.example.': { text: 'v=spf1 ptr ?all' },
      }),
    )
    // mx 1; b 1 + a, a:x, include:c with its redirect and ptr: 6; c 3; d 1, unknown below; exists 1.
    expect(budget.parts.map(({ total }) => total)).toEqual([1, 6, 3, 1, 1])
    expect([budget.total, budget.whole, unknownIn(budget)]).toEqual([12, false, ['d.example.']])
  })
  test.each<[string, Record<string, KnownSpf>, string | undefined]>([
    ['v=spf1 include:b.example -all', { 'b.example.': { text: 'v=spf1 include:A.example -all' } }, 'loop'],
    ['v=spf1 include:b.example -all', { 'b.example.': 'none' }, 'none'],
    ['v=spf1 include:b.example -all', { 'b.example.': { text: 'v=spf1 moo' } }, 'syntax'],
    ['v=spf1 include:%{d}.x.example -all', { 'a.example.x.example.': 'several' }, 'several'],
    ['v=spf1 include:%{i}.x.example -all', {}, undefined],
  ])('%s', (text, records, trouble) => {
    const part = spfBudget('a.example.', text, at(records)).parts[0]!
    expect(part.trouble ?? part.parts[0]?.trouble).toBe(trouble)
  })
  test('ten thousand includes of one another are counted in no time', () => {
    const all = Array.from({ length: 60 }, (_, i) => `include:n${i}.example`).join(' ')
    const budget = spfBudget('a.example.', `v=spf1 ${all}`, () => ({ text: `v=spf1 ${all}` }))
    expect(budget.total).toBeGreaterThan(60)
  })
})

describe('what a record lets send by addresses alone', () => {
  const at = (records: Record<string, KnownSpf>) => (name: string) => records[name] ?? 'unknown'
  const own: Record<string, KnownSpf> = {
    'a.example.': { text: 'v=spf1 ip4:192.0.2.0/27 include:b.example ?ip4:192.0.2.200 ~all' },
    'b.example.': { text: 'v=spf1 ip6:2001:db8::/48 redirect=c.example' },
    'c.example.': { text: 'v=spf1 ip4:198.51.100.7 -all ip4:203.0.113.1' },
    'd.example.': { text: 'v=spf1 include:b.example -all' },
    'mx.example.': { text: 'v=spf1 mx -all' },
    'loop.example.': { text: 'v=spf1 include:loop.example -all' },
    'bad.example.': { text: 'v=spf1 moo -all' },
    'two.example.': 'several',
    'mild.example.': { text: 'v=spf1 ?include:b.example -all' },
  }
  test('includes and redirects are followed, up to “all”', () =>
    expect(rangesOf('d.example.', at(own))).toMatchObject({
      terms: [{ text: 'ip6:2001:db8::/48' }, { text: 'ip4:198.51.100.7' }],
    }))
  test.each([
    ['a.example.', /\?ip4:192\.0\.2\.200, which is not a list/],
    ['mx.example.', /has mx, which is not a list/],
    ['mild.example.', /has \?include:b\.example, which is not a list/],
    ['loop.example.', /leads back to itself/],
    ['bad.example.', /is invalid: “moo”/],
    ['two.example.', /several SPF records/],
    ['none.example.', /not in your zones/],
  ])('%s cannot be copied', (name, why) =>
    expect(rangesOf(name, at(own))).toEqual({ refused: expect.stringMatching(why) }),
  )
})
