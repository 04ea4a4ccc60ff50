import { entryParts } from '../../file/entry.ts'
import type { RecordId } from '../../model/zones.ts'
import { textOf } from '../../names/octets.ts'
import { type NameId, ODD_NOT_ASCII } from '../../names/tree.ts'
import type { Part, Rule } from '../rule.ts'
import { eachOddLabel } from './labels.ts'

export const nameNotAnALabel: Rule = {
  code: 'name/not-an-a-label',
  severity: 'error',
  source: 'RFC 5890 §2.3.2.1, RFC 5891',
  title: 'name with non-ASCII letters',
  why: 'Programs look up an internationalized name by its A-label (xn--…), never by the letters themselves: nobody finds the record.',
  remedy: 'Write the A-label in the zone file.',
  silences: ['cname/target-missing', 'mx/target-without-address', 'srv/target-without-address'],
  bad: ['fähre A 192.0.2.10', 'www CNAME fähre.northlight.example.', 'boot.☃ A 192.0.2.10'],
  good: ['xn--fhre-loa A 192.0.2.10', 'www TXT "die Fähre"'],
  visit: {
    async finish(cx) {
      const found: [NameId, RecordId, Part][] = []
      eachOddLabel(
        cx,
        ODD_NOT_ASCII,
        (label) => /[^\0-\x7f]/.test(label),
        (...each) => found.push(each),
      )
      if (found.length === 0) return
      const { toALabel } = await import('../../names/idna.ts')
      for (const [name, record, part] of found) {
        const label = textOf(cx.zones.tree.label(name))
        const made = toALabel(label)
        const parts = entryParts(cx.zones, record)
        const stretch = part === 'owner' ? parts.owner : parts.values[part as number]
        const written = stretch && textOf(cx.zones.source(record).octets.subarray(...stretch))
        cx.report({
          record,
          part,
          message: `“${label}” contains non-ASCII letters`,
          effect: 'Programs look up the A-label, so nobody finds the record.',
          fix: ['label' in made ? `write ${made.label} instead of ${label}` : `choose another name: ${made.refused}`],
          repair:
            'label' in made && written?.includes(label)
              ? cx.rewriting(record, part, written.split(label).join(made.label))
              : undefined,
        })
      }
    },
  },
}
