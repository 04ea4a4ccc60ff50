/** What an SPF record lets send by addresses alone, so that it can be copied. */

import { foldName, type Name } from '../../names/name.ts'
import type { Refused } from '../../result.ts'
import type { KnownSpf } from './budget.ts'
import { type Mechanism, parseSpf } from './record.ts'

/** The ranges that a record lets send, its includes followed. Only ranges can be copied: everything else depends on names, or on the sender. */
export function rangesOf(
  name: Name,
  recordAt: (name: Name) => KnownSpf,
  path: ReadonlySet<string> = new Set(),
  done = new Set<string>(),
): { terms: Mechanism[] } | Refused {
  const known = recordAt(name)
  if (typeof known === 'string')
    return {
      refused:
        known === 'unknown'
          ? `the record of ${name} is not in your zones: use --live to look it up`
          : `${name} has ${known === 'none' ? 'no SPF record' : 'several SPF records'}`,
    }
  const key = foldName(name)
  if (path.has(key) || path.size > 12) return { refused: `the record of ${name} leads back to itself` }
  // What two includes share is copied once.
  if (done.has(key)) return { terms: [] }
  done.add(key)
  const { record, problems } = parseSpf(known.text)
  if (problems.length > 0) return { refused: `the record of ${name} is invalid: ${problems[0]!.message}` }
  const terms: Mechanism[] = []
  for (const each of [...record.mechanisms, ...(record.redirect ? [record.redirect] : [])]) {
    if (each.name === 'all') break
    const leads =
      each.kind === 'mechanism' && each.name === 'include' && each.qualifier === '+'
        ? each.domain
        : each.kind === 'modifier'
          ? each.value
          : undefined
    if (leads !== undefined && !leads.includes('%')) {
      const inner = rangesOf(`${leads.replace(/\.$/, '')}.`, recordAt, new Set([...path, key]), done)
      if ('refused' in inner) return inner
      terms.push(...inner.terms)
    } else if (each.kind === 'mechanism' && each.network && each.qualifier === '+') terms.push(each)
    else
      return {
        refused: `the record of ${name} has ${each.text}, which is not a list of addresses and cannot be copied`,
      }
  }
  return { terms }
}
