import { describe, expect, test } from 'vitest'
import { discoverByList, discoverByWalk } from '../../../../src/core/mail/dmarc/discovery.ts'
import type { Lookup } from '../../../../src/core/mail/lookup.ts'

const P = (tags: string): string => `v=DMARC1; p=reject${tags}`
const lookup =
  (records: Record<string, string[]>): Lookup =>
  (name) => {
    const texts = records[name.replace(/^_dmarc\./, '').replace(/\.$/, '')]
    return texts ? { data: texts } : { trouble: 'no-name' }
  }
const organizational = (name: string): string => `${name.split('.').slice(-3).join('.')}`

describe('several records at a name', () => {
  const records = { 'a.ferry.example': [P(''), P('; pct=1')], 'ferry.example': [P('; sp=none')] }
  test('end discovery (RFC 7489 §6.6.3, step 4)', async () =>
    expect(await discoverByList('a.ferry.example.', lookup(records), organizational)).toEqual({
      organization: 'ferry.example.',
    }))
  test('are passed over by the tree walk', async () =>
    expect(await discoverByWalk('a.ferry.example.', lookup(records))).toMatchObject({
      organization: 'ferry.example.',
      at: 'ferry.example.',
    }))
})

describe('psd= in the tree walk', () => {
  test.each<[string, string, Record<string, string[]>, string, string | undefined]>([
    [
      'psd=n ends it, at the name itself too',
      'a.b.example.',
      { 'a.b.example': [P('; psd=n')], 'b.example': [P('')] },
      'a.b.example.',
      'a.b.example.',
    ],
    [
      'psd=y above is a suffix: the organization is one label below',
      'a.b.co.example.',
      { 'co.example': [P('; psd=y')] },
      'b.co.example.',
      'co.example.',
    ],
    [
      'psd=y at the name itself does not end it',
      'co.example.',
      { 'co.example': [P('; psd=y')], example: [P('; psd=n')] },
      'example.',
      'co.example.',
    ],
    [
      'psd=y at the name itself, and nothing above',
      'co.example.',
      { 'co.example': [P('; psd=y')] },
      'co.example.',
      'co.example.',
    ],
    [
      'without it, the topmost record counts',
      'a.b.example.',
      { 'a.b.example': [P('')], 'b.example': [P('')] },
      'b.example.',
      'a.b.example.',
    ],
  ])('%s', async (_what, domain, records, organization, at) =>
    expect(await discoverByWalk(domain, lookup(records))).toMatchObject({ organization, at }),
  )
})
