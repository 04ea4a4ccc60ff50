import { NONE } from '../../names/tree.ts'
import { named } from '../look.ts'
import type { Rule } from '../rule.ts'

export const keptExceptionUnused: Rule = {
  code: 'config/exception-unused',
  severity: 'advice',
  source: 'practice',
  title: 'exception in bramblefront.yaml that matches no finding',
  why: 'The finding that it accepted is gone. Left in place, the exception would hide the same fault if it came back.',
  remedy: 'Remove it from bramblefront.yaml.',
  bad: [
    {
      zones: { 'hollowmere.example': 'www A 192.0.2.10' },
      around: { exceptions: [{ rule: 'mx/single', at: 'hollowmere.example.', reason: 'one is enough' }] },
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': '@ MX 10 mail\nmail A 192.0.2.25' },
      around: { exceptions: [{ rule: 'mx/single', at: 'hollowmere.example.', reason: 'one is enough' }] },
    },
  ],
  visit: {
    exception({ rule, at, reason, place }, matched, cx) {
      if (matched > 0) return
      const owner = at === undefined ? NONE : named(cx.zones, at)
      cx.report({
        place: place ?? { file: '', line: 1, column: 1, text: '', length: 0 },
        owner: owner === NONE ? undefined : owner,
        message: `the exception for ${rule}${at === undefined ? '' : ` at ${at}`} (“${reason}”) matches nothing`,
        effect: 'It would hide the fault if it came back.',
        fix: ['remove it from bramblefront.yaml'],
      })
    },
  },
}
