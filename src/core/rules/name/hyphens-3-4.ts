import { ODD_HYPHENS_3_4 } from '../../names/tree.ts'
import type { Rule } from '../rule.ts'
import { eachOddLabel, isALabel } from './labels.ts'

export const nameHyphens34: Rule = {
  code: 'name/hyphens-3-4',
  severity: 'advice',
  source: 'RFC 5891 §4.2.3.1',
  title: 'label with hyphens in its third and fourth place that is not an A-label',
  why: 'Such labels are reserved for encodings such as xn--. Registries and some programs reject them.',
  remedy: 'Use a single hyphen, or put the two elsewhere.',
  bad: ['tv--lake A 192.0.2.10'],
  good: ['xn--fhre-loa A 192.0.2.10', 'lake--tv A 192.0.2.10'],
  visit: {
    finish(cx) {
      eachOddLabel(
        cx,
        ODD_HYPHENS_3_4,
        (label) => /^..--/.test(label) && !isALabel(label),
        (name, record, part) =>
          cx.report({
            record,
            part,
            message: `${cx.zones.tree.labelText(name)} has hyphens in its third and fourth place`,
            effect: 'Registries and some programs reject such labels.',
            fix: ['use a single hyphen there'],
          }),
      )
    },
  },
}
