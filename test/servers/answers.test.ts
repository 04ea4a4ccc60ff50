import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { readZone } from '../../src/core/file/reader.ts'
import { answer } from '../../src/core/knowledge/answer.ts'
import type { MessageRecord } from '../../src/core/message/message.ts'
import { Zones } from '../../src/core/model/zones.ts'
import { foldName } from '../../src/core/names/name.ts'
import { octetsOf } from '../../src/core/names/octets.ts'
import { rdataKey } from '../../src/core/records/rdata.ts'
import { parseType, typeText } from '../../src/core/records/types.ts'
import { Asker } from '../../src/net/ask.ts'
import { folderWith } from '../cli/program.ts'
import { knotd, mayskip, named, type RealServer } from './servers.ts'

/** Numbers that look random and are the same at every run. */
function dice(seed: number): (sides: number) => number {
  let state = seed
  return (sides) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * sides)
  }
}

const LABELS = ['a', 'b', '*', 'c']

/** A sound zone over few labels, so that names meet: aliases, wildcards, delegations with glue, DNAMEs, empty non-terminals. */
function zoneText(zone: string, others: string[], roll: (sides: number) => number): string {
  const lines = ['$TTL 300', '@ SOA ns hostmaster 1 7200 900 1209600 300', '@ NS ns', 'ns A 192.0.2.53']
  const taken = new Set(['@', 'ns'])
  const target = (): string => {
    const name = Array.from({ length: 1 + roll(2) }, () => LABELS[roll(2)]).join('.')
    return roll(4) === 0
      ? `${name}.${others[roll(others.length)]}.`
      : roll(5) === 0
        ? `${name}.elsewhere.example.`
        : name
  }
  for (let i = 0; i < 9; i++) {
    const owner = Array.from({ length: 1 + roll(3) }, () => LABELS[roll(4)]).join('.')
    const labels = owner.split('.')
    // Nothing stands below a cut or a DNAME, and no wildcard is cut.
    const covered = [...taken].some(
      (each) => each.startsWith('!') && (owner === each.slice(1) || owner.endsWith(`.${each.slice(1)}`)),
    )
    if (taken.has(owner) || covered) continue
    const kind = roll(7)
    const blocks =
      (kind === 5 || kind === 6) && (labels.includes('*') || [...taken].some((each) => each.endsWith(`.${owner}`)))
    if (blocks) continue
    taken.add(owner)
    if (kind < 2) lines.push(`${owner} A 192.0.2.${i + 1}`, `${owner} TXT "${owner}"`)
    else if (kind === 2) lines.push(`${owner} MX 10 ${target()}`)
    else if (kind < 5) lines.push(`${owner} CNAME ${target()}`)
    else if (kind === 5) {
      lines.push(`${owner} NS ns.${owner}`, `ns.${owner} A 192.0.2.99`, `${owner} DS 1 13 2 ${'ab'.repeat(32)}`)
      taken.add(`!${owner}`)
    } else {
      lines.push(`${owner} DNAME ${target()}`)
      taken.add(`!${owner}`)
    }
  }
  return `${lines.join('\n')}\n; ${zone}\n`
}

const ZONES = ['one.example', 'two.example', 'three.example', 'four.example', 'five.example', 'six.example']
const TYPES = ['A', 'TXT', 'MX', 'CNAME', 'NS', 'DS', 'DNAME', 'SOA'].map((type) => parseType(type)!)
const texts = Object.fromEntries(ZONES.map((zone, i) => [zone, zoneText(zone, ZONES, dice(i + 11))]))
const NAMES = ZONES.flatMap((zone) =>
  [
    '',
    ...['a', 'b', 'c', '*', 'ns', 'z'].flatMap((x) => [
      `${x}.`,
      ...['a', 'b', '*', 'z'].flatMap((y) => [`${y}.${x}.`, `b.${y}.${x}.`]),
    ]),
  ].map((name) => `${name}${zone}.`),
)

function model(): Zones {
  const zones = new Zones()
  for (const [zone, text] of Object.entries(texts))
    readZone(zones, zones.addSource(zones.addZone(`${zone}.`, zone), zone, octetsOf(text)))
  zones.seal()
  return zones
}

const lines = (records: MessageRecord[]): string[] =>
  [
    ...new Set(
      records.map(
        (record) =>
          `${foldName(record.owner)} ${record.ttl} ${typeText(record.type)} ${rdataKey(record.type, record.data)}`,
      ),
    ),
  ].sort()

const SERVERS: [string, (zones: Record<string, string>) => Promise<RealServer>][] = [
  ['named', named],
  ['knotd', knotd],
]

describe.each(SERVERS)('%s', (program, start) => {
  test.skipIf(mayskip(program))('answers every generated question as answer() does', async () => {
    const zones = model()
    expect(zones.sources.flatMap((source) => source.problems)).toEqual([])
    const folder = folderWith(texts)
    const server = await start(Object.fromEntries(ZONES.map((zone) => [zone, join(folder, zone)])))
    const asker = new Asker({ label: program, address: '127.0.0.1', port: server.port }, CLOCK, {
      limitMs: 10_000,
      firstWaitMs: 2000,
    })
    try {
      const differing: object[] = []
      let asked = 0
      let left = 0
      await Promise.all(
        NAMES.flatMap((name) =>
          TYPES.map(async (type) => {
            const ours = answer(zones, name, type)
            const owners = new Set(ours.answers.map((set) => zoneOf(set.owner)))
            // Both follow aliases inside one zone only. RFC 1034 §4.3.2 step 3a goes back to step 1, which is any zone that the server has; a resolver asks on, so nothing is lost.
            if (owners.size > 1 || ours.zone?.name !== `${zoneOf(name)}.`) {
              left++
              return
            }
            const { message } = await asker.ask(name, type)
            asked++
            // Aliases in a circle: named says SERVFAIL, knotd NOERROR. RFC 1034 §3.6.2 wants an error signalled, and names none.
            const loops = program === 'named' && ours.kind === 'alias'
            const expected = {
              rcode: ours.rcode,
              aa: ours.authoritative,
              answers: lines(
                ours.answers.flatMap((set) =>
                  set.data.map((data) => ({ owner: set.owner, type: set.type, ttl: set.ttl, class: 1, data })),
                ),
              ),
            }
            const got = message && {
              rcode: loops ? ours.rcode : message.rcode,
              aa: message.authoritative,
              answers: lines(message.answers),
            }
            if (JSON.stringify(expected) !== JSON.stringify(got))
              differing.push({ name, type: typeText(type), expected, got })
          }),
        ),
      )
      expect(differing.slice(0, 5)).toEqual([])
      expect(asked).toBeGreaterThan(2000)
      expect(left).toBeLessThan(asked / 4)
    } finally {
      asker.close()
      await server.stop()
    }
  })
})

const zoneOf = (name: string): string =>
  ZONES.find((zone) => foldName(name) === `${zone}.` || foldName(name).endsWith(`.${zone}.`)) ?? ''
