/** Faults that the reader meets, because they keep it from reading a record, or others read it differently: each is one of its problems, spoken of by one rule. */

import type { Source } from '../../model/zones.ts'
import type { Problem, ProblemKind } from '../../records/tokens.ts'
import type { Context, Repair, Visitor } from '../rule.ts'

/** A visitor for problems of one kind; `say` returns undefined where the rule does not speak of it after all. */
export function onProblem(
  kind: ProblemKind,
  say: (
    problem: Problem,
    source: Source,
  ) => { message: string; effect: string; fix: string[]; repair?: Repair } | undefined,
): Visitor {
  return {
    problem(problem: Problem, source: Source, cx: Context) {
      const said = problem.kind === kind ? say(problem, source) : undefined
      if (!said) return false
      cx.report({
        ...said,
        owner: problem.owner,
        type: problem.type,
        zone: cx.zones.zones[source.zone],
        at: { source, start: problem.start, end: problem.end },
      })
      return true
    },
  }
}

export const written = (problem: Problem, source: Source): string =>
  new TextDecoder().decode(source.octets.subarray(problem.start, problem.end))

/** The text in quoted strings of at most 255 characters. */
export function split(text: string): string {
  return (text.match(/(?:\\\d{3}|\\.|[^\\]){1,255}/gs) ?? []).map((part) => `"${part}"`).join(' ')
}
