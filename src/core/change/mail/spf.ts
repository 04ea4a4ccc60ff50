/** Who may send: what writing an SPF record changes, and what there is to say of it. */

import { type KnownSpf, spfBudget } from '../../mail/spf/budget.ts'
import { MAX_LOOKUPS } from '../../mail/spf/check-host.ts'
import { buildSpf, mergeSpf, withEnd, withoutSender } from '../../mail/spf/merge.ts'
import { rangesOf } from '../../mail/spf/ranges.ts'
import { isSpf, letsSend, parseSpf, type Qualifier, spfText, termText } from '../../mail/spf/record.ts'
import type { Zone, Zones } from '../../model/zones.ts'
import { bare, type Name } from '../../names/name.ts'
import type { Refused } from '../../result.ts'
import { type MailChange, textChange, textsAt } from './text.ts'

const ENDS: Record<string, Qualifier> = { fail: '-', softfail: '~', neutral: '?' }

export interface SpfWishes {
  /** Whole records, and senders as people name them. */
  records: readonly string[]
  allow: readonly string[]
  remove: readonly string[]
  end?: string
  /** Begin anew instead of joining what is there. */
  replace: boolean
  /** Includes that are to be replaced by what they hold now. */
  spellOut: readonly string[]
  ttl?: number
}

/** Writes or changes the one SPF record of a name. `recordAt` is what is known of other names’ records; `today` is for the note about what was spelled out. */
export function spfChange(
  zones: Zones,
  zone: Zone,
  owner: Name,
  wishes: SpfWishes,
  recordAt: (name: Name) => KnownSpf,
  today: string,
): MailChange | Refused {
  const notes: string[] = []
  const present = textsAt(zones, zone, owner, isSpf)
  if (wishes.end !== undefined && ENDS[wishes.end] === undefined)
    return { refused: `--end ${wishes.end} must be fail (-all), softfail (~all) or neutral (?all)` }
  for (const record of wishes.records) {
    if (!isSpf(record))
      return {
        refused: `${record} is not an SPF record, which begins with v=spf1 and a space. To add a sender, use --allow`,
      }
    const [problem] = parseSpf(record).problems
    if (problem) return { refused: `${record} is invalid: ${problem.message} (expected ${problem.wanted})` }
  }
  const built = wishes.allow.length === 0 ? undefined : buildSpf(wishes.allow, '~')
  if (built && 'problem' in built)
    return { refused: `--allow ${built.sender}: ${built.problem.message} (expected ${built.problem.wanted})` }
  const parts = [...(wishes.replace ? [] : [...new Set(present)]), ...wishes.records, ...(built ? [built.text] : [])]
  if (parts.length === 0) {
    if (wishes.end === undefined)
      return {
        refused: `no senders given for ${owner}: name them with --allow (mx, an address or range, include:NAME). For a domain that sends no mail: bramblefront write no-mail ${owner.replace(/\.$/, '')}`,
      }
    parts.push('v=spf1')
  }
  if (
    parts.length === 1 &&
    wishes.remove.length === 0 &&
    wishes.spellOut.length === 0 &&
    wishes.end === undefined &&
    present.length === 1 &&
    !wishes.replace
  )
    return {
      refused: `${owner} already has an SPF record: ${present[0]}. Say what to change: --allow, --remove, --end, --spell-out, or --replace and a record`,
    }
  let text = parts[0]!
  for (const [i, part] of parts.entries()) {
    if (i === 0) continue
    const merged = mergeSpf(text, part)
    if ('refused' in merged) return { refused: `the records cannot be merged: ${merged.refused}` }
    text = merged.text
    for (const { term, why } of merged.dropped) notes.push(`${term} was left out: ${why}.`)
    if (merged.otherEnd && !(built && part === built.text) && wishes.end === undefined)
      notes.push(`${part} ends with ${merged.otherEnd}; the existing record’s end is kept.`)
  }
  const joinedHere = wishes.replace ? 0 : new Set(present).size
  if (joinedHere > 1)
    notes.push(`The ${joinedHere} existing SPF records are now one: receivers treat several as a permanent error.`)
  for (const sender of wishes.remove) {
    const left = withoutSender(text, sender)
    if (left === undefined) return { refused: `${sender} is not in the record: ${text}` }
    text = left
  }
  let copied: string | undefined
  for (const include of wishes.spellOut) {
    const spelled = spellOut(text, include, recordAt)
    if ('refused' in spelled) return spelled
    text = spelled.text
    copied = [copied, `copied from include:${spelled.name} on ${today}: ${spelled.ranges.join(' ')}`]
      .filter(Boolean)
      .join('; ')
    notes.push(
      `Warning: the addresses of ${spelled.name} can change without notice. Its current ones were copied (${spelled.ranges.length === 1 ? 'one range' : `${spelled.ranges.length} ranges`}); a note in the file says where from, and check compares them with that record if it is in your zones.`,
    )
  }
  if (wishes.end !== undefined) text = withEnd(text, ENDS[wishes.end]!)
  const [problem] = parseSpf(text).problems
  if (problem) return { refused: `${text} is invalid: ${problem.message} (expected ${problem.wanted})` }
  notes.push(...aboutEnd(text, wishes), ...aboutBudget(owner, present, text, recordAt), ...aboutLength(text))
  return {
    changes: [{ ...textChange(zones, zone, owner, isSpf, text, wishes.ttl), ...(copied ? { note: copied } : {}) }],
    notes,
  }
}

function aboutEnd(text: string, wishes: SpfWishes): string[] {
  const { all } = parseSpf(text).record
  if (!all) return []
  if (all.qualifier === '~' && wishes.end === undefined && wishes.allow.length > 0)
    return [
      'It ends with ~all (softfail): with -all, some receivers reject before they check DKIM (RFC 7489 §10.1). --end fail uses -all anyway.',
    ]
  if (all.qualifier === '-' && letsSend(text))
    return [
      'It ends with -all (fail): forwarded mail may be rejected before DKIM is checked (RFC 7489 §10.1). --end softfail is milder.',
    ]
  return []
}

function aboutBudget(
  owner: Name,
  before: readonly string[],
  text: string,
  recordAt: (name: Name) => KnownSpf,
): string[] {
  const now = spfBudget(owner, text, recordAt)
  const then = before.length === 1 ? spfBudget(owner, before[0]!, recordAt) : undefined
  if (now.total === 0 && !then?.total) return []
  const least = now.whole ? '' : 'at least '
  return [
    `Lookups: ${least}${now.total} of ${MAX_LOOKUPS}${then ? `, ${then.total} before` : ''}${now.whole ? '' : '; includes outside your zones are not counted: use --live to look them up'}.`,
  ]
}

function aboutLength(text: string): string[] {
  const strings = Math.ceil(text.length / 255)
  return strings > 1
    ? [`The record has ${text.length} octets in ${strings} strings, which receivers join with nothing between them.`]
    : []
}

/** The record with an include replaced by the ranges that it stands for now. */
function spellOut(
  text: string,
  include: string,
  recordAt: (name: Name) => KnownSpf,
): { text: string; name: string; ranges: string[] } | Refused {
  const name = include.replace(/^[+]?include:/i, '')
  const { terms, mechanisms } = parseSpf(text).record
  const at = mechanisms.find((each) => each.name === 'include' && each.domain?.toLowerCase() === name.toLowerCase())
  if (!at) return { refused: `include:${name} is not in the record: ${text}` }
  const ranges = rangesOf(`${bare(name)}.`, recordAt)
  if ('refused' in ranges) return ranges
  // What it lets pass gets the include’s own sign.
  const copies = ranges.terms.map((each) => ({ ...each, qualifier: at.qualifier }))
  return { text: spfText(terms.flatMap((term) => (term === at ? copies : [term]))), name, ranges: copies.map(termText) }
}
