import { bare } from '../../names/name.ts'
import { NONE } from '../../names/tree.ts'
import { parseType } from '../../records/types.ts'
import { named } from '../look.ts'
import type { Lowered, Rule } from '../rule.ts'

const DAY = 86_400
const NOW = new Date('2026-11-28T08:00:00Z')
const lowered = (hours: number): Lowered[] => [
  { owner: 'www.hollowmere.example.', type: 'A', from: 3600, to: 300, at: NOW.getTime() / 1000 - hours * 3600 },
]

export const setTtlNotRestored: Rule = {
  code: 'set/ttl-not-restored',
  severity: 'advice',
  source: 'practice: RFC 1912 §2.2',
  title: 'TTL that was lowered for a move and not raised again',
  why: 'A low TTL lets a change through quickly, and makes every resolver ask more often. When the move is done, it has no use any more.',
  remedy: 'Set the TTL back to what it was before.',
  effect: 'Resolvers ask your servers more often than necessary.',
  bad: [
    {
      zones: { 'hollowmere.example': 'www 300 A 192.0.2.10' },
      around: { now: NOW, lowered: lowered(48) },
    },
  ],
  good: [
    { zones: { 'hollowmere.example': 'www 300 A 192.0.2.10' }, around: { now: NOW, lowered: lowered(2) } },
    { zones: { 'hollowmere.example': 'www 3600 A 192.0.2.10' }, around: { now: NOW, lowered: lowered(48) } },
  ],
  visit: {
    applies: ({ around }) => (around.lowered?.length ?? 0) > 0 && around.now !== undefined,
    finish(cx) {
      const { zones, around } = cx
      for (const { owner, type, from, to, at } of around.lowered!) {
        if (around.now!.getTime() / 1000 - at < DAY) continue
        const node = named(zones, owner)
        const [record] = node === NONE ? [] : zones.records(node, parseType(type) ?? 0)
        if (record === undefined || zones.ttl(record) > to || !cx.isAbout(node)) continue
        cx.report({
          record,
          part: 'ttl',
          message: `${owner} ${type} has TTL ${zones.ttl(record)} since ${new Date(at * 1000).toISOString().slice(0, 10)}; before, it had ${from}`,
          fix: [`bramblefront write ttl ${bare(owner)} --type ${type} --restore`],
        })
      }
    },
  },
}
