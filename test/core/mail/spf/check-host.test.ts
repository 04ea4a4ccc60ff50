import { describe, expect, test } from 'vitest'
import type { Found, Lookup, LookupType } from '../../../../src/core/mail/lookup.ts'
import { checkHost } from '../../../../src/core/mail/spf/check-host.ts'

/** A small DNS: of each name its records; a word alone is the trouble with it. */
type Names = Record<string, Partial<Record<LookupType, string[]>> | 'time-out' | 'server-failure'>

const lookupIn =
  (names: Names, asked: string[] = []): Lookup =>
  (name, type): Found => {
    asked.push(`${name} ${type}`)
    const there = names[name.toLowerCase().slice(0, -1)]
    if (typeof there === 'string') return { trouble: there }
    return there === undefined
      ? { trouble: 'no-name' }
      : there[type] === undefined
        ? { trouble: 'no-data' }
        : { data: there[type] }
  }

const judge = (names: Names, stated: { ip?: string; mailFrom?: string; helo?: string } = {}) =>
  checkHost({
    ip: '192.0.2.3',
    mailFrom: 'strong-bad@email.example.com',
    helo: 'mail.example.org',
    lookup: lookupIn(names),
    receiver: 'mx.example.org',
    ...stated,
  })

const txt = (text: string) => ({ TXT: [text] })

// The zone of RFC 7208 appendix A.
const appendix = (record: string): Names => ({
  'example.com': {
    TXT: [record],
    A: ['192.0.2.10', '192.0.2.11'],
    MX: ['10 mail-a.example.com.', '20 mail-b.example.com.'],
  },
  'amy.example.com': { A: ['192.0.2.65'] },
  'bob.example.com': { A: ['192.0.2.66'] },
  'mail-a.example.com': { A: ['192.0.2.129'] },
  'mail-b.example.com': { A: ['192.0.2.130'] },
  'example.org': { MX: ['10 mail-c.example.org.'] },
  'mail-c.example.org': { A: ['192.0.2.140'] },
  '10.2.0.192.in-addr.arpa': { PTR: ['example.com.'] },
  '11.2.0.192.in-addr.arpa': { PTR: ['example.com.'] },
  '65.2.0.192.in-addr.arpa': { PTR: ['amy.example.com.'] },
  '66.2.0.192.in-addr.arpa': { PTR: ['bob.example.com.'] },
  '129.2.0.192.in-addr.arpa': { PTR: ['mail-a.example.com.'] },
  '140.2.0.192.in-addr.arpa': { PTR: ['mail-c.example.org.'] },
  '4.0.0.10.in-addr.arpa': { PTR: ['bob.example.com.'] },
})

describe('RFC 7208 appendix A.1', () => {
  test.each([
    ['v=spf1 +all', '203.0.113.9', 'pass'],
    ['v=spf1 a -all', '192.0.2.10', 'pass'],
    ['v=spf1 a -all', '192.0.2.11', 'pass'],
    ['v=spf1 a -all', '192.0.2.129', 'fail'],
    ['v=spf1 a:example.org -all', '192.0.2.10', 'fail'],
    ['v=spf1 mx -all', '192.0.2.129', 'pass'],
    ['v=spf1 mx -all', '192.0.2.130', 'pass'],
    ['v=spf1 mx:example.org -all', '192.0.2.140', 'pass'],
    ['v=spf1 mx mx:example.org -all', '192.0.2.140', 'pass'],
    ['v=spf1 mx/30 mx:example.org/30 -all', '192.0.2.131', 'pass'],
    ['v=spf1 mx/30 mx:example.org/30 -all', '192.0.2.143', 'pass'],
    ['v=spf1 mx/30 mx:example.org/30 -all', '192.0.2.135', 'fail'],
    ['v=spf1 ptr -all', '192.0.2.10', 'pass'],
    ['v=spf1 ptr -all', '192.0.2.65', 'pass'],
    ['v=spf1 ptr -all', '192.0.2.140', 'fail'],
    ['v=spf1 ptr -all', '10.0.0.4', 'fail'],
    ['v=spf1 ip4:192.0.2.128/28 -all', '192.0.2.65', 'fail'],
    ['v=spf1 ip4:192.0.2.128/28 -all', '192.0.2.129', 'pass'],
  ])('%s of %s: %s', async (record, ip, result) =>
    expect((await judge(appendix(record), { ip, mailFrom: 'x@example.com' })).result).toBe(result),
  )
})

describe('what RFC 7208 demands', () => {
  const D = 'email.example.com'
  const many = (n: number, of: (i: number) => string) => Array.from({ length: n }, (_, i) => of(i)).join(' ')
  test.each<[string, Names, object, string]>([
    ['§4.3 a domain of one label', { com: txt('v=spf1 +all') }, { mailFrom: 'x@com' }, 'none'],
    ['§4.3 an empty label', {}, { mailFrom: 'x@email..example.com' }, 'none'],
    ['§4.3 a label of 64 octets', {}, { mailFrom: `x@${'a'.repeat(64)}.example.com` }, 'none'],
    ['§4.3 no such domain', {}, {}, 'none'],
    ['§4.4 no answer', { [D]: 'time-out' }, {}, 'temperror'],
    ['§4.4 the server fails', { [D]: 'server-failure' }, {}, 'temperror'],
    ['§4.5 no record', { [D]: txt('v=spf10 +all') }, {}, 'none'],
    ['§4.5 in any case', { [D]: txt('V=sPf1 +ALL') }, {}, 'pass'],
    ['§4.5 the version alone', { [D]: txt('v=spf1') }, {}, 'neutral'],
    ['§3.2 two records', { [D]: { TXT: ['v=spf1 +all', 'v=spf1 -all'] } }, {}, 'permerror'],
    ['§4.6 a fault behind a match', { [D]: txt('v=spf1 +all moo') }, {}, 'permerror'],
    ['§4.6.2 the first match counts', { [D]: txt('v=spf1 ?ip4:192.0.2.3 -all') }, {}, 'neutral'],
    [
      '§4.6.4 ten terms that ask',
      { [D]: txt(`v=spf1 ${many(10, () => 'a:there.example.com')} +all`), 'there.example.com': { A: ['192.0.2.99'] } },
      {},
      'pass',
    ],
    [
      '§4.6.4 eleven',
      { [D]: txt(`v=spf1 ${many(11, () => 'a:there.example.com')} +all`), 'there.example.com': { A: ['192.0.2.99'] } },
      {},
      'permerror',
    ],
    [
      '§4.6.4 eleven, five of them in includes',
      {
        [D]: txt(`v=spf1 ${many(5, (i) => `include:i${i}.example.com`)} a a +all`),
        ...Object.fromEntries(
          many(5, (i) => `i${i}.example.com`)
            .split(' ')
            .map((name) => [name, txt('v=spf1 exists:there.example.com -all')]),
        ),
        'there.example.com': { TXT: [] },
      },
      {},
      'permerror',
    ],
    [
      '§4.6.4 ip4, ip6 and all ask nothing',
      { [D]: txt(`v=spf1 ${many(300, (i) => `ip4:198.51.100.${i % 200}`)} ip6:2001:db8::1 ~all`) },
      {},
      'softfail',
    ],
    ['§4.6.4 two terms that find nothing', { [D]: txt('v=spf1 a:x.example.com a:y.example.com +all') }, {}, 'pass'],
    ['§4.6.4 three', { [D]: txt('v=spf1 a:x.example.com a:y.example.com mx:z.example.com +all') }, {}, 'permerror'],
    [
      '§4.6.4 three hosts without IPv6, from IPv6',
      {
        [D]: txt('v=spf1 a:t.example.com a:t.example.com a:t.example.com +all'),
        't.example.com': { A: ['192.0.2.9'] },
      },
      { ip: '2001:db8::1' },
      'permerror',
    ],
    [
      '§4.6.4 eleven exchanges',
      {
        [D]: {
          TXT: ['v=spf1 mx +all'],
          MX: many(11, (i) => `10,m${i}.example.com.`)
            .split(' ')
            .map((x) => x.replace(',', ' ')),
        },
      },
      {},
      'permerror',
    ],
    ['§4.7 nothing matches', { [D]: txt('v=spf1 ip4:198.51.100.1') }, {}, 'neutral'],
    [
      '§5 trouble with an address',
      { [D]: txt('v=spf1 a:x.example.com +all'), 'x.example.com': 'server-failure' },
      {},
      'temperror',
    ],
    ['§5 an IPv4 address inside IPv6', { [D]: txt('v=spf1 ip4:192.0.2.3 -all') }, { ip: '::ffff:192.0.2.3' }, 'pass'],
    [
      '§5.2 include: pass',
      { [D]: txt('v=spf1 include:i.example.com -all'), 'i.example.com': txt('v=spf1 ip4:192.0.2.3 -all') },
      {},
      'pass',
    ],
    [
      '§5.2 include: fail is no match',
      { [D]: txt('v=spf1 include:i.example.com ~all'), 'i.example.com': txt('v=spf1 -all') },
      {},
      'softfail',
    ],
    [
      '§5.2 include: its qualifier',
      { [D]: txt('v=spf1 -include:i.example.com ~all'), 'i.example.com': txt('v=spf1 +all') },
      {},
      'fail',
    ],
    ['§5.2 include: none', { [D]: txt('v=spf1 include:i.example.com ~all') }, {}, 'permerror'],
    [
      '§5.2 include: permerror',
      { [D]: txt('v=spf1 include:i.example.com ~all'), 'i.example.com': txt('v=spf1 moo') },
      {},
      'permerror',
    ],
    [
      '§5.2 include: temperror',
      { [D]: txt('v=spf1 include:i.example.com ~all'), 'i.example.com': 'time-out' },
      {},
      'temperror',
    ],
    ['§5.2 include: itself', { [D]: txt(`v=spf1 include:${D} ~all`) }, {}, 'permerror'],
    [
      '§5.3 a with lengths for both families',
      { [D]: { TXT: ['v=spf1 a/24//32 -all'], A: ['192.0.2.99'], AAAA: ['2001:db8::9'] } },
      { ip: '2001:db8:1::1' },
      'pass',
    ],
    [
      '§5.5 ptr of another domain',
      {
        [D]: txt('v=spf1 ptr:example.org -all'),
        '3.2.0.192.in-addr.arpa': { PTR: ['a.example.org.'] },
        'a.example.org': { A: ['192.0.2.3'] },
      },
      {},
      'pass',
    ],
    [
      '§5.5 ptr that does not lead back',
      { [D]: txt('v=spf1 ptr -all'), '3.2.0.192.in-addr.arpa': { PTR: [`${D}.`] }, [`a.${D}`]: { A: ['192.0.2.3'] } },
      {},
      'fail',
    ],
    [
      '§5.5 trouble with ptr is no match',
      { [D]: txt('v=spf1 ptr -all'), '3.2.0.192.in-addr.arpa': 'time-out' },
      {},
      'fail',
    ],
    [
      '§5.7 exists asks for A even from IPv6',
      { [D]: txt('v=spf1 exists:there.example.com -all'), 'there.example.com': { A: ['127.0.0.2'] } },
      { ip: '2001:db8::1' },
      'pass',
    ],
    [
      '§5.7 exists with the sender in it',
      { [D]: txt('v=spf1 exists:%{l1r+-}._spf.%{d} -all'), [`strong._spf.${D}`]: { A: ['127.0.0.2'] } },
      {},
      'pass',
    ],
    [
      '§6.1 redirect',
      { [D]: txt('v=spf1 redirect=r.example.com'), 'r.example.com': txt('v=spf1 ip4:192.0.2.3 -all') },
      {},
      'pass',
    ],
    [
      '§6.1 redirect beside all',
      { [D]: txt('v=spf1 ?all redirect=r.example.com'), 'r.example.com': txt('v=spf1 -all') },
      {},
      'neutral',
    ],
    ['§6.1 redirect to nothing', { [D]: txt('v=spf1 redirect=r.example.com') }, {}, 'permerror'],
    [
      '§6.1 redirect: %{d} is the new domain',
      { [D]: txt('v=spf1 redirect=r.example.com'), 'r.example.com': txt('v=spf1 a:%{d} -all') },
      {},
      'fail',
    ],
    ['§6 an unknown modifier', { [D]: txt('v=spf1 moo=%{i} +all') }, {}, 'pass'],
    ['§6 redirect twice', { [D]: txt('v=spf1 +all redirect=r.example.com redirect=r.example.com') }, {}, 'permerror'],
    [
      '§2.4 an empty sender',
      {
        'mail.example.org': txt('v=spf1 exists:%{l}.%{o}.example.com -all'),
        'postmaster.mail.example.org.example.com': { A: ['127.0.0.2'] },
      },
      { mailFrom: '' },
      'pass',
    ],
    ['§4.8 a name that is none', { [D]: txt('v=spf1 a:%{l}..example.com +all') }, {}, 'pass'],
  ])('%s', async (_what, names, stated, result) => {
    const judged = await judge(names, stated)
    expect([judged.result, judged.trace.at(-1)?.why]).toEqual([result, expect.any(String)])
    expect(judged.voidLookups).toBeLessThanOrEqual(3)
  })

  test('a name is cut from the left where its macros make it too long (§7.3)', async () => {
    const asked: string[] = []
    const local = Array.from({ length: 40 }, (_, i) => `label${i}`).join('.')
    await checkHost({
      ip: '192.0.2.3',
      helo: 'x.example',
      mailFrom: `${local}@${D}`,
      lookup: lookupIn({ [D]: txt('v=spf1 exists:%{l}.%{d} -all') }, asked),
    })
    expect(asked[1]!.length).toBeLessThanOrEqual(256)
    expect(asked[1]).toMatch(/label39\.email\.example\.com\. A$/)
  })

  test('explanations (§6.2)', async () => {
    const names = (text: string[]): Names => ({ [D]: txt('v=spf1 exp=why.%{d} -all'), [`why.${D}`]: { TXT: text } })
    expect((await judge(names(['%{i} is no sender of %{d}; ask %{R}%_%%: %{c}']))).explanation).toBe(
      '192.0.2.3 is no sender of email.example.com; ask mx.example.org %: 192.0.2.3',
    )
    for (const text of [[], ['one', 'two'], ['%{z}'], ['caf\u00e9']])
      expect((await judge(names(text))).explanation).toBeUndefined()
    // That of an include is not used; that of a redirect is.
    const target = { 'i.example.com': txt('v=spf1 exp=why.i.example.com -all'), 'why.i.example.com': txt('from there') }
    expect((await judge({ [D]: txt('v=spf1 -include:i.example.com -all'), ...target })).explanation).toBeUndefined()
    expect((await judge({ [D]: txt('v=spf1 exp=x.example.com redirect=i.example.com'), ...target })).explanation).toBe(
      'from there',
    )
  })

  test('questions of one record are asked together, and none behind a sure match', async () => {
    const asked: string[] = []
    const waiting: (() => void)[] = []
    const lookup: Lookup = (name, type) =>
      new Promise((resolve) => {
        asked.push(`${name} ${type}`)
        waiting.push(() =>
          resolve(
            lookupIn({
              [D]: txt('v=spf1 a:a.example.com mx:b.example.com ip4:192.0.2.3 a:never.example.com -all'),
              'a.example.com': { A: ['192.0.2.3'] },
            })(name, type),
          ),
        )
      })
    const judged = checkHost({ ip: '192.0.2.3', helo: 'x.example', mailFrom: `x@${D}`, lookup })
    waiting.shift()!()
    for (let i = 0; i < 20; i++) await Promise.resolve()
    expect(asked).toEqual([`${D}. TXT`, 'a.example.com. A', 'b.example.com. MX'])
    for (const answer of waiting) answer()
    // The first term matches: the second was asked for, and does not count.
    expect(await judged).toMatchObject({ result: 'pass', lookups: 1, voidLookups: 0 })
  })

  test('what fails in the caller’s lookup is the caller’s', async () => {
    const lookup: Lookup = (_, type) =>
      type === 'TXT' ? { data: ['v=spf1 a mx -all'] } : Promise.reject(new Error('out of order'))
    await expect(checkHost({ ip: '192.0.2.3', helo: 'x.example', mailFrom: `x@${D}`, lookup })).rejects.toThrow(
      'out of order',
    )
    await expect(checkHost({ ip: 'here', helo: 'x.example', mailFrom: `x@${D}`, lookup })).rejects.toThrow(RangeError)
  })

  test.each([
    ['64 KiB of macros', `v=spf1 ${'exists:%{l1r-}.%{s}.%{d}.example.com '.repeat(1600)}-all`, 'permerror'],
    ['ten thousand terms', `v=spf1 ${many(10_000, (i) => `ip4:10.${i >> 8}.${i & 255}.1`)} +all`, 'pass'],
    ['a macro bomb', `v=spf1 exists:${'%{s}'.repeat(15_000)}.example.com +all`, 'pass'],
    ['one term of 64 KiB', `v=spf1 a:${'a.'.repeat(32_000)}example.com +all`, 'pass'],
    [
      'octets of no sense',
      `v=spf1 ${String.fromCharCode(...Array.from({ length: 255 }, (_, i) => i + 1))}`,
      'permerror',
    ],
  ])('%s', async (_what, record, result) =>
    expect((await judge({ [D]: txt(record) }, { mailFrom: `${'x'.repeat(5000)}@${D}` })).result).toBe(result),
  )

  test('includes in circles', async () => {
    const names: Names = { [D]: txt('v=spf1 include:a.example.com include:b.example.com -all') }
    for (const each of ['a', 'b'])
      names[`${each}.example.com`] = txt('v=spf1 include:a.example.com include:b.example.com -all')
    expect(await judge(names)).toMatchObject({ result: 'permerror', lookups: 11 })
  })
})

describe('macros (RFC 7208 §7.4)', () => {
  const ipv6 = '2001:db8::cb01'
  test.each([
    ['%{s}', 'strong-bad@email.example.com'],
    ['%{o}', 'email.example.com'],
    ['%{d}', 'email.example.com'],
    ['%{d4}', 'email.example.com'],
    ['%{d3}', 'email.example.com'],
    ['%{d2}', 'example.com'],
    ['%{d1}', 'com'],
    ['%{dr}', 'com.example.email'],
    ['%{d2r}', 'example.email'],
    ['%{l}', 'strong-bad'],
    ['%{l-}', 'strong.bad'],
    ['%{lr}', 'strong-bad'],
    ['%{lr-}', 'bad.strong'],
    ['%{l1r-}', 'strong'],
    ['%{ir}.%{v}._spf.%{d2}', '3.2.0.192.in-addr._spf.example.com'],
    ['%{lr-}.lp._spf.%{d2}', 'bad.strong.lp._spf.example.com'],
    ['%{lr-}.lp.%{ir}.%{v}._spf.%{d2}', 'bad.strong.lp.3.2.0.192.in-addr._spf.example.com'],
    ['%{ir}.%{v}.%{l1r-}.lp._spf.%{d2}', '3.2.0.192.in-addr.strong.lp._spf.example.com'],
    ['%{d2}.trusted-domains.example.net', 'example.com.trusted-domains.example.net'],
    [
      '%{ir}.%{v}._spf.%{d2}',
      '1.0.b.c.0.0.0.0.0.0.0.0.0.0.0.0.0.0.0.0.0.0.0.0.8.b.d.0.1.0.0.2.ip6._spf.example.com',
      ipv6,
    ],
    ['%{c}', '2001:db8::cb01', ipv6],
    ['%{p}', 'mail.email.example.com'],
    ['%{S}', 'strong-bad%40email.example.com'],
    ['%{h} %% %_ %-', 'mail.example.org %   %20'],
    ['%{t}', '1795420800'],
  ])('%s', async (macro, expected, ip = '192.0.2.3') => {
    const names: Names = {
      'email.example.com': txt('v=spf1 exp=why.example.com -all'),
      'why.example.com': txt(macro),
      '3.2.0.192.in-addr.arpa': { PTR: ['other.example.org.', 'mail.email.example.com.'] },
      'other.example.org': { A: ['192.0.2.3'] },
      'mail.email.example.com': { A: ['192.0.2.3'] },
    }
    const input = {
      ip,
      mailFrom: 'strong-bad@email.example.com',
      helo: 'mail.example.org',
      lookup: lookupIn(names),
      time: 1_795_420_800,
    }
    expect((await checkHost(input)).explanation).toBe(expected)
  })
})

describe('what receivers pass over, and what they join', () => {
  const A = { A: ['192.0.2.3'] }
  test.each([
    ['a mechanism’s name with “=” is a modifier that nobody knows (§6)', ['v=spf1 ip4=192.0.2.3 -all'], 'fail'],
    ['and does not spoil the rest', ['v=spf1 include=gone.example.com ip4:192.0.2.3 -all'], 'pass'],
    ['a modifier’s value may have macros, but no broken ones', ['v=spf1 ip4=%{ -all'], 'permerror'],
  ])('%s', async (_what, [text = ''], result) =>
    expect((await judge({ 'email.example.com': txt(text), 'gone.example.com': A })).result).toBe(result),
  )
})

describe('void lookups are counted per term, and told by question', () => {
  const exchanges = { MX: ['1 a.example.com.', '2 b.example.com.', '3 c.example.com.'] }
  test.each<[string, Names, string, number, number]>([
    [
      'an mx whose exchanges all have nothing is one term, three questions',
      { 'email.example.com': { TXT: ['v=spf1 mx -all'], ...exchanges } },
      'fail',
      1,
      3,
    ],
    [
      'an mx with one exchange that has an address is none',
      { 'email.example.com': { TXT: ['v=spf1 mx -all'], ...exchanges }, 'c.example.com': { A: ['192.0.2.9'] } },
      'fail',
      0,
      2,
    ],
    ['a domain without MX', { 'email.example.com': txt('v=spf1 mx -all') }, 'fail', 1, 1],
    ['two terms', { 'email.example.com': txt('v=spf1 a:x.example.com exists:y.example.com -all') }, 'fail', 2, 2],
    [
      'three terms are too many',
      { 'email.example.com': txt('v=spf1 a:x.example.com exists:y.example.com mx -all') },
      'permerror',
      3,
      3,
    ],
  ])('%s', async (_what, names, result, voidLookups, voidQuestions) =>
    expect(await judge(names)).toMatchObject({ result, voidLookups, voidQuestions }),
  )
})
