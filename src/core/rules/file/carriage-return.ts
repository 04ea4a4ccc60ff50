import type { Source } from '../../model/zones.ts'
import type { Repair, Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

/** Takes out every carriage return in front of a newline. */
function withoutReturns(source: Source): Repair | undefined {
  const { octets } = source
  const places: { start: number; end: number }[] = []
  for (let at = octets.indexOf(0x0d); at >= 0; at = octets.indexOf(0x0d, at + 1))
    if (octets[at + 1] === 0x0a) places.push({ start: at, end: at + 1 })
  const [first, ...also] = places
  return first && { at: { source, ...first }, text: '', also }
}

export const fileCarriageReturn: Rule = {
  code: 'file/carriage-return',
  severity: 'advice',
  source: 'practice',
  title: 'lines of a zone file that end in carriage return and newline',
  why: 'Some editors write lines this way. Most servers ignore the carriage returns; some refuse the whole file.',
  remedy: 'If your server refuses the file, save it with newlines alone.',
  bad: ['www A 192.0.2.10\r\nkiosk A 192.0.2.11\r'],
  good: ['www A 192.0.2.10\nkiosk A 192.0.2.11'],
  visit: onProblem('carriage-return', (problem, source) => ({
    message: problem.message,
    effect: 'Some servers refuse the file.',
    fix: ['save the file with newlines alone'],
    repair: withoutReturns(source),
  })),
}
