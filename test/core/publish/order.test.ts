/** In which order record sets are changed at a server, and as which messages. */
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { SetPreview } from '../../../src/core/change/change-set.ts'
import { differences, setsOf } from '../../../src/core/change/difference.ts'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { octetsOf } from '../../../src/core/names/octets.ts'
import { updateMessages, updateOctets } from '../../../src/core/publish/messages.ts'
import { inOrder } from '../../../src/core/publish/order.ts'
import { typeText } from '../../../src/core/records/types.ts'

const ZONE = 'a.example.'
function zoneOf(lines: readonly string[]) {
  const zones = new Zones()
  const text = `$TTL 60\n@ SOA ns h 1 2 3 4 5\n@ NS ns1.b.example.\n${lines.join('\n')}\n`
  readZone(zones, zones.addSource(zones.addZone(ZONE, 'z'), 'z', octetsOf(text)))
  zones.seal()
  return setsOf(zones, zones.zones[0]!)
}
const changes = (before: readonly string[], after: readonly string[]): SetPreview[] =>
  differences(zoneOf(before), zoneOf(after))
const short = (owner: string): string => owner.replace(/\.?a\.example\.$/, '') || '@'
const order = (before: readonly string[], after: readonly string[]): string =>
  inOrder(changes(before, after), ZONE)
    .map(
      ({ owner, sets }) =>
        `${short(owner)}(${sets.map(({ type, before: b, after: a }) => `${b ? (a ? '~' : '-') : '+'}${typeText(type)}`).join(' ')})`,
    )
    .join(' ')

describe('the order of steps', () => {
  test.each<[string, string[], string[], string]>([
    ['a target comes before what points at it', [], ['@ MX 1 mail', 'mail A 192.0.2.1'], 'mail(+A) @(+MX)'],
    ['a chain, from its end', [], ['a CNAME b', 'b CNAME c', 'c A 192.0.2.1'], 'c(+A) b(+CNAME) a(+CNAME)'],
    ['a target goes after what pointed at it', ['@ MX 1 mail', 'mail A 192.0.2.1'], [], '@(-MX) mail(-A)'],
    [
      'a move: the new one comes, the pointer is changed, the old one goes',
      ['@ MX 1 old', 'old A 192.0.2.1'],
      ['@ MX 1 new', 'new A 192.0.2.2'],
      'new(+A) @(~MX) old(-A)',
    ],
    [
      'an alias takes the place of data, in one step',
      ['w A 192.0.2.1'],
      ['w CNAME x', 'x A 192.0.2.1'],
      'x(+A) w(+CNAME -A)',
    ],
    ['what points at one another goes, too', ['a CNAME b', 'b CNAME a'], [], 'b(-CNAME) a(-CNAME)'],
    [
      'additions from below, removals from above',
      ['p A 192.0.2.1', 'q.p A 192.0.2.1'],
      ['r A 192.0.2.1', 's.r A 192.0.2.1'],
      's.r(+A) r(+A) p(-A) q.p(-A)',
    ],
    ['only a TTL', ['w A 192.0.2.1'], ['w 30 A 192.0.2.1'], 'w(~A)'],
  ])('%s', (_what, before, after, expected) => {
    expect(order(before, after)).toBe(expected)
  })

  test('new name servers come before the old ones go, which is last', () => {
    const [was, is] = [zoneOf([]), zoneOf(['w A 192.0.2.1'])]
    const ns = { ...is.get(`${ZONE} 2`)!, data: [octetsOf('\u0003ns2\u0001b\u0007example\u0000')] }
    const steps = inOrder(differences(was, new Map([...is, [`${ZONE} 2`, ns]])), ZONE)
    expect(
      steps.map(({ sets }) =>
        sets.map(({ before, after }) => `${before?.data.length ?? 0}→${after?.data.length ?? 0}`).join(),
      ),
    ).toEqual(['0→1', '1→2', '2→1'])
  })

  test('each change is in one step, and no addition stands before its target', () => {
    const line = fc.tuple(
      fc.constantFrom('a', 'b', 'c', 'd', 'e.d'),
      fc.constantFrom('a', 'b', 'c', 'd', 'e.d'),
      fc.boolean(),
    )
    const zone = fc
      .array(line, { maxLength: 6 })
      .map((all) => [
        ...new Map(
          all.map(([owner, target, alias]) => [
            owner,
            alias && target !== owner ? `${owner} MX 1 ${target}` : `${owner} A 192.0.2.1`,
          ]),
        ).values(),
      ])
    fc.assert(
      fc.property(zone, zone, (before, after) => {
        const made = changes(before, after)
        const steps = inOrder(made, ZONE)
        expect(steps.flatMap(({ sets }) => sets).length).toBe(made.length)
        expect(new Set(steps.map(({ owner }) => owner)).size).toBe(steps.length)
      }),
    )
  })

  test('a long chain costs no more than its length', () => {
    const chain = Array.from({ length: 20_000 }, (_, i) => `n${i} CNAME n${i + 1}`)
    expect(inOrder(changes([], chain), ZONE)[0]!.owner).toBe('n19999.a.example.')
  })
})

describe('as messages (RFC 2136)', () => {
  const texts = (before: readonly string[], after: readonly string[], isUsed = true) =>
    updateMessages(ZONE, inOrder(changes(before, after), ZONE), () => isUsed).map(({ message }) => {
      const of = (records: typeof message.answers): string[] =>
        records.map(({ owner, type, class: of, ttl, data }) =>
          [short(owner), typeText(type), of, ttl, data.length].join(' '),
        )
      return [message.opcode, message.questions[0]!.name, of(message.answers), of(message.authority)]
    })

  test.each<[string, string[], string[], boolean, unknown[], unknown[]]>([
    ['a new set at a name that is there', [], ['w A 192.0.2.1'], true, ['w A 254 0 0'], ['w A 1 60 4']],
    ['a new name', [], ['w A 192.0.2.1'], false, ['w TYPE255 254 0 0'], ['w A 1 60 4']],
    [
      'other data: as it was, then as it is',
      ['w A 192.0.2.1'],
      ['w A 192.0.2.2'],
      true,
      ['w A 1 0 4'],
      ['w A 255 0 0', 'w A 1 60 4'],
    ],
    ['a set that goes', ['w A 192.0.2.1', 'w A 192.0.2.2'], [], true, ['w A 1 0 4', 'w A 1 0 4'], ['w A 255 0 0']],
    [
      'an alias instead: what goes, goes first',
      ['w A 192.0.2.1'],
      ['w CNAME @'],
      true,
      ['w CNAME 254 0 0', 'w A 1 0 4'],
      ['w A 255 0 0', 'w CNAME 1 60 11'],
    ],
  ])('%s', (_what, before, after, isUsed, prerequisites, updates) => {
    expect(texts(before, after, isUsed)).toEqual([[5, ZONE, prerequisites, updates]])
  })

  test('more than a message holds goes in several, none too long, one owner in one', () => {
    const many = Array.from({ length: 3000 }, (_, i) => `n${i} TXT "${'x'.repeat(60)}"`)
    const messages = updateMessages(ZONE, inOrder(changes([], many), ZONE), () => false)
    expect(messages.length).toBeGreaterThan(3)
    expect(messages.flatMap(({ steps }) => steps)).toHaveLength(3000)
    for (const { message } of messages) expect(updateOctets(message, 1).length).toBeLessThan(65_300)
  })
})
