import { afterEach, describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { findIntended, findIntendedThenAsked, type Knowledge } from '../../src/core/knowledge/find.ts'
import { domainToName, type LookupType, lookupFrom } from '../../src/core/mail/lookup.ts'
import { checkHost } from '../../src/core/mail/spf/check-host.ts'
import type { Garbled } from '../../src/core/message/decode.ts'
import { emptyMessage, type Message } from '../../src/core/message/message.ts'
import { TYPE } from '../../src/core/records/types.ts'
import { exampleZones } from '../../src/core/rules/example.ts'
import { findAt } from '../../src/net/lookup.ts'
import { respond } from '../../src/serve/respond.ts'
import { type Responder, serve } from '../../src/serve/sockets.ts'

const ZONE = {
  zones: {
    'hollowmere.example':
      'a A 192.0.2.1\na A 192.0.2.2\nb CNAME a\nc CNAME x.larkpost.example.\ndeep CNAME c\n@ MX 10 a\n@ TXT "v=spf1 " "mx -all"\nisle NS ns1.isle\nns1.isle A 192.0.2.53',
    'larkpost.example': 'x A 198.51.100.7\nx TXT "caf\\233"',
  },
}
const zones = exampleZones(ZONE)

const open: { close(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.close()
})
async function vantage(responder: Responder, label = 'v') {
  const server = await serve(responder)
  open.push(server)
  return { server, label, address: server.address, port: server.port }
}
const honest = (query: Message | Garbled, id: number) => respond(zones, query, id)
const code =
  (rcode: number): Responder =>
  (query, id) =>
    'garbled' in query
      ? undefined
      : { ...emptyMessage(query.id ?? id), response: true, rcode, questions: query.questions }
async function lookup(responders: Responder[], limitMs = 600) {
  const vantages = await Promise.all(responders.map((each) => vantage(each)))
  const made = findAt(vantages, CLOCK, limitMs)
  open.push(made)
  return {
    find: made.find,
    lookup: lookupFrom(made.find),
    asked: () => vantages.map(({ server }) => server.asked.udp + server.asked.tcp),
  }
}

describe('looking up at vantages', () => {
  test.each<[string, LookupType, object]>([
    ['a.hollowmere.example.', 'A', { data: ['192.0.2.1', '192.0.2.2'] }],
    ['A.Hollowmere.EXAMPLE.', 'A', { data: ['192.0.2.1', '192.0.2.2'] }],
    ['b.hollowmere.example.', 'A', { data: ['192.0.2.1', '192.0.2.2'] }],
    ['deep.hollowmere.example.', 'A', { data: ['198.51.100.7'] }],
    ['hollowmere.example.', 'MX', { data: ['10 a.hollowmere.example.'] }],
    ['hollowmere.example.', 'TXT', { data: ['v=spf1 mx -all'] }],
    ['x.larkpost.example.', 'TXT', { data: ['caf\u00e9'] }],
    ['a.hollowmere.example.', 'AAAA', { trouble: 'no-data' }],
    ['gone.hollowmere.example.', 'A', { trouble: 'no-name' }],
    ['www.isle.hollowmere.example.', 'A', { trouble: 'server-failure' }],
    ['tarnside.example.', 'A', { trouble: 'server-failure' }],
  ])('%s %s', async (name, type, found) => expect(await (await lookup([honest])).lookup(name, type)).toEqual(found))

  test('the first that knows; a refusal, a failure and silence leave it to the next', async () => {
    for (const first of [code(5), code(2), (() => undefined) as Responder])
      expect(await (await lookup([first, honest])).lookup('a.hollowmere.example.', 'A')).toHaveProperty('data')
    expect(await (await lookup([code(2)])).lookup('a.hollowmere.example.', 'A')).toEqual({ trouble: 'server-failure' })
    expect(await (await lookup([() => undefined])).lookup('a.hollowmere.example.', 'A')).toEqual({
      trouble: 'time-out',
    })
  })

  test('an answer that ends with an alias is asked on for; a circle ends', async () => {
    const halfway: Responder = (query, id) => {
      const whole = honest(query, id)!
      return { ...whole, answers: whole.answers.slice(0, 1) }
    }
    expect(await (await lookup([halfway])).lookup('b.hollowmere.example.', 'A')).toEqual({ data: ['192.0.2.1'] })
    const circle: Responder = (query, id) => {
      const whole = honest(query, id)!
      return {
        ...whole,
        answers: [
          {
            ...honest({ ...emptyMessage(1), questions: [{ name: 'b.hollowmere.example.', type: 5, class: 1 }] }, id)!
              .answers[0]!,
            owner: whole.questions[0]!.name,
          },
        ],
      }
    }
    expect(await (await lookup([circle])).lookup('b.hollowmere.example.', 'MX')).toEqual({ trouble: 'circle' })
  })

  test('each name is asked for once, and nothing goes on after the end', async () => {
    const { lookup: ask, asked } = await lookup([honest])
    await Promise.all([ask('a.hollowmere.example.', 'A'), ask('A.hollowmere.example.', 'A')])
    expect(asked()).toEqual([1])
    const silent = await vantage(() => undefined)
    const closing = findAt([silent], CLOCK, 60_000)
    const pending = closing.find('a.hollowmere.example.', TYPE.A)
    await new Promise((resolve) => setTimeout(resolve, 50))
    closing.close()
    expect(await pending).toMatchObject({ outcome: 'unknown', why: 'time-out' })
  })

  test('an evaluation over the network is the one over the zones', async () => {
    const { lookup: ask } = await lookup([honest])
    const input = { helo: 'h.example', mailFrom: 'x@hollowmere.example' }
    for (const ip of ['192.0.2.2', '192.0.2.3']) {
      const kept = await checkHost({
        ...input,
        ip,
        lookup: lookupFrom((name, type) => findIntended(zones, name, type)),
      })
      expect(await checkHost({ ...input, ip, lookup: ask })).toEqual(kept)
      expect(kept.result).toBe(ip === '192.0.2.2' ? 'pass' : 'fail')
    }
  })
})

describe('what is known of a name', () => {
  const one = exampleZones({
    zones: {
      'hollowmere.example': `${ZONE.zones['hollowmere.example']}\n*.wild CNAME a\nold DNAME new\nx.new A 192.0.2.9\nround CNAME around\naround CNAME round`,
    },
  })
  const told = ({ steps, end, outcome, set, why, by }: Knowledge) => [
    steps.map((step) => `${step.by} ${step.to}`).join(', '),
    end,
    outcome === 'unknown' ? why : (set?.data.length ?? outcome),
    by === 'nobody' ? by : 'zone' in by ? by.zone : by.vantage,
  ]
  const H = 'hollowmere.example.'
  test.each<[string, LookupType, unknown[]]>([
    ['b', 'A', [`CNAME a.${H}`, `a.${H}`, 2, H]],
    ['b', 'TXT', [`CNAME a.${H}`, `a.${H}`, 'no-data', H]],
    ['gone', 'A', ['', `gone.${H}`, 'no-name', H]],
    ['any.wild', 'A', [`wildcard *.wild.${H}, CNAME a.${H}`, `a.${H}`, 2, H]],
    ['x.old', 'A', [`DNAME x.new.${H}`, `x.new.${H}`, 1, H]],
    ['deep', 'A', [`CNAME c.${H}, CNAME x.larkpost.example.`, 'x.larkpost.example.', 'unknown', 'nobody']],
    ['round', 'A', [`CNAME around.${H}, CNAME round.${H}`, `round.${H}`, 'circle', 'nobody']],
    ['www.isle', 'A', ['', `www.isle.${H}`, 'unknown', 'nobody']],
  ])('your zones: %s %s', (name, type, expected) =>
    expect(told(findIntended(one, `${name}.${H}`, TYPE[type]))).toEqual(expected),
  )
  test('where aliases lead out of your zones, whoever is asked goes on; in a circle, nobody is asked', async () => {
    const { find, asked } = await lookup([honest])
    const both = findIntendedThenAsked(one, find)
    expect(told(await both(`deep.${H}`, TYPE.A))).toEqual([
      `CNAME c.${H}, CNAME x.larkpost.example.`,
      'x.larkpost.example.',
      1,
      'v',
    ])
    expect((await both(`round.${H}`, TYPE.A)).why).toBe('circle')
    expect(asked()).toEqual([1])
    expect(await both(`a.${H}`, TYPE.AAAA)).toMatchObject({ outcome: 'no-data', negativeTtl: 3600 })
  })
})

describe('names', () => {
  test.each([
    ['mail.example', 'mail.example.'],
    ['mail.example.', 'mail.example.'],
    ['a b"c\\d.example', 'a\\032b\\"c\\\\d.example.'],
    ['a..example', undefined],
    ['', undefined],
    [`${'x'.repeat(64)}.example`, undefined],
    [`${'abcdefgh.'.repeat(28)}toolong`, undefined],
  ])('%s as a name: %s', (domain, name) => expect(domainToName(domain)).toBe(name))
})
