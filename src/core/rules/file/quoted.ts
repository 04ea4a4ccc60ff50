import type { Source } from '../../model/zones.ts'
import type { Problem } from '../../records/tokens.ts'
import type { Repair, Rule } from '../rule.ts'
import { onProblem, written } from '../shared/problems.ts'

/** What was written in quotes, without them; not where there are none, or where what is in them needs them. */
function unquoting(problem: Problem, source: Source): Repair | undefined {
  const { start, end } = problem
  const text = /^"([^\s;()"\\]+)"$/.exec(written(problem, source))?.[1]
  if (text === undefined) return undefined
  const touches = start > 0 && !/[\s(]/.test(String.fromCharCode(source.octets[start - 1]!))
  return { at: { source, start, end }, text: touches ? ` ${text}` : text }
}

export const fileQuoted: Rule = {
  code: 'file/quoted',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'quotes around a name, number, address or type',
  why: 'Quotes are for texts, as in TXT. Around anything else, some servers refuse the whole file; others take a quoted name for a single label that contains dots.',
  remedy: 'Remove the quotes.',
  bad: [
    'www A "192.0.2.10"',
    'www CNAME "site.northlight.example."',
    '@ MX "10" mx.larkpost.example.',
    '"www" A 192.0.2.10',
    'www "300" A 192.0.2.10',
  ],
  good: [
    'www A 192.0.2.10',
    'www 300 TXT "quotes are for texts"',
    '@ CAA 0 issue "ca.larkpost.example"',
    'www HTTPS 1 . alpn="h2"\nwww A 192.0.2.10',
  ],
  visit: onProblem('quoted', (problem, source) => ({
    message: problem.message,
    effect: 'Some servers refuse the file; others read a quoted name as a single label.',
    fix: [`write ${problem.wanted}`],
    repair: unquoting(problem, source),
  })),
}
