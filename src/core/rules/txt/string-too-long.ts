import type { Source } from '../../model/zones.ts'
import type { Problem } from '../../records/tokens.ts'
import type { Repair, Rule } from '../rule.ts'
import { onProblem, split, written } from '../shared/problems.ts'

/** The string in parentheses, divided, in place of the one; not where that stands in parentheses or without quotes. */
function splitting(problem: Problem, source: Source): Repair | undefined {
  const [start, end] = [problem.start - 1, problem.end + 1]
  const line = source.octets.subarray(source.octets.lastIndexOf(0x0a, start) + 1, end)
  if (source.octets[start] !== 0x22 || source.octets[end - 1] !== 0x22 || line.includes(0x28)) return undefined
  return { at: { source, start, end }, text: `( ${split(written(problem, source))} )` }
}

export const txtStringTooLong: Rule = {
  code: 'txt/string-too-long',
  severity: 'error',
  source: 'RFC 1035 §3.3.14',
  title: 'TXT string of more than 255 octets',
  why: 'The length of a string is one octet. Servers refuse the file.',
  remedy: 'Split it into several quoted strings. SPF, DKIM and DMARC join them again, with nothing between them.',
  bad: [`proof TXT "ferry-proof=${'A'.repeat(300)}"`],
  good: [`proof TXT "ferry-proof=${'A'.repeat(200)}" "${'A'.repeat(200)}"`],
  visit: onProblem('string-too-long', (problem, source) => ({
    message: problem.message,
    effect: 'Servers refuse the file.',
    fix: [`TXT ( ${split(written(problem, source))} )`],
    repair: splitting(problem, source),
  })),
}
