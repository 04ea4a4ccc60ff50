/** How much of the ten terms that may ask an SPF record uses up, with everything that it includes (RFC 7208 §4.6.4). */
import type { Knowledge } from '../../knowledge/find.ts'
import { foldName, type Name } from '../../names/name.ts'
import { joined } from '../../records/views.ts'
import { domainToName } from '../lookup.ts'
import { expandMacros, isFixed, type MacroText, senderOf } from './macro.ts'
import { asks, isSpf, type Mechanism, type Modifier, readSpf, type SpfRecord } from './record.ts'

/** What is known of the SPF record at a name: its text, that there is none or are several, or that nobody knows. */
export type KnownSpf = { text: string } | 'none' | 'several' | 'unknown'

/** What is known of a name’s SPF record from what is known of its texts. */
export function spfIn({ outcome, set }: Knowledge): KnownSpf {
  if (outcome === 'unknown') return 'unknown'
  const [text, ...more] = new Set((set?.data ?? []).map(joined).filter(isSpf))
  return text === undefined ? 'none' : more.length > 0 ? 'several' : { text }
}

export interface BudgetNode {
  /** As written in the record; of the root, the domain. */
  term: string
  /** The record that the term leads to; undefined where it leads to none, or to another for each sender. */
  name?: Name
  /** One for a term that asks; none for the root. */
  own: number
  /** Its own and those of everything below it. */
  total: number
  /** Whether everything below it is known: else `total` is the least. */
  whole: boolean
  parts: BudgetNode[]
  /** What there is to say of it, in words. */
  note?: string
  /** The name leads back to a record that it is part of, or has no record, or several, or one with a fault: receivers give up. */
  trouble?: 'loop' | 'none' | 'several' | 'syntax'
}

/** Deeper, and after so many terms, receivers have given up long before. */
const MAX_DEPTH = 12
const MAX_TERMS = 200

/** Counts the worst case: every term that asks, up to `all`. `recordAt` says what is known of a name’s record; each name is asked for once. */
export function spfBudget(domain: Name, text: string, recordAt: (name: Name) => KnownSpf): BudgetNode {
  const found = new Map<string, BudgetNode>()
  const root: BudgetNode = { term: domain, name: domain, own: 0, total: 0, whole: true, parts: [] }
  const path = new Set<string>()
  let terms = 0
  const fill = (node: BudgetNode, name: Name, known: KnownSpf): void => {
    if (typeof known === 'string') {
      if (known === 'unknown') Object.assign(node, { whole: false, note: 'not looked up' })
      else
        Object.assign(node, {
          trouble: known,
          note: known === 'none' ? 'no SPF record: permerror' : 'several SPF records: permerror',
        })
      return
    }
    const { record, problems } = readSpf(known.text)
    if (problems.length > 0) Object.assign(node, { trouble: 'syntax', note: 'invalid record: permerror' })
    path.add(foldName(name))
    const asking = askingTerms(record)
    terms += asking.length
    for (const term of asking) node.parts.push(partOf(term, name))
    path.delete(foldName(name))
    node.total = node.own + node.parts.reduce((sum, part) => sum + part.total, 0)
    node.whole = node.parts.every((part) => part.whole)
  }
  const partOf = (term: Mechanism | Modifier, domainThere: Name): BudgetNode => {
    const node: BudgetNode = { term: term.text, own: 1, total: 1, whole: true, parts: [] }
    const leads = term.name === 'include' || term.name === 'redirect'
    if (!leads) return node
    const target = targetOf(term, domainThere, domain)
    if (target === undefined) return { ...node, whole: false, note: 'depends on the sender' }
    const key = foldName(target)
    if (path.has(key)) return { ...node, name: target, trouble: 'loop', note: 'loop: permerror' }
    if (path.size > MAX_DEPTH || terms > MAX_TERMS)
      return { ...node, name: target, whole: false, note: 'too much to follow' }
    const same = found.get(key)
    if (same) return { ...same, term: term.text, parts: same.parts }
    node.name = target
    fill(node, target, recordAt(target))
    found.set(key, node)
    return node
  }
  fill(root, domain, { text })
  return root
}

/** The terms that make receivers ask: none behind `all`, and `redirect` only without it. */
export function askingTerms(record: SpfRecord): (Mechanism | Modifier)[] {
  const found: (Mechanism | Modifier)[] = []
  for (const mechanism of record.mechanisms) {
    if (mechanism.name === 'all') return found
    if (asks(mechanism)) found.push(mechanism)
  }
  return record.redirect ? [...found, record.redirect] : found
}

/** The name that a term in the record of `domain` leads to for every sender of `sender`; undefined where that is another for each, or none. */
export function targetOf(term: { macros?: MacroText }, domain: Name, sender = domain): Name | undefined {
  if (!term.macros) return domain
  if (!isFixed(term.macros)) return undefined
  const bare = (name: Name): string => name.replace(/\.$/, '')
  return domainToName(expandMacros(term.macros, senderOf(bare(sender), bare(domain)), 'domain'))
}

/** The names whose records were not known, each once. */
export function unknownIn(node: BudgetNode): Name[] {
  const found = new Set<Name>()
  const seen = new Set<BudgetNode[]>()
  const visit = (each: BudgetNode): void => {
    if (each.parts.length > 0 && seen.has(each.parts)) return
    seen.add(each.parts)
    if (!each.whole && each.parts.length === 0 && each.name !== undefined) found.add(each.name)
    for (const part of each.parts) visit(part)
  }
  visit(node)
  return [...found]
}
