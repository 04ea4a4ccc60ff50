import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileParameterName: Rule = {
  code: 'file/parameter-name',
  severity: 'warning',
  source: 'RFC 9460 §2.1',
  title: 'a service parameter spelled as not all servers read it',
  why: 'Late names of parameters are not known to every server, which then refuses the file. By its number a parameter has its octets as value; some servers read it as they read it by name.',
  remedy: 'Write mandatory to ipv6hint by name, all others as key and the number.',
  bad: ['www HTTPS 1 . alpn=h2 ohttp\nwww A 192.0.2.10', 'www HTTPS 1 . key3="\\032\\251"\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . alpn=h2 key8\nwww A 192.0.2.10', 'www HTTPS 1 . port=8443\nwww A 192.0.2.10'],
  visit: onProblem('parameter-name', (problem, source) => ({
    message: problem.message,
    effect: 'Some servers refuse the file, or take another value.',
    fix: [`write ${problem.wanted}`],
    repair: { at: { source, start: problem.start, end: problem.end }, text: problem.wanted },
  })),
}
