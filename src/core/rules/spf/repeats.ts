import { withoutRepeats } from '../../mail/spf/merge.ts'
import { type Mechanism, type SpfRecord, spfText, termText } from '../../mail/spf/record.ts'

/** The mechanisms that say nothing new: `outer` where another has them in it. `whole` is the record without them all. */
export function* repeats(
  record: SpfRecord | undefined,
): Iterable<{ term: Mechanism; name: string; outer?: string; whole: string }> {
  if (!record) return
  const { all, mechanisms, terms } = record
  const { kept, left } = withoutRepeats(all ? mechanisms.slice(0, mechanisms.indexOf(all)) : mechanisms)
  if (left.length === 0) return
  const whole = spfText([...kept, ...(all ? [all] : []), ...terms.filter((each) => each.kind === 'modifier')])
  for (const { term, outer } of left) yield { term, name: termText(term), outer: outer && termText(outer), whole }
}
