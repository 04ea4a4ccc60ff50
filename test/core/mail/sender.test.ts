import { describe, expect, test } from 'vitest'
import type { Lookup, LookupType } from '../../../src/core/mail/lookup.ts'
import { judgeSender, type SenderInput } from '../../../src/core/mail/sender.ts'
import {
  isSts,
  listsExchange,
  nextId,
  parsePolicy,
  parseSts,
  parseTlsReports,
  policyText,
} from '../../../src/core/mail/transport.ts'
import { organizationalDomain } from '../../../src/core/names/public-suffix.ts'

const KEY = 'v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo='
const base: Record<string, Partial<Record<LookupType, string[]>>> = {
  'ferry.example.': { TXT: ['v=spf1 ip4:192.0.2.25 -all'], MX: ['10 mail.ferry.example.'] },
  'news.ferry.example.': { A: ['192.0.2.9'], TXT: ['v=spf1 ip4:192.0.2.26 -all'] },
  '_dmarc.ferry.example.': { TXT: ['v=DMARC1; p=reject; sp=quarantine; np=none; aspf=s'] },
  's1._domainkey.ferry.example.': { TXT: [KEY] },
  's2._domainkey.ferry.example.': { TXT: ['v=DKIM1; p='] },
  'larkpost.example.': { TXT: ['v=spf1 ip4:198.51.100.7 -all'] },
  's1._domainkey.larkpost.example.': { TXT: [KEY] },
}
const lookup: Lookup = (name, type) => {
  if (name === 'down.example.') return { trouble: 'time-out' }
  const there = base[name]
  return !there ? { trouble: 'no-name' } : there[type] ? { data: there[type] } : { trouble: 'no-data' }
}
const sender = (stated: Partial<SenderInput>) =>
  judgeSender({
    ip: '192.0.2.25',
    helo: 'mail.ferry.example',
    envelope: 'x@ferry.example',
    from: 'ferry.example.',
    signedBy: [],
    lookup,
    organizational: organizationalDomain,
    ...stated,
  })

describe('would a sender pass', () => {
  test.each<[string, Partial<SenderInput>, string[], string]>([
    ['SPF, aligned', {}, ['SPF'], 'passes'],
    ['neither', { ip: '192.0.2.99' }, [], 'reject'],
    [
      'a key, aligned',
      { ip: '192.0.2.99', signedBy: [{ domain: 'ferry.example.', selector: 's1' }] },
      ['DKIM'],
      'passes',
    ],
    [
      'a key that is revoked',
      { ip: '192.0.2.99', signedBy: [{ domain: 'ferry.example.', selector: 's2' }] },
      [],
      'reject',
    ],
    [
      'a key that is not there',
      { ip: '192.0.2.99', signedBy: [{ domain: 'ferry.example.', selector: 's3' }] },
      [],
      'reject',
    ],
    [
      'a signature without a selector is taken',
      { ip: '192.0.2.99', signedBy: [{ domain: 'ferry.example.' }] },
      ['DKIM'],
      'passes',
    ],
    [
      'another’s signature is not aligned',
      { ip: '192.0.2.99', signedBy: [{ domain: 'larkpost.example.', selector: 's1' }] },
      [],
      'reject',
    ],
    ['another’s envelope is not aligned', { ip: '198.51.100.7', envelope: 'b@larkpost.example' }, [], 'reject'],
    ['strict SPF: the domain’s own envelope for a name below', { from: 'news.ferry.example.' }, [], 'quarantine'],
    [
      'the name’s own',
      { from: 'news.ferry.example.', envelope: 'x@news.ferry.example', ip: '192.0.2.26' },
      ['SPF'],
      'passes',
    ],
    [
      'relaxed DKIM: for a name below',
      { ip: '192.0.2.99', from: 'news.ferry.example.', signedBy: [{ domain: 'ferry.example.', selector: 's1' }] },
      ['DKIM'],
      'passes',
    ],
    ['a name that does not exist', { ip: '192.0.2.99', from: 'gone.ferry.example.' }, [], 'none'],
    [
      'no policy: alignment is not asked for',
      { ip: '198.51.100.7', envelope: 'b@larkpost.example', from: 'quillwing.example.' },
      ['SPF'],
      'passes',
    ],
    ['no policy, and nothing passes', { from: 'quillwing.example.', ip: '192.0.2.99' }, [], 'no policy'],
    ['asking failed', { ip: '192.0.2.99', envelope: 'x@down.example', from: 'down.example.' }, [], 'later'],
    ['asking failed for what is not aligned anyway', { ip: '192.0.2.99', envelope: 'x@down.example' }, [], 'reject'],
    ['a bounce is judged by its EHLO', { envelope: '', helo: 'ferry.example' }, ['SPF'], 'passes'],
  ])('%s', async (_what, stated, by, disposition) => expect(await sender(stated)).toMatchObject({ by, disposition }))
  test('says where the tree walk finds another record', async () => {
    expect((await sender({})).walked).toBeUndefined()
    expect((await sender({ from: 'a.news.ferry.example.' })).walked).toBeUndefined()
    expect((await sender({ from: 'a.quillwing.example.' })).walked?.organization).toBe('a.quillwing.example.')
  })
})

describe('transport', () => {
  test.each([
    ['v=STSv1; id=20261123T1;', [], '20261123T1'],
    ['v=STSv1;', ['id= is missing'], undefined],
    ['v=STSv1; id=2026-11-23', ['is not a valid id'], '2026-11-23'],
    ['v=STSv1; id=1; id=2', ['twice'], '1'],
  ])('%s', (text, said, id) => {
    const { id: found, problems } = parseSts(text)
    expect([found, problems.length]).toEqual([id, said.length])
    for (const [i, words] of said.entries()) expect(problems[i]!.message).toContain(words)
  })
  test.each([
    ['v=TLSRPTv1; rua=mailto:tls@larkpost.example', 0],
    ['v=TLSRPTv1;rua=mailto:tls@larkpost.example,https://larkpost.example/tls', 0],
    ['v=TLSRPTv1', 1],
    ['v=TLSRPTv1; rua=tls@larkpost.example', 1],
  ])('%s: %i problems', (text, count) => expect(parseTlsReports(text).problems).toHaveLength(count))
  test('unrelated texts do not count', () =>
    expect(['v=STSv1; id=1', 'v=STSv12; id=1', 'v=spf1 -all'].map(isSts)).toEqual([true, false, false]))

  test('a policy, written and read', () => {
    const policy = { mode: 'enforce' as const, maxAge: 86_400, exchanges: ['mail.ferry.example', '*.larkpost.example'] }
    expect(parsePolicy(policyText(policy))).toEqual({ policy, problems: [] })
    expect(policyText(policy).split('\r\n')).toHaveLength(6)
    expect(
      [
        'mail.ferry.example.',
        'MX2.larkpost.example.',
        'a.b.larkpost.example.',
        'larkpost.example.',
        'ferry.example.',
      ].map((name) => listsExchange(policy, name)),
    ).toEqual([true, true, false, false, false])
  })
  test.each([
    ['version: STSv1\nmode: maybe\nmax_age: 1\nmx: a.example\n', 2],
    ['mode: testing\nmax_age: 1\nmx: a.example\n', 1],
    ['version: STSv1\nmode: testing\nmax_age: 99999999\nmx: a.example\n', 3],
    ['version: STSv1\nmode: testing\nmax_age: 1\n', 1],
    ['version: STSv1\nmode: testing\nmax_age: 1\nmx: a_b.example\nmx: c.example', 4],
    ['<html>', 1],
  ])('%j has a fault in line %i', (text, line) => expect(parsePolicy(text).problems[0]!.line).toBe(line))
  test('an id is another each time', () => {
    const now = new Date('2026-11-23T10:20:30Z')
    const ids = [nextId(now)]
    for (let i = 0; i < 4; i++) ids.push(nextId(now, ids.at(-1)))
    expect([ids[0], new Set(ids).size, nextId(new Date('2026-11-23T10:20:31Z'), ids.at(-1))]).toEqual([
      '20261123102030',
      5,
      '20261123102031',
    ])
    for (const id of ids) expect(parseSts(`v=STSv1; id=${id}`).problems).toEqual([])
  })
})
