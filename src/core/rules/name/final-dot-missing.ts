import { writtenValue } from '../../file/entry.ts'
import { locate, locateName, UNKNOWN, zoneOfName } from '../../knowledge/answer.ts'
import { type RecordId, TARGET_RELATIVE } from '../../model/zones.ts'
import { labelsOf } from '../../names/name.ts'
import type { NameId } from '../../names/tree.ts'
import { rowOf, typeText } from '../../records/types.ts'
import type { Context, Rule } from '../rule.ts'
import { VAIN_TARGET } from '../traits.ts'
import { FOLLOWS } from './follows.ts'

interface Candidate {
  record: RecordId
  written: string
  /** The wildcard at the apex that answers for what it is read as. */
  wildcard?: NameId
}

function missedDot(cx: Context, candidate: Candidate, because: string, sure = false): void {
  const { record, written, wildcard } = candidate
  const type = cx.zones.type(record)
  const index = rowOf(type)!.target!
  cx.report({
    record,
    part: index,
    message: `the target ${written} of ${typeText(type)} at ${cx.name(cx.zones.owner(record))} has no final dot, so it is read as ${cx.name(cx.zones.target(record))}, ${wildcard === undefined ? 'which does not exist' : `for which only ${cx.name(wildcard)} answers`}; ${because}`,
    effect:
      wildcard === undefined
        ? 'The record leads to a name that does not exist.'
        : `The record leads to where ${cx.name(wildcard)} leads.`,
    fix: [`${cx.name(cx.zones.owner(record))} ${cx.withTarget(record, `${written}.`)}`],
    repair: sure ? cx.rewriting(record, index, `${written}.`) : undefined,
  })
}

export const nameFinalDotMissing: Rule = {
  code: 'name/final-dot-missing',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'target in another domain without its final dot',
  why: 'A name without a final dot is completed with the zone’s name: the target becomes TARGET.ZONE, which does not exist.',
  remedy: 'Add a dot at the end of the target.',
  silences: FOLLOWS,
  bad: [
    { zones: { 'hollowmere.example': '@ MX 10 mx.larkpost.example', 'larkpost.example': 'mx A 192.0.2.25' } },
    'www CNAME site.co.uk',
    '_sip._udp SRV 0 0 5060 sip.net',
    'www CNAME site.northlight.example\n* A 192.0.2.10',
  ],
  good: [
    { zones: { 'hollowmere.example': '@ MX 10 mx.larkpost.example.', 'larkpost.example': 'mx A 192.0.2.25' } },
    '@ MX 10 mail.net\nmail.net A 192.0.2.25',
    'www CNAME site.pier\nsite.pier A 192.0.2.10',
    'www CNAME any.pier\n*.pier A 192.0.2.10',
  ],
  visit: {
    record: {
      when: VAIN_TARGET,
      visit(record, cx) {
        const { zones } = cx
        const target = zones.target(record)
        if (!(zones.flags(record) & TARGET_RELATIVE) || zones.exists(target)) return
        const node = locate(zones, target)
        if (zones.zoneOf(target) !== zones.zoneOfRecord(record) || node === UNKNOWN) return
        const written = writtenValue(zones, record, rowOf(zones.type(record))!.target!)
        if (labelsOf(written).length < 2) return
        // A wildcard below a name that was written is meant.
        const atApex = node >= 0 && zones.tree.parent(node) === zones.zoneOf(target)!.apex
        cx.memory((): Candidate[] => []).push({ record, written, ...(atApex ? { wildcard: node } : {}) })
      },
    },
    async finish(cx) {
      const { zones } = cx
      const candidates = cx.memory((): Candidate[] => [])
      const rest: Candidate[] = []
      for (const candidate of candidates) {
        const zone = zoneOfName(zones, `${candidate.written}.`)
        if (zone)
          missedDot(cx, candidate, `${zone.name} is one of your zones`, locateName(zones, `${candidate.written}.`) >= 0)
        else if (candidate.wildcard !== undefined)
          missedDot(cx, candidate, 'none of the labels that were written is in the zone')
        else rest.push(candidate)
      }
      if (rest.length === 0) return
      // The public suffixes are a large table: it is read only when there is a name to look up in it.
      const { publicSuffixOf } = await import('../../names/public-suffix.ts')
      for (const candidate of rest) {
        const suffix = publicSuffixOf(candidate.written)
        if (suffix) missedDot(cx, candidate, `it ends in .${suffix}, under which domains are registered`)
      }
    },
  },
}
