/** SPF records made, made one of two, and made smaller. */

import { addressText } from '../../names/address.ts'
import { isIn } from '../../names/address-kinds.ts'
import type { Refused } from '../../result.ts'
import type { TextProblem } from '../tags.ts'
import {
  coversRange,
  type Mechanism,
  parseSpf,
  type Qualifier,
  type SpfRecord,
  type SpfTerm,
  spfText,
  termText,
} from './record.ts'

export interface Merged {
  text: string
  /** Terms that were left out, and why. */
  dropped: { term: string; why: string }[]
  /** What the other record ends with, where that is not how the merged one ends. */
  otherEnd?: string
}

const isPositive = (term: SpfTerm): term is Mechanism =>
  term.kind === 'mechanism' && term.qualifier === '+' && term.name !== 'all'
const isNegative = (term: SpfTerm): term is Mechanism =>
  term.kind === 'mechanism' && term.qualifier !== '+' && term.name !== 'all'

/** Everything before `all`, parted where the first term stands that does not pass. */
function halves({ mechanisms }: SpfRecord): { head: Mechanism[]; tail: Mechanism[] } {
  const all = mechanisms.findIndex(({ name }) => name === 'all')
  const counting = all < 0 ? mechanisms : mechanisms.slice(0, all)
  const first = counting.findIndex(isNegative)
  return first < 0 ? { head: counting, tail: [] } : { head: counting.slice(0, first), tail: counting.slice(first) }
}

/** A `redirect` whose target may pass as an include does: it costs the same, and passes the same senders. */
function asInclude({ redirect }: SpfRecord): Mechanism[] {
  if (!redirect) return []
  const text = `include:${redirect.value}`
  return parseSpf(`v=spf1 ${text}`).record.mechanisms
}

/**
 * One record of two for the same domain. What passes by either passes by the merged one, as long as neither has a term that receivers cannot evaluate: the other’s terms that pass
 * go behind the existing one’s, before any that do not pass. The existing record’s order, end and modifiers stay. Refused where both have terms that pass behind terms that
 * do not, since then no order keeps both promises; where the other lets everybody send; and where one of them cannot be read.
 */
export function mergeSpf(existing: string, other: string): Merged | Refused {
  const [a, b] = [parseSpf(existing), parseSpf(other)]
  for (const [{ problems }, text] of [[a, existing] as const, [b, other] as const])
    if (problems.length > 0) return { refused: `${text} has a fault: ${problems[0]!.message}` }
  const everybody = b.record.all?.qualifier === '+' && a.record.all?.qualifier !== '+'
  if (everybody) return { refused: `the other record ends with ${b.record.all!.text}: it allows everyone to send` }
  const mine = halves(a.record)
  const theirs = halves(b.record)
  const last = b.record.all ? [] : asInclude(b.record)
  const others = [...theirs.tail.filter(isPositive), ...last]
  if (
    theirs.tail.length > 0 &&
    others.length > 0 &&
    (mine.tail.some(isPositive) || (!a.record.all && a.record.redirect))
  )
    return {
      refused: `both have passing terms after failing ones (${[...mine.tail, ...(a.record.redirect ? [a.record.redirect] : [])].map(termText).join(' ')}; ${[...theirs.tail, ...last].map(termText).join(' ')}): whichever comes first would disallow senders of the other`,
    }
  const dropped: Merged['dropped'] = []
  // The other’s terms that do not pass stay before those of its own that do, and the existing record’s stand last.
  const keepsNegatives = theirs.tail.length > 0 && others.length > 0
  const behind = keepsNegatives ? [...theirs.tail, ...last, ...mine.tail] : mine.tail
  const front = [...mine.head, ...theirs.head, ...(keepsNegatives ? [] : last)]
  if (!keepsNegatives)
    for (const term of theirs.tail)
      dropped.push({
        term: termText(term),
        why: 'it only disallows senders, as the existing record’s end does',
      })
  const { kept, left } = withoutRepeats([...front, ...behind])
  for (const { term, outer } of left)
    dropped.push({ term: termText(term), why: outer ? `it is covered by ${termText(outer)}` : 'it is there already' })
  const modifiers = a.record.terms.filter((term) => term.kind === 'modifier')
  // Modifiers that no record of this name has yet mean nothing to receivers, or would speak for the other.
  for (const term of b.record.terms)
    if (
      term.kind === 'modifier' &&
      term.name !== 'redirect' &&
      !modifiers.some((each) => termText(each) === termText(term))
    )
      dropped.push({ term: termText(term), why: 'the existing record’s modifiers are kept' })
  const end: SpfTerm[] = a.record.all ? [a.record.all] : []
  const otherEnd = b.record.all ?? b.record.redirect
  const myEnd = a.record.all ?? a.record.redirect
  const text = spfText([...kept, ...end, ...modifiers])
  return {
    text,
    dropped,
    ...(otherEnd && (!myEnd || termText(otherEnd) !== termText(myEnd)) ? { otherEnd: termText(otherEnd) } : {}),
  }
}

/** Of more terms, only the same ones are looked for. */
const MOST_COMPARED = 500

/** Terms without those that are there already, and without ranges inside another (`outer`). */
export function withoutRepeats(terms: readonly Mechanism[]): {
  kept: Mechanism[]
  left: { term: Mechanism; outer?: Mechanism }[]
} {
  const kept: Mechanism[] = []
  const left: { term: Mechanism; outer?: Mechanism }[] = []
  const seen = new Set<string>()
  for (const [i, term] of terms.entries()) {
    const written = termText({ ...term, qualifier: '+' }).toLowerCase()
    if (seen.has(written)) {
      left.push({ term })
      continue
    }
    const outer =
      term.network &&
      terms.length <= MOST_COMPARED &&
      terms.find(
        (each, k) =>
          k !== i &&
          coversRange(each, term) &&
          (k < i || (!coversRange(term, each) && each.qualifier === term.qualifier && !othersBetween(terms, i, k))),
      )
    if (outer) {
      left.push({ term, outer })
      continue
    }
    seen.add(written)
    kept.push(term)
  }
  return { kept, left }
}

/** Whether a term with another result than the first stands between two. */
const othersBetween = (terms: readonly Mechanism[], i: number, k: number): boolean =>
  terms.slice(i, k).some(({ qualifier }) => qualifier !== terms[i]!.qualifier)

/** The record without one sender, given as a term or by its value alone; undefined where it has no such term. */
export function withoutSender(text: string, sender: string): string | undefined {
  const { record } = parseSpf(text)
  const [wanted] = parseSpf(`v=spf1 ${sender}`).record.terms
  const same = (term: SpfTerm): boolean =>
    (wanted !== undefined &&
      termText(term)
        .replace(/^[-~?]/, '')
        .toLowerCase() ===
        termText(wanted)
          .replace(/^[-~?]/, '')
          .toLowerCase()) ||
    (term.kind === 'mechanism' &&
      (term.domain?.toLowerCase() === sender.toLowerCase() ||
        (term.network !== undefined && addressText(term.network) === sender)))
  const left = record.terms.filter((term) => term.name === 'all' || !same(term))
  return left.length === record.terms.length ? undefined : spfText(left)
}

/** The record with another end: what `all` says of everybody else. A `redirect` goes, since nothing is left for it. */
export function withEnd(text: string, qualifier: Qualifier): string {
  const terms = parseSpf(text).record.terms.filter((term) => term.name !== 'all' && term.name !== 'redirect')
  const all = parseSpf(`v=spf1 ${qualifier}all`).record.mechanisms[0]!
  const lastMechanism = terms.findLastIndex(({ kind }) => kind === 'mechanism')
  return spfText([...terms.slice(0, lastMechanism + 1), all, ...terms.slice(lastMechanism + 1)])
}

/** A record of senders as people name them (`mx`, `192.0.2.0/24`, `include:_spf.larkpost.example`), with its end; or what is wrong with one of them. */
export function buildSpf(
  senders: readonly string[],
  end: Qualifier,
): { text: string } | { problem: TextProblem; sender: string } {
  const terms: Mechanism[] = []
  for (const sender of senders) {
    const named = asTerm(sender)
    const { record, problems } = parseSpf(`v=spf1 ${named}`)
    if (problems.length > 0 || record.mechanisms.length === 0)
      return {
        sender,
        problem: problems[0] ?? {
          kind: 'syntax',
          start: 0,
          end: 0,
          message: `“${sender}” is not a sender`,
          wanted: 'mx, an address or a range, include:NAME, a:HOST',
        },
      }
    terms.push(...record.mechanisms)
  }
  return { text: withEnd(spfText(withoutRepeats(terms.filter(({ name }) => name !== 'all')).kept), end) }
}

/** An address or a range alone is `ip4` or `ip6`. */
const asTerm = (sender: string): string =>
  /^[\d.]+(?::\d+)?(?:\/\d+)?$/.test(sender)
    ? `ip4:${sender}`
    : /^[0-9a-f]*:[0-9a-f:.]*(?:\/\d+)?$/i.test(sender)
      ? `ip6:${sender}`
      : sender

/** How much of all addresses of a family a record lets send by ranges alone: from 0 to 1, overlaps counted once. */
export function shareAllowed(mechanisms: readonly Mechanism[], octets: 4 | 16): number {
  const bits = octets === 4 ? 'bits4' : 'bits6'
  const ranges = mechanisms.filter((each) => each.qualifier === '+' && each.network?.length === octets)
  // By their first address, the wider first: what is inside another comes behind it, and nothing outside between.
  ranges.sort((a, b) => a[bits] - b[bits]).sort((a, b) => compareMasked(a, b, bits))
  let outer: Mechanism | undefined
  let share = 0
  for (const each of ranges) {
    if (outer && coversRange(outer, each)) continue
    outer = each
    share += 2 ** -each[bits]
  }
  return share
}

function compareMasked(a: Mechanism, b: Mechanism, bits: 'bits4' | 'bits6'): number {
  const [first, second] = [masked(a.network!, a[bits]), masked(b.network!, b[bits])]
  for (let i = 0; i < first.length; i++) if (first[i] !== second[i]) return first[i]! - second[i]!
  return 0
}

const masked = (network: Uint8Array, bits: number): Uint8Array =>
  network.map(
    (octet, i) => octet & (bits - i * 8 >= 8 ? 0xff : bits <= i * 8 ? 0 : (0xff << (8 - (bits - i * 8))) & 0xff),
  )

/** Whether a range has bits set beyond its length: they mean nothing, and something else was probably meant. The range that it is, where it has. */
export function maskedRange({ network, name, bits4, bits6 }: Mechanism): string | undefined {
  if (!network) return undefined
  const bits = network.length === 4 ? bits4 : bits6
  const range = masked(network, bits)
  return isIn(network, range, network.length * 8) ? undefined : `${name}:${addressText(range)}/${bits}`
}
