import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileTouching: Rule = {
  code: 'file/touching',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'quoted text without a space next to it',
  why: 'Values are separated by spaces. Without one, some servers refuse the whole file; others see two values all the same.',
  remedy: 'Put a space between them.',
  bad: ['@ TXT "one""two"', '@ TXT "one"two', 'www HTTPS 1 . alpn="h2"port=8443\nwww A 192.0.2.10'],
  good: ['@ TXT "one" "two"', '@ TXT ("one" "two")', 'www HTTPS 1 . alpn="h2" port=8443\nwww A 192.0.2.10'],
  visit: onProblem('touching', (problem, source) => ({
    message: problem.message,
    effect: 'Some servers refuse the file.',
    fix: [`write ${problem.wanted}`],
    repair: { at: { source, start: problem.start, end: problem.start }, text: ' ' },
  })),
}
