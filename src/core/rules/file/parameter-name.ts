import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileParameterName: Rule = {
  code: 'file/parameter-name',
  severity: 'warning',
  source: 'RFC 9460 §2.1',
  title: 'SVCB parameter written in a way that not all servers read',
  why: 'Servers do not know the names of recent parameters and refuse the file. Written by its number, a parameter takes octets as its value; some servers read it as if it were written by name.',
  remedy: 'Write the parameters from mandatory to ipv6hint by name, and all others as key and number.',
  bad: ['www HTTPS 1 . alpn=h2 ohttp\nwww A 192.0.2.10', 'www HTTPS 1 . key3="\\032\\251"\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . alpn=h2 key8\nwww A 192.0.2.10', 'www HTTPS 1 . port=8443\nwww A 192.0.2.10'],
  visit: onProblem('parameter-name', (problem, source) => ({
    message: problem.message,
    effect: 'Some servers refuse the file, or read another value.',
    fix: [`write ${problem.wanted}`],
    repair: { at: { source, start: problem.start, end: problem.end }, text: problem.wanted },
  })),
}
