/** Names outside your zones that records lead to: what rules ask for where asking is allowed. */
import { zoneOfName } from '../../knowledge/answer.ts'
import type { Find, Knowledge } from '../../knowledge/find.ts'
import { targetOf } from '../../mail/spf/budget.ts'
import type { RecordId } from '../../model/zones.ts'
import { foldName, isAtOrBelow, labelsOf, type Name } from '../../names/name.ts'
import { NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Example, Part, Report, SetView, Surroundings, Visitor } from '../rule.ts'
import { reportText } from '../text.ts'
import { SPF_TEXT } from '../traits.ts'
import { SPF_READ } from './spf-text.ts'

export interface Leading {
  record: RecordId
  type: number
  name: Name
  /** In an SPF text: which characters. */
  place?: { start: number; end: number }
}

/** A record of a key is one by its owner (RFC 6376 §3.6.2.1). */
export const isKeyOwner = (name: Name): boolean => labelsOf(foldName(name)).includes('_domainkey')

/** Visits for the records of these types, and for the includes of SPF records where TXT is among them; `leading` collects what leads out of your zones. */
export function leadingOut(types: readonly number[]): Pick<Visitor, 'applies' | 'set'> {
  const target = (set: SetView, cx: Context): void => {
    for (const record of set.records) {
      const to = cx.zones.target(record)
      if (to !== NONE && to !== ROOT && !cx.zones.zoneOf(to))
        leading(cx).push({ record, type: set.type, name: cx.name(to) })
    }
  }
  const text = (set: SetView, cx: Context): void => {
    for (const record of set.records)
      for (const term of SPF_READ.of(cx.zones, record).record?.terms ?? []) {
        if (!('name' in term) || (term.name !== 'include' && term.name !== 'redirect')) continue
        const name = targetOf(term, cx.name(set.owner))
        if (name !== undefined && !zoneOfName(cx.zones, name))
          leading(cx).push({ record, type: set.type, name, place: term })
      }
  }
  return {
    applies: (cx) => cx.around.askedOfEach !== undefined,
    set: Object.fromEntries(types.map((type) => [type, type === TYPE.TXT ? { when: SPF_TEXT, visit: text } : target])),
  }
}

export const leading = (cx: Context): Leading[] => cx.memory((): Leading[] => [])

/**
 * What those who are asked say of a name, for each of these types; undefined where that is not known: nobody says, they contradict one another, or a denial comes without the word of the
 * zone that it is about, as one that a resolver makes up by itself.
 */
export async function saidOf(cx: Context, name: Name, types: readonly number[]): Promise<Knowledge[] | undefined> {
  const found = await Promise.all(types.map((type) => cx.around.askedOfEach!(name, type)))
  const agreed = found.flatMap((each) => {
    const known = each.filter(({ outcome }) => outcome !== 'unknown')
    const data = known.find(({ outcome }) => outcome === 'data')
    if (data) return [data]
    const agree = known.every(({ outcome }) => outcome === known[0]!.outcome)
    return (agree && known.find(({ deniedBy }) => deniedBy !== undefined)) || []
  })
  return agreed.length === types.length ? agreed : undefined
}

/** Reports at the target of the record, or at the term of its SPF text. */
export function reportLeading(
  cx: Context,
  { record, type, place }: Leading,
  report: Omit<Report, 'record' | 'part'>,
): void {
  const part: Part = type === TYPE.MX ? 1 : type === TYPE.SRV ? 3 : 0
  if (place) reportText(cx, record, place, report)
  else cx.report({ record, part, ...report })
}

/** An example’s network, which says this of all names in larkpost.example; of others nothing is known. */
export const network = (outcomeOf: (name: Name, type: number) => Partial<Knowledge>): Surroundings => {
  const asked = (end: Name, type: number): Knowledge => ({
    steps: [],
    end,
    by: { vantage: 'office', at: 0 },
    deniedBy: 'larkpost.example.',
    outcome: 'unknown',
    ...(isAtOrBelow(end, 'larkpost.example.') ? outcomeOf(end, type) : {}),
  })
  return { asked: asked as Find, askedOfEach: async (name, type) => [asked(name, type)] }
}

/** An example in which these names, and what is below them, do not exist, as this zone says. */
export const without = (lines: string, deniedBy: Name | undefined, ...gone: Name[]): Example => ({
  zones: { 'hollowmere.example': lines },
  around: network((name) => (gone.some((each) => isAtOrBelow(name, each)) ? { outcome: 'no-name', deniedBy } : {})),
})
