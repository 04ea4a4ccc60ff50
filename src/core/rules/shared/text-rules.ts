/**
 * Rules of one kind of text: SPF, DKIM keys, DMARC, MTA-STS, TLS-RPT. A text is read once for all of them; each rule then takes what it speaks of, from the text alone
 * or with the zones around it.
 */

import type { TextProblem } from '../../mail/tags.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import type { NameId } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Rule, SetView, SetVisit, Severity, Visitor, When } from '../rule.ts'
import { line, reportText } from '../text.ts'

export interface Reading {
  text: string
  /** What the parser found wrong; the kind of each is the name of the rule that speaks of it. */
  problems: readonly (TextProblem & { severity?: Severity })[]
  /** What the rules found in the text alone, once they were asked. */
  faults?: readonly { code: string; fault: TextFault }[]
}

/** What a rule finds in a text: `wanted` is right in its place, `whole` in the place of all of the text; `advice` says in words what to do. */
export interface TextFault {
  start: number
  end: number
  message: string
  severity?: Severity
  wanted?: string
  whole?: string
  advice?: string
}

/** Visits of sets of other types. */
export type Beside = Partial<Record<number, When<SetVisit>>>

export interface TextKind<R extends Reading> {
  /** The name of its family of rules, and what they are offered (see traits.ts). */
  family: string
  when: number
  /** Whether a TXT set may hold such texts. Default: yes. */
  isAt?(zones: Zones, owner: NameId): boolean
  /** What was read of a record, where it is such a text or was meant to be. */
  reading(zones: Zones, record: RecordId, set: SetView): R | undefined
  /** What a message begins with: “key at s1._domainkey.hollowmere.example.”. */
  subject(owner: string): string
  /** Whether nothing is wrong with a text by itself, for a line that can be copied. */
  isSound(text: string): boolean
  /** Whether nothing about the record in its zone need be looked at; of most records, nothing is. */
  isQuiet?(cx: Context, record: RecordId, reading: R, set: SetView): boolean
}

/** A rule of such a family. Without `inText` and `inZone`, it speaks of the parser’s problems that have its name. */
export interface TextRule<R extends Reading> extends Omit<Rule, 'visit'> {
  /** What it finds in the text alone; asked once for each text, however many records have it. */
  inText?(reading: R): Iterable<TextFault>
  /** What it finds with the zones around. */
  inZone?(cx: Context, record: RecordId, reading: R, set: SetView): void
  /** What it looks for in sets of other types. */
  beside?: Beside
}

export const placeOf = ({ start, end }: { start: number; end: number }): { start: number; end: number } => ({
  start,
  end,
})

/** More of one text say nothing new. */
export const MOST_FAULTS = 20

/** Longer texts are not written out again for each of their faults. */
const LONG = 4096

/** The rules of a kind of text, of which one visit serves all. */
export function textRules<R extends Reading>(kind: TextKind<R>, rules: readonly TextRule<R>[]): Rule[] {
  const inZone = rules.flatMap((rule) => (rule.inZone ? [rule.inZone] : []))
  const visit: Visitor = {
    set: {
      ...besides(rules.flatMap(({ beside }) => (beside ? [beside] : []))),
      [TYPE.TXT]: {
        when: kind.when,
        visit(set: SetView, cx: Context) {
          if (kind.isAt && !kind.isAt(cx.zones, set.owner)) return
          for (const record of set.records) {
            const reading = kind.reading(cx.zones, record, set)
            if (!reading) continue
            reading.faults ??= rules.flatMap((rule) => firstOf(rule, kind.family, reading))
            for (const { code, fault } of reading.faults)
              reportText(cx, record, fault, {
                code,
                severity: fault.severity,
                message: `${kind.subject(cx.name(set.owner))}: ${fault.message}`,
                fix: [fixOf(cx, record, reading.text, fault, kind.isSound)],
              })
            if (inZone.length > 0 && !kind.isQuiet?.(cx, record, reading, set))
              for (const tell of inZone) tell(cx, record, reading, set)
          }
        },
      },
    },
  }
  return rules.map(({ inText: _, inZone: __, beside: ___, ...rule }) => ({ ...rule, visit }))
}

/** The visits of several rules, one for each type. */
function besides(each: readonly Beside[]): Beside {
  const joined: Beside = {}
  for (const beside of each)
    for (const [type, { when, visit }] of Object.entries(beside) as [string, When<SetVisit>][]) {
      const before = joined[Number(type)]
      joined[Number(type)] = before
        ? {
            when: before.when | when,
            visit(set, cx) {
              before.visit(set, cx)
              visit(set, cx)
            },
          }
        : { when, visit }
    }
  return joined
}

function firstOf<R extends Reading>(
  rule: TextRule<R>,
  family: string,
  reading: R,
): { code: string; fault: TextFault }[] {
  const found: { code: string; fault: TextFault }[] = []
  const own = ({ kind }: TextProblem): boolean => `${family}/${kind}` === rule.code
  const faults = rule.inText?.(reading) ?? (rule.inZone || rule.beside ? [] : reading.problems.filter(own))
  for (const fault of faults) {
    if (found.length === MOST_FAULTS) break
    found.push({ code: rule.code, fault })
  }
  return found
}

/** The line to write, where one can be made that is sound; else what would be right, or what to do, in words. */
function fixOf(
  cx: Context,
  record: RecordId,
  text: string,
  { start, end, wanted = '', whole, advice }: TextFault,
  isSound: (text: string) => boolean,
): string {
  if (whole !== undefined) return line(cx, record, whole)
  if (advice !== undefined) return advice
  const other = text.length > LONG ? '' : text.slice(0, start) + wanted + text.slice(end)
  return other !== '' && isSound(other) ? line(cx, record, other) : `write ${wanted}`
}
