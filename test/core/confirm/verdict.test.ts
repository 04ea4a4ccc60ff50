import { describe, expect, test } from 'vitest'
import type { Observation } from '../../../src/core/confirm/observation.ts'
import { questionsFor } from '../../../src/core/confirm/questions.ts'
import { judge } from '../../../src/core/confirm/verdict.ts'
import { emptyMessage, type Message } from '../../../src/core/message/message.ts'
import { nameToWire } from '../../../src/core/names/name.ts'
import { parseRdata } from '../../../src/core/records/rdata.ts'
import { parseType, typeText } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'

const origin = nameToWire('hollowmere.example.') as Uint8Array
const model = exampleZones(
  '@ MX 10 mail\n@ MX 20 mail2\nmail A 192.0.2.25\nmail2 A 192.0.2.26\n* A 192.0.2.9\nalso CNAME mail\nalso TXT "hidden"\nisle NS ns1.isle\nns1.isle A 192.0.2.53\ndeep.isle A 192.0.2.54',
)
const { questions, left } = questionsFor(model, model.zones[0]!, 'fresh-1')
const question = (owner: string, type: string) =>
  questions.find((each) => each.owner === owner && typeText(each.type) === type)!

function records(lines: string[]): Message['answers'] {
  return lines.map((line) => {
    const [, owner = '', ttl = '', type = '', value = ''] = /^(\S+) (\d+) (\S+) (.*)$/.exec(line)!
    const parsed = parseRdata(parseType(type)!, value, origin)
    return { owner, ttl: Number(ttl), type: parseType(type)!, class: 1, data: (parsed as { wire: Uint8Array }).wire }
  })
}
const seen = (message: Partial<Message> | undefined, trouble?: Observation['trouble']): Observation => ({
  vantage: 'v',
  transport: 'udp',
  at: 1000,
  tookMs: 1.4,
  trouble,
  message: message && { ...emptyMessage(1), response: true, authoritative: true, ...message },
})

const SERVER = { role: 'authoritative' } as const

test('a wildcard is asked by a fresh name; what is delegated or hidden is left, with the reason', () => {
  expect(question('*.hollowmere.example.', 'A')).toMatchObject({ asked: 'fresh-1.hollowmere.example.' })
  expect(left.map(({ owner, type, why }) => [owner, typeText(type), why.slice(0, 16)])).toEqual([
    ['also.hollowmere.example.', 'TXT', expect.stringContaining('servers never')],
    ['deep.isle.hollowmere.example.', 'A', 'it is delegated:'],
  ])
  // The cut and its glue come in referrals.
  expect(questions.filter(({ referral }) => referral).map(({ owner }) => owner)).toEqual([
    'isle.hollowmere.example.',
    'ns1.isle.hollowmere.example.',
  ])
})

describe('the verdict on an answer', () => {
  const MX = ['hollowmere.example. 60 MX 10 mail', 'hollowmere.example. 90 MX 20 mail2']
  test.each<[string, Partial<Message>, object]>([
    [
      'the same',
      { answers: records(MX) },
      { verdict: 'as-intended', ttl: 60, otherTtl: 60, missing: [], extra: [], rcode: 'NOERROR', ms: 1 },
    ],
    [
      'another order and case',
      { answers: records(['HOLLOWMERE.example. 60 MX 20 MAIL2', 'hollowmere.EXAMPLE. 60 MX 10 mail']) },
      { verdict: 'as-intended' },
    ],
    [
      'one missing, one extra',
      { answers: records([MX[0]!, 'hollowmere.example. 60 MX 30 old']) },
      { verdict: 'different', missing: ['20 mail2.hollowmere.example.'], extra: ['30 old.hollowmere.example.'] },
    ],
    [
      'an alias instead',
      { answers: records(['hollowmere.example. 60 CNAME mail', 'mail.hollowmere.example. 60 MX 10 mail']) },
      {
        verdict: 'aliased',
        extra: ['CNAME mail.hollowmere.example.'],
        chain: ['hollowmere.example.', 'mail.hollowmere.example.'],
      },
    ],
    ['NXDOMAIN', { rcode: 3 }, { verdict: 'absent', detail: 'NXDOMAIN', rcode: 'NXDOMAIN' }],
    [
      'none of that type',
      { authority: records(['hollowmere.example. 60 SOA a b 1 1 1 1 1']) },
      { verdict: 'absent', detail: 'NODATA: the name exists, but has no MX records' },
    ],
    [
      'a referral is no denial',
      { authoritative: false, authority: records(['example. 60 NS ns.upland-dns.example.']) },
      { verdict: 'not-authoritative' },
    ],
    [
      'no authority, but recursion',
      { authoritative: false, recursionAvailable: true, answers: records(MX) },
      { verdict: 'not-authoritative' },
    ],
    [
      'refused',
      { rcode: 5 },
      { verdict: 'refused', missing: ['10 mail.hollowmere.example.', '20 mail2.hollowmere.example.'] },
    ],
    ['a failing server', { rcode: 2 }, { verdict: 'failed', rcode: 'SERVFAIL' }],
  ])('%s', (_what, message, expected) =>
    expect(judge(question('hollowmere.example.', 'MX'), seen(message), SERVER)).toMatchObject(expected),
  )

  test('no reply, or nothing that can be read', () => {
    expect(judge(questions[0]!, seen(undefined, { kind: 'no-reply', detail: 'why' }), SERVER)).toMatchObject({
      verdict: 'no-reply',
      rcode: null,
      ttl: null,
      detail: 'why',
    })
    expect(judge(questions[0]!, seen(undefined, { kind: 'garbled', detail: 'why' }), SERVER)).toMatchObject({
      verdict: 'garbled',
    })
    expect(judge(questions[0]!, seen(undefined, { kind: 'not-tried', detail: 'why' }), SERVER)).toMatchObject({
      verdict: 'not-tried',
    })
  })
})

test('texts of mail are compared joined, others string by string', () => {
  const zones = exampleZones('@ TXT "v=spf1 mx -all"\nproof TXT "one two"\ns._domainkey TXT "v=DKIM1; " "p="')
  const each = questionsFor(zones, zones.zones[0]!, 'x').questions
  const came = (owner: string, text: string) =>
    judge(each.find((one) => one.owner === owner)!, seen({ answers: records([`${owner} 3600 TXT ${text}`]) }), SERVER)
  expect(came('hollowmere.example.', '"v=spf1 " "mx -all"')).toMatchObject({
    verdict: 'as-intended',
    notes: [expect.stringContaining('split into strings differently')],
  })
  expect(came('s._domainkey.hollowmere.example.', '"v=DKIM1; p="')).toMatchObject({ verdict: 'as-intended' })
  expect(came('proof.hollowmere.example.', '"one " "two"')).toMatchObject({ verdict: 'different' })
})
