/** What the terms of an SPF record cost receivers (RFC 7208 §4.6.4), as far as the zones know. */

import { askingTerms, type BudgetNode, spfBudget } from '../../mail/spf/budget.ts'
import { MAX_LOOKUPS } from '../../mail/spf/check-host.ts'
import type { Mechanism, SpfTerm } from '../../mail/spf/record.ts'
import type { RecordId } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import { listed } from '../look.ts'
import type { Context } from '../rule.ts'
import type { SpfReading } from '../shared/spf-text.ts'
import { MOST_FAULTS } from '../shared/text-rules.ts'
import { recordsAt, spfMemory } from './memory.ts'

/** The budget of a record that leads elsewhere, worked out once for the rules that look at it. */
export function budgetOf(cx: Context, record: RecordId, { text }: SpfReading, domain: Name): BudgetNode {
  const memory = spfMemory(cx)
  if (memory.budget?.record !== record) memory.budget = { record, budget: spfBudget(domain, text, recordsAt(cx)) }
  return memory.budget.budget
}

/** “needs 11 lookups of 10: include:… 4, mx 1”. */
export function needs({ total, whole, parts }: BudgetNode): string {
  const costs = parts.map(({ term, total: cost }) => `${term} ${cost}`)
  return `needs ${whole ? '' : 'at least '}${total} lookups of ${MAX_LOOKUPS}: ${listed(costs, 12)}`
}

/** The terms that lead to trouble, with the first that there is behind each. */
export function* troubles(
  cx: Context,
  record: RecordId,
  reading: SpfReading,
  domain: Name,
): Iterable<{ term: SpfTerm; part: BudgetNode; below: BudgetNode }> {
  const { parts } = budgetOf(cx, record, reading, domain)
  for (const [i, term] of askingTerms(reading.record!).slice(0, MOST_FAULTS).entries()) {
    const below = troubleIn(parts[i]!)
    if (below) yield { term, part: parts[i]!, below }
  }
}

/** The first trouble in a tree whose parts may be shared. */
function troubleIn(node: BudgetNode, seen = new Set<BudgetNode[]>()): BudgetNode | undefined {
  if (node.trouble === 'none' || node.trouble === 'loop') return node
  if (seen.has(node.parts)) return undefined
  seen.add(node.parts)
  for (const part of node.parts) {
    const found = troubleIn(part, seen)
    if (found) return found
  }
  return undefined
}

/** The term `mx` for the domain itself, where the record has it. */
export const ownMx = ({ record }: SpfReading): Mechanism | undefined =>
  record?.mechanisms.find(({ name, macros }) => name === 'mx' && !macros)
