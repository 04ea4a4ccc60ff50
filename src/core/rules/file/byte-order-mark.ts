import { EXAMPLE_HEAD } from '../example-head.ts'
import type { Rule } from '../rule.ts'
import { onProblem } from '../shared/problems.ts'

export const fileByteOrderMark: Rule = {
  code: 'file/byte-order-mark',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'byte-order mark at the beginning of a zone file',
  why: 'Some editors put these three octets in front of a text. They are invisible, and servers take them for part of the first line and refuse the whole file.',
  remedy: 'Save the file as UTF-8 without a byte-order mark.',
  bad: [{ whole: true, zones: { 'hollowmere.example': `\ufeff${EXAMPLE_HEAD}www A 192.0.2.10` } }],
  good: ['www A 192.0.2.10'],
  visit: onProblem('byte-order-mark', (problem, source) => ({
    message: problem.message,
    effect: 'Servers refuse the file.',
    fix: ['save the file without a byte-order mark'],
    repair: { at: { source, start: problem.start, end: problem.end }, text: '' },
  })),
}
