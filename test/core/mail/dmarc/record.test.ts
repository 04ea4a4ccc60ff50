import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { consentName, discoverByList, discoverByWalk, isAligned } from '../../../../src/core/mail/dmarc/discovery.ts'
import { isDmarc, policyFor, readDmarc, withTags } from '../../../../src/core/mail/dmarc/record.ts'
import { nextStep } from '../../../../src/core/mail/dmarc/steps.ts'
import type { Lookup } from '../../../../src/core/mail/lookup.ts'
import { LIST, organizationalDomain } from '../../../../src/core/names/public-suffix.ts'

const RUA = 'rua=mailto:dmarc@larkpost.example'

describe('reading a DMARC record', () => {
  test.each<[string, string[], string | undefined]>([
    // RFC 7489 appendix B.2.1–B.2.4.
    ['v=DMARC1; p=none; rua=mailto:dmarc-feedback@example.com', [], 'none'],
    ['v=DMARC1; p=none; rua=mailto:dmarc-feedback@example.com; ruf=mailto:auth-reports@example.com', [], 'none'],
    [
      'v=DMARC1; p=none; rua=mailto:dmarc-feedback@example.com; ruf=mailto:auth-reports@thirdparty.example.net',
      [],
      'none',
    ],
    [
      'v=DMARC1; p=quarantine; rua=mailto:dmarc-feedback@example.com,mailto:tld-test@thirdparty.example.net!10m; pct=25',
      [],
      'quarantine',
    ],
    ['v=DMARC1;p=reject', [], 'reject'],
    [
      'v=DMARC1 ; P=Reject ; sp=none; np=reject; psd=n; t=y; adkim=s; aspf=r; fo=1:d:s; ri=86400; rf=afrf;',
      [],
      'reject',
    ],
    ['p=none; v=DMARC1', ['syntax'], 'none'],
    ['v=dmarc1; p=none', ['syntax'], 'none'],
    ['v=DMARC1; p=none p=reject', ['policy'], undefined],
    ['v=DMARC1; p=none; p=reject', ['syntax'], 'none'],
    [`v=DMARC1; ${RUA}`, ['policy'], 'none'],
    ['v=DMARC1', ['policy'], undefined],
    [`v=DMARC1; p=block; ${RUA}`, ['policy'], 'none'],
    [`v=DMARC1; p=reject; sp=block; ${RUA}`, ['policy'], 'none'],
    ['v=DMARC1; p=reject; np=block', ['policy'], 'reject'],
    [
      'v=DMARC1; p=reject; pct=200; adkim=x; fo=2; ri=day',
      ['tag-value', 'tag-value', 'tag-value', 'tag-value'],
      'reject',
    ],
    ['v=DMARC1; p=reject; policy=none', ['unknown-tag'], 'reject'],
    ['v=DMARC1; p=none; rua=dmarc@larkpost.example', ['report-address'], 'none'],
    ['v=DMARC1; p=none; rua=mailto:', ['report-address'], 'none'],
    ['v=DMARC1; p=none; rua=https://larkpost.example/r', ['report-address'], 'none'],
    ['v=DMARC1; p=none; rua=mailto:a@larkpost.example!10x', ['report-address'], 'none'],
    ['v=DMARC1; p=none; rua=mailto:a@larkpost.example!10m,', ['report-address'], 'none'],
    [
      'v=DMARC1; p=none; rua=mailto:a%2Cb@larkpost.example; ruf=mailto:a,b@larkpost.example',
      ['report-address', 'report-address'],
      'none',
    ],
    ['v=DMARC1; p=none, rua=mailto:a@larkpost.example', ['policy'], undefined],
  ])('%s', (text, kinds, policy) => {
    const { record, problems } = readDmarc(text)
    expect([problems.map(({ kind }) => kind), record.policy]).toEqual([kinds, policy])
    for (const { start, end } of problems) expect(start >= 0 && start < end && end <= text.length).toBe(true)
  })

  test('the place is inside the value', () => {
    const text = `v=DMARC1; p=reject; pct=101; ${RUA},ops@larkpost.example`
    expect(readDmarc(text).problems.map(({ start, end }) => text.slice(start, end))).toEqual([
      '101',
      'ops@larkpost.example',
    ])
  })

  test('which policy is for whom', () => {
    const { record } = readDmarc('v=DMARC1; p=reject; sp=quarantine; np=none')
    expect((['itself', 'below', 'missing'] as const).map((name) => policyFor(record, name))).toEqual([
      'reject',
      'quarantine',
      'none',
    ])
    expect(policyFor(readDmarc('v=DMARC1; p=reject; sp=quarantine').record, 'missing')).toBe('quarantine')
    expect(record.rua.map(({ domain }) => domain)).toEqual([])
  })

  test.each([
    ['v=DMARC1', true],
    ['V = DMARC1 ;p=none', true],
    ['v=DMARC11; p=none', false],
    ['v=dmarc1; p=none', false],
  ])('%s counts: %s', (text, expected) => expect(isDmarc(text)).toBe(expected))

  test('print → parse', () => {
    const value = fc.record({
      p: fc.constantFrom('none', 'quarantine', 'reject'),
      sp: fc.constantFrom(undefined, 'none', 'reject'),
      pct: fc.constantFrom(undefined, '5', '100'),
      adkim: fc.constantFrom(undefined, 'r', 's'),
      rua: fc.constantFrom(undefined, 'mailto:a@b.example'),
    })
    fc.assert(
      fc.property(value, value, (one, other) => {
        const text = withTags(withTags('', one), other)
        const { record, problems } = readDmarc(text)
        expect([problems, Object.fromEntries(record.tags.map((tag) => [tag.name, tag.value]))]).toEqual([
          [],
          { v: 'DMARC1', ...Object.fromEntries(Object.entries(other).filter(([, each]) => each !== undefined)) },
        ])
      }),
    )
    expect(withTags('v=DMARC1; p=none; fo=1; rua=mailto:a@b.example', { p: 'quarantine', pct: '10' })).toBe(
      'v=DMARC1; p=quarantine; fo=1; rua=mailto:a@b.example; pct=10',
    )
  })
})

describe('steps', () => {
  test('from nothing to reject, one at a time, and none further', () => {
    let text: string | undefined
    const steps: string[] = []
    for (let i = 0; i < 20; i++) {
      const step = nextStep(text, { reports: ['mailto:dmarc@larkpost.example'] })
      if (!('text' in step)) {
        expect(step).toHaveProperty('done')
        break
      }
      expect([step.does.length > 0, step.first.length > 0]).toEqual([true, true])
      steps.push((text = step.text))
    }
    expect(steps).toEqual(['none', 'quarantine', 'reject'].map((p) => `v=DMARC1; p=${p}; ${RUA}`))
  })
  test.each<[string | undefined, number | undefined, unknown]>([
    [undefined, undefined, { missing: 'reports' }],
    ['v=DMARC1; p=none', undefined, { missing: 'reports' }],
    [`v=DMARC1; p=none; ${RUA}`, 10, { text: `v=DMARC1; p=quarantine; ${RUA}; pct=10` }],
    [`v=DMARC1; p=quarantine; pct=10; ${RUA}`, 50, { text: `v=DMARC1; p=quarantine; pct=50; ${RUA}` }],
    [`v=DMARC1; p=quarantine; pct=10; ${RUA}`, 10, { refused: expect.stringContaining('weaken') }],
    [`v=DMARC1; p=quarantine; pct=10; ${RUA}`, undefined, { text: `v=DMARC1; p=quarantine; ${RUA}` }],
    [`v=DMARC1; p=reject; sp=none; ${RUA}`, undefined, { text: `v=DMARC1; p=reject; ${RUA}` }],
    [`v=DMARC1; p=reject; np=none; t=y; ${RUA}`, undefined, { text: `v=DMARC1; p=reject; t=y; ${RUA}` }],
    [`v=DMARC1; p=reject; t=y; ${RUA}`, undefined, { text: `v=DMARC1; p=reject; ${RUA}` }],
    [`v=DMARC1; p=rejct; ${RUA}`, undefined, { refused: expect.stringContaining('p=rejct') }],
  ])('%s, %s', (text, percent, step) => expect(nextStep(text, { percent })).toMatchObject(step as object))
})

describe('discovery', () => {
  const lookup =
    (records: Record<string, string>): Lookup =>
    (name) =>
      records[name] === 'fails'
        ? { trouble: 'server-failure' }
        : records[name]
          ? { data: [records[name], 'ferry-proof=1'] }
          : { trouble: 'no-name' }
  const at = 'v=DMARC1; p='
  test.each<[string, string, Record<string, string>, [string, string?], [string, string?]]>([
    [
      'at the domain',
      'a.ferry.example.',
      { '_dmarc.a.ferry.example.': `${at}none` },
      ['ferry.example.', 'a.ferry.example.'],
      ['a.ferry.example.', 'a.ferry.example.'],
    ],
    [
      'at the organization',
      'a.b.ferry.example.',
      { '_dmarc.ferry.example.': `${at}none` },
      ['ferry.example.', 'ferry.example.'],
      ['ferry.example.', 'ferry.example.'],
    ],
    [
      'between them: the walk finds it, the list does not',
      'a.b.ferry.example.',
      { '_dmarc.b.ferry.example.': `${at}none` },
      ['ferry.example.'],
      ['b.ferry.example.', 'b.ferry.example.'],
    ],
    [
      'psd=n ends the walk',
      'a.b.ferry.example.',
      { '_dmarc.b.ferry.example.': `${at}reject; psd=n`, '_dmarc.ferry.example.': `${at}none` },
      ['ferry.example.', 'ferry.example.'],
      ['b.ferry.example.', 'b.ferry.example.'],
    ],
    [
      'psd=y: the organization is below',
      'a.ferry.example.',
      { '_dmarc.example.': `${at}reject; psd=y` },
      ['ferry.example.'],
      ['ferry.example.', 'example.'],
    ],
    ['nothing', 'a.ferry.example.', {}, ['ferry.example.'], ['a.ferry.example.']],
    [
      'a long name is walked from its last seven labels',
      'a.b.c.d.e.f.g.ferry.example.',
      { '_dmarc.b.c.d.e.f.g.ferry.example.': `${at}none`, '_dmarc.c.d.e.f.g.ferry.example.': `${at}none` },
      ['ferry.example.'],
      ['c.d.e.f.g.ferry.example.', 'c.d.e.f.g.ferry.example.'],
    ],
    [
      'a suffix of two labels',
      'mail.2.in-addr.arpa.',
      { '_dmarc.2.in-addr.arpa.': `${at}none`, '_dmarc.in-addr.arpa.': `${at}none` },
      ['2.in-addr.arpa.', '2.in-addr.arpa.'],
      ['in-addr.arpa.', 'in-addr.arpa.'],
    ],
  ])('%s', async (_what, name, records, list, walk) => {
    const by = [
      await discoverByList(name, lookup(records), organizationalDomain),
      await discoverByWalk(name, lookup(records)),
    ]
    expect(by.map((each) => (each.at ? [each.organization, each.at] : [each.organization]))).toEqual([list, walk])
  })
  test('trouble is told', async () => {
    expect(
      await discoverByList('a.ferry.example.', lookup({ '_dmarc.ferry.example.': 'fails' }), organizationalDomain),
    ).toMatchObject({
      trouble: 'server-failure',
    })
    expect(await discoverByWalk('a.ferry.example.', lookup({ '_dmarc.ferry.example.': 'fails' }))).toMatchObject({
      trouble: 'server-failure',
    })
  })
  // RFC 7489 appendix B.1.
  test.each([
    ['example.com.', 'example.com.', 'strict', true],
    ['child.example.com.', 'example.com.', 'relaxed', true],
    ['child.example.com.', 'example.com.', 'strict', false],
    ['sample.net.', 'example.com.', 'relaxed', false],
    ['Example.COM.', 'example.com.', 'strict', true],
  ] as const)('%s and %s, %s: aligned is %s', (one, other, mode, expected) =>
    expect(isAligned(one, other, mode, organizationalDomain)).toBe(expected),
  )
  test('where consent stands', () =>
    expect(consentName('example.com.', 'thirdparty.example.net.')).toBe(
      'example.com._report._dmarc.thirdparty.example.net.',
    ))
  test('the list’s date is that of the release that is installed', () =>
    expect(JSON.parse(readFileSync('node_modules/tldts/package.json', 'utf8')).version).toBe(LIST.release))
})
