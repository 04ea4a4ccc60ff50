/** Keys that mail is signed with: what is wrong inside a key record, and where it stands. */
import { type KeyRecord, looksLikeKey, parseKey } from '../../mail/dkim/key.ts'
import { isSpf } from '../../mail/spf/record.ts'
import type { TextProblem } from '../../mail/tags.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { labelsOf } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { isSelector, named, recordsOf } from '../look.ts'
import type { Context, KeptKey, Rule, Severity } from '../rule.ts'
import { asDeed, line, reportText, TextMemory } from '../text.ts'
import { SELECTOR, TAGGED_TEXT } from '../traits.ts'

interface Read {
  text: string
  isKey: boolean
  record: KeyRecord
  problems: (TextProblem & { severity?: Severity })[]
}

export const READ = new TextMemory<Read>((text) => ({ text, isKey: looksLikeKey(text), ...parseKey(text) }))

const CONSEQUENCES: Record<string, string> = {
  syntax: 'Verifiers cannot read it: signatures with this selector fail.',
  'key-missing': 'Verifiers find no key: signatures with this selector fail.',
  'key-unreadable': 'Verifiers cannot use it: signatures with this selector fail.',
  'key-type': 'Verifiers that do not know it pass signatures with this selector over.',
  hash: 'Signatures with this selector fail.',
  service: 'The key is not for mail: signatures with this selector fail.',
  testing: 'Verifiers may treat signed mail as if it were not signed.',
  revoked: 'Mail that is still signed with it fails.',
  'obsolete-tag': 'Verifiers pass it over.',
  'escaped-semicolon': 'Verifiers read the backslash as part of the value: signatures with this selector fail.',
  'quotes-inside': 'Verifiers read the quotes as part of the value: signatures with this selector fail.',
}

const shortBy: Record<Severity, string> = {
  error: 'Verifiers must refuse it: signatures with this selector fail.',
  warning: 'Some receivers do not trust it; a key of that size can be broken by those who want to.',
  advice: 'Verifiers that do not cope with it fail the signature.',
}

/** Names that a kept alias leads to from a selector: a key may stand there. */
function aliasedKeys(zones: Zones): Set<NameId> {
  const found = new Set<NameId>()
  for (const record of recordsOf(zones, TYPE.CNAME))
    if (isSelector(zones, zones.owner(record))) found.add(zones.target(record))
  return found
}

export const VISIT: Rule['visit'] = {
  set: {
    [TYPE.TXT]: {
      when: TAGGED_TEXT | SELECTOR,
      visit(set, cx) {
        const { zones } = cx
        const atSelector = isSelector(zones, set.owner)
        const adsp = zones.tree.labelText(set.owner) === '_adsp'
        const keys = set.records.filter((record) => {
          const { isKey, text } = READ.of(zones, record)
          return isKey || (atSelector && !adsp && !isSpf(text))
        })
        if (keys.length === 0) return
        const name = cx.name(set.owner)
        // What a wildcard answers with is another rule’s.
        if ((!atSelector || /\._domainkey\.(?:.*\.)?_domainkey\./i.test(name)) && !zones.tree.isWildcard(set.owner))
          cx.memory((): RecordId[] => []).push(keys[0])
        if (atSelector && new Set(set.records.map((record) => READ.of(zones, record).text)).size > 1)
          cx.report({
            code: 'dkim/several',
            record: set.records[1],
            message: `${name} has ${set.records.length} texts; the first is at ${cx.where(set.records[0], set.records[1])}`,
            consequence: 'Verifiers take any of them, or none: signatures fail by chance.',
            fix: ['keep the one key that mail is signed with'],
          })
        for (const record of keys) {
          const { problems, text } = READ.of(zones, record)
          for (const problem of problems) {
            // At a wildcard, an empty key says on purpose that nobody signs.
            if (problem.kind === 'revoked' && zones.tree.isWildcard(set.owner)) continue
            const code = codeFor(problem.kind)
            reportText(cx, record, problem, {
              code,
              severity: problem.severity,
              message: `key at ${name}: ${problem.message}`,
              consequence:
                problem.kind === 'key-short' ? shortBy[problem.severity ?? 'warning'] : CONSEQUENCES[problem.kind],
              fix:
                problem.kind === 'escaped-semicolon'
                  ? [line(cx, record, text.replace(/\\;/g, ';'))]
                  : [
                      problem.kind === 'revoked'
                        ? 'take the record out, once no mail signed with it is on its way any more'
                        : asDeed(problem.wanted),
                    ],
            })
          }
        }
      },
    },
  },
  finish(cx) {
    const { zones } = cx
    const astray = cx.memory((): RecordId[] => [])
    if (astray.length === 0) return
    const aliased = aliasedKeys(zones)
    for (const record of astray) {
      const owner = zones.owner(record)
      const name = cx.name(owner)
      if (aliased.has(owner) || /^(?:_domainkey|_adsp)\./i.test(name)) continue
      const labels = labelsOf(name)
      const selector = labels[0].startsWith('_') ? 'SELECTOR' : labels[0]
      const zone = zones.zoneOfRecord(record).name
      const again = labels.filter((each) => /domain-?keys?$/i.test(each)).length > 1
      cx.report({
        record,
        part: 'owner',
        code: 'dkim/wrong-place',
        message: again ? `${name} has _domainkey in it twice` : `${name} has a key, and is not below _domainkey`,
        consequence: 'Verifiers ask for SELECTOR._domainkey.DOMAIN, and find no key.',
        fix: [`write it at ${selector}._domainkey.${zone}`],
      })
    }
  },
}

/** Problems of the parser that a rule of their name speaks of. */
const OWN = new Set([
  'dkim/syntax',
  'dkim/key-missing',
  'dkim/key-unreadable',
  'dkim/key-short',
  'dkim/key-type',
  'dkim/hash',
  'dkim/service',
  'dkim/testing',
  'dkim/revoked',
  'dkim/obsolete-tag',
  'dkim/escaped-semicolon',
  'dkim/quotes-inside',
])

const codeFor = (kind: string): string => (OWN.has(`dkim/${kind}`) ? `dkim/${kind}` : 'dkim/syntax')

export const TEST_KEY = '11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo='

export const OTHER_KEY = 'O2onvM62pC1io6jQKm8Nc2UyFXcd4kOmOsBIoYtZ2ik='

export const GOOD = `s1._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`

/** The kept keys whose selector has key records, with these. */
export function keptKeys(cx: Context): { kept: KeptKey; records: RecordId[] }[] {
  return cx.around.keys!.flatMap((kept) => {
    const name = named(cx.zones, kept.owner)
    const records =
      name === NONE || !cx.isAbout(name) || cx.zones.cut(name) !== NONE ? [] : cx.zones.records(name, TYPE.TXT)
    return records.length > 0 ? [{ kept, records }] : []
  })
}

export function hasKeptKeys(cx: Context): boolean {
  return (cx.around.keys?.length ?? 0) > 0
}

export function keptAs(half: { key: string } | { unreadable: string }): KeptKey {
  return {
    owner: 's1._domainkey.hollowmere.example.',
    file: 'keys/s1._domainkey.hollowmere.example.pem',
    publicHalf: async () => half,
  }
}
