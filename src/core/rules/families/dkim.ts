/** Keys that mail is signed with: what is wrong inside a key record, and where it stands. */
import { locate, MISSING, UNKNOWN } from '../../knowledge/answer.ts'
import { type KeyRecord, looksLikeKey, parseKey, toBase64 } from '../../mail/dkim/key.ts'
import { isSpf, letsSend } from '../../mail/spf/record.ts'
import type { TextProblem } from '../../mail/tags.ts'
import { DROPPED, type RecordId, type Zones } from '../../model/zones.ts'
import { bare, foldName, labelsOf } from '../../names/name.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { hasKeys, isPrivate, isReverse, isSelector, named, recordsOf, spfAt } from '../look.ts'
import type { Context, KeptKey, Rule, Severity } from '../rule.ts'
import { asDeed, hasSpf, line, reportText, TextMemory } from '../text.ts'
import { AT_TOP, SELECTOR, TAGGED_TEXT } from '../traits.ts'

interface Read {
  text: string
  isKey: boolean
  record: KeyRecord
  problems: (TextProblem & { severity?: Severity })[]
}

const READ = new TextMemory<Read>((text) => ({ text, isKey: looksLikeKey(text), ...parseKey(text) }))

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
  for (const record of recordsOf(zones, TYPE.CNAME)) if (isSelector(zones, zones.owner(record))) found.add(zones.target(record))
  return found
}

const VISIT: Rule['visit'] = {
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
              consequence: problem.kind === 'key-short' ? shortBy[problem.severity ?? 'warning'] : CONSEQUENCES[problem.kind],
              fix:
                problem.kind === 'escaped-semicolon'
                  ? [line(cx, record, text.replace(/\\;/g, ';'))]
                  : [problem.kind === 'revoked' ? 'take the record out, once no mail signed with it is on its way any more' : asDeed(problem.wanted)],
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

const TEST_KEY = '11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo='
const OTHER_KEY = 'O2onvM62pC1io6jQKm8Nc2UyFXcd4kOmOsBIoYtZ2ik='
const GOOD = `s1._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`
const RSA1024 =
  'MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDwIRP/UC3SBsEmGqZ9ZJW3/DkMoGeLnQg1fWn7/zYtIxN2SnFCjxOCKG9v3b4jYfcTNh5ijSsq631uBItLa7od+v/RtdC2UzJ1lWT947qR+Rcac2gbto/NMqJ0fzfVjH4OuKhitdY9tf6mcwGjaNBcWToIMmPSPDdQPNUYckcQ2QIDAQAB'

export const dkimWrongPlace: Rule = {
  code: 'dkim/wrong-place',
  severity: 'warning',
  source: 'RFC 6376 §3.6.2.1',
  title: 'a key that is not at a selector below _domainkey',
  why: 'Verifiers build the name from the selector and the domain in the signature. A key anywhere else is not found.',
  remedy: 'Write it at SELECTOR._domainkey below the domain that signs.',
  bad: [
    `@ TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1.domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkeys TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkey._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
  ],
  good: [
    `march2005.reykjavik._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    GOOD,
    `s1._domainkey CNAME key\nkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`,
    '_domainkey TXT "o=-"',
    '_adsp._domainkey TXT "dkim=all"',
  ],
  visit: VISIT,
}

export const dkimSyntax: Rule = {
  code: 'dkim/syntax',
  severity: 'error',
  source: 'RFC 6376 §3.2, §3.6.1',
  title: 'a key record that is no list of tags, or whose version is wrong',
  why: 'Verifiers that cannot read the record have no key: signed mail counts as not signed.',
  remedy: 'Write v=DKIM1; k=rsa; p=KEY, each tag once.',
  bad: [
    `s1._domainkey TXT "v=DKIM2; k=ed25519; p=${TEST_KEY}"`,
    `s1._domainkey TXT "k=ed25519; v=DKIM1; p=${TEST_KEY}"`,
    `s1._domainkey TXT "v=DKIM1; k=ed25519; k=ed25519; p=${TEST_KEY}"`,
  ],
  good: [GOOD, `s1._domainkey TXT "k=ed25519; p=${TEST_KEY};"`],
  visit: VISIT,
}

export const dkimKeyMissing: Rule = {
  code: 'dkim/key-missing',
  severity: 'error',
  source: 'RFC 6376 §3.6.1',
  title: 'a key record without p=',
  why: 'The key itself is the one thing that must be there.',
  remedy: 'Write p= and the public key in base64.',
  bad: ['s1._domainkey TXT "v=DKIM1; k=rsa"'],
  good: [GOOD],
  visit: VISIT,
}

export const dkimKeyUnreadable: Rule = {
  code: 'dkim/key-unreadable',
  severity: 'error',
  source: 'RFC 6376 §3.6.1, RFC 8463 §4',
  title: 'a key that is no public key of its type',
  why: 'A key that was cut off by a form, or pasted with the lines of its PEM file, cannot be used.',
  remedy: 'Write the whole base64 of the public key, and nothing else.',
  bad: [
    's1._domainkey TXT "v=DKIM1; k=rsa; p=MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCB"',
    's1._domainkey TXT "v=DKIM1; k=rsa; p=-----BEGIN PUBLIC KEY-----"',
    `s1._domainkey TXT "v=DKIM1; k=ed25519; p=MCowBQYDK2VwAyEA${TEST_KEY}"`,
    `s1._domainkey TXT "v=DKIM1; k=rsa; p=${TEST_KEY}"`,
  ],
  good: [GOOD],
  visit: VISIT,
}

export const dkimKeyShort: Rule = {
  code: 'dkim/key-short',
  severity: 'warning',
  source: 'RFC 8301 §3.2',
  title: 'an RSA key that is too short, or longer than verifiers must cope with',
  why: 'Verifiers must refuse keys under 1024 bits, signers should use 2048 at the least, and nobody need cope with more than 4096.',
  remedy: 'Make a new key of 2048 bits at another selector, sign with it, and take this one out a week later.',
  bad: [`s1._domainkey TXT "v=DKIM1; k=rsa; p=${RSA1024}"`],
  good: [GOOD],
  visit: VISIT,
}

export const dkimKeyType: Rule = {
  code: 'dkim/key-type',
  severity: 'warning',
  source: 'RFC 6376 §3.6.1, RFC 8463',
  title: 'a key type that verifiers do not know',
  why: 'Signatures with a key of an unknown type are passed over.',
  remedy: 'Write k=rsa or k=ed25519.',
  bad: [`s1._domainkey TXT "v=DKIM1; k=ecdsa; p=${TEST_KEY}"`],
  good: [GOOD],
  visit: VISIT,
}

export const dkimHash: Rule = {
  code: 'dkim/hash',
  severity: 'error',
  source: 'RFC 8301 §3.1',
  title: 'h= leaves sha1 alone',
  why: 'Verifiers must not accept SHA-1 any more, and with h=sha1 may accept nothing else.',
  remedy: 'Take h= out.',
  bad: [`s1._domainkey TXT "v=DKIM1; h=sha1; k=ed25519; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1; h=sha256; k=ed25519; p=${TEST_KEY}"`],
  visit: VISIT,
}

export const dkimService: Rule = {
  code: 'dkim/service',
  severity: 'warning',
  source: 'RFC 6376 §3.6.1',
  title: 's= names neither mail nor everything',
  why: 'The key is then for another service, and signatures of mail with it fail.',
  remedy: 'Take s= out.',
  bad: [`s1._domainkey TXT "v=DKIM1; s=chat; k=ed25519; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1; s=email; k=ed25519; p=${TEST_KEY}"`, `s1._domainkey TXT "v=DKIM1; s=*; k=ed25519; p=${TEST_KEY}"`],
  visit: VISIT,
}

export const dkimTesting: Rule = {
  code: 'dkim/testing',
  severity: 'advice',
  source: 'RFC 6376 §3.6.1',
  title: 't=y was left on',
  why: 'It says that the domain is only trying DKIM out: verifiers may treat its mail as if it were not signed.',
  remedy: 'Take it out once signatures verify.',
  bad: [`s1._domainkey TXT "v=DKIM1; t=y; k=ed25519; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1; t=s; k=ed25519; p=${TEST_KEY}"`],
  visit: VISIT,
}

export const dkimRevoked: Rule = {
  code: 'dkim/revoked',
  severity: 'advice',
  source: 'RFC 6376 §3.6.1',
  title: 'a key that is revoked',
  why: 'An empty p= says that the key is no longer good. It may stand there on purpose, and can go when no mail signed with it is on its way.',
  remedy: 'Take the record out after a week.',
  bad: ['s1._domainkey TXT "v=DKIM1; p="'],
  good: [GOOD, '*._domainkey TXT "v=DKIM1; p="'],
  visit: VISIT,
}

export const dkimSeveral: Rule = {
  code: 'dkim/several',
  severity: 'error',
  source: 'RFC 6376 §3.6.2.2',
  title: 'more than one text at a selector',
  why: 'What verifiers do with several is not defined: some take the first that comes, some none.',
  remedy: 'Keep one; another key needs another selector.',
  bad: [`${GOOD}\ns1._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`],
  good: [`${GOOD}\ns2._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`],
  visit: VISIT,
}

export const dkimObsoleteTag: Rule = {
  code: 'dkim/obsolete-tag',
  severity: 'advice',
  source: 'RFC 6376, which took it out of RFC 4871',
  title: 'the tag g=',
  why: 'It is no part of the standard any more. Old verifiers take an empty g= to mean that nobody may sign.',
  remedy: 'Take it out.',
  bad: [`s1._domainkey TXT "v=DKIM1; g=*; k=ed25519; p=${TEST_KEY}"`],
  good: [GOOD],
  visit: VISIT,
}

export const dkimEscapedSemicolon: Rule = {
  code: 'dkim/escaped-semicolon',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'a backslash before a semicolon in the published key',
  why: 'A form that needs no escapes was given a value with them. In a zone file \\; is just a semicolon; here the backslash itself is published.',
  remedy: 'Write semicolons alone.',
  bad: [`s1._domainkey TXT "v=DKIM1\\\\; k=ed25519\\\\; p=${TEST_KEY}"`],
  good: [`s1._domainkey TXT "v=DKIM1\\; k=ed25519\\; p=${TEST_KEY}"`],
  visit: VISIT,
}

export const dkimQuotesInside: Rule = {
  code: 'dkim/quotes-inside',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'quotes in the published key',
  why: 'The value was pasted with its quotes, or in two quoted pieces, into a form that quotes by itself. The quotes are then part of the key.',
  remedy: 'Write the value without quotes inside.',
  silences: ['txt/stray-quotes'],
  bad: [`s1._domainkey TXT "\\"v=DKIM1; k=ed25519; p=${TEST_KEY}\\""`],
  good: [`s1._domainkey TXT "v=DKIM1; k=ed25519; " "p=${TEST_KEY}"`],
  visit: VISIT,
}

/** Keys at selectors, each with its octets in base64. */
function publishedKeys(cx: Context): Map<string, RecordId[]> {
  const { zones } = cx
  const found = new Map<string, RecordId[]>()
  for (let record = 0; record < zones.count; record++) {
    if (zones.type(record) !== TYPE.TXT || zones.flags(record) & DROPPED || !isSelector(zones, zones.owner(record))) continue
    const { key } = READ.of(zones, record).record
    if (!key || key.length === 0) continue
    const text = toBase64(key)
    found.set(text, [...(found.get(text) ?? []), record])
  }
  return found
}

export const dkimSameKey: Rule = {
  code: 'dkim/same-key',
  severity: 'advice',
  source: 'RFC 6376 §3.1',
  title: 'one key under two selectors, or in two domains',
  why: 'Who gets hold of the private key signs for all of them, and revoking it in one place leaves the others.',
  remedy: 'Make a key for each; or an alias to the one place where it stands.',
  bad: [`${GOOD}\ns2._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`],
  good: [`${GOOD}\ns2._domainkey TXT "v=DKIM1; k=ed25519; p=${OTHER_KEY}"`, `${GOOD}\ns2._domainkey CNAME s1._domainkey`],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SELECTOR,
        visit(_, cx) {
          cx.memory(() => ({ seen: false })).seen = true
        },
      },
    },
    finish(cx) {
      if (!cx.memory(() => ({ seen: false })).seen) return
      for (const [first, ...others] of publishedKeys(cx).values()) {
        const again = others.find((record) => cx.zones.owner(record) !== cx.zones.owner(first))
        if (again === undefined || (!cx.isAbout(cx.zones.owner(again)) && !cx.isAbout(cx.zones.owner(first)))) continue
        cx.report({
          record: again,
          part: 0,
          message: `the key at ${cx.name(cx.zones.owner(again))} is also that of ${cx.name(cx.zones.owner(first))} (${cx.where(first, again)})`,
          consequence: 'Revoking it in one place leaves the other.',
          fix: ['make a key of its own: bramblefront write dkim DOMAIN --selector SELECTOR'],
        })
      }
    },
  },
}

/** The kept keys whose selector has key records, with these. */
function keptKeys(cx: Context): { kept: KeptKey; records: RecordId[] }[] {
  return cx.around.keys!.flatMap((kept) => {
    const name = named(cx.zones, kept.owner)
    const records = name === NONE || !cx.isAbout(name) || cx.zones.cut(name) !== NONE ? [] : cx.zones.records(name, TYPE.TXT)
    return records.length > 0 ? [{ kept, records }] : []
  })
}

function hasKeptKeys(cx: Context): boolean {
  return (cx.around.keys?.length ?? 0) > 0
}

function keptAs(half: { key: string } | { unreadable: string }): KeptKey {
  return { owner: 's1._domainkey.hollowmere.example.', file: 'keys/s1._domainkey.hollowmere.example.pem', publicHalf: async () => half }
}

export const dkimPrivateKeyDiffers: Rule = {
  code: 'dkim/private-key-differs',
  severity: 'error',
  source: 'RFC 6376 §3.6',
  title: 'the private key in the workspace is not that of the published key',
  why: 'What is signed with the one cannot be verified with the other: every signature fails.',
  remedy: 'Publish the public half of the key that signs.',
  bad: [
    {
      zones: { 'hollowmere.example': GOOD },
      around: { keys: [keptAs({ key: OTHER_KEY })] },
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': GOOD },
      around: { keys: [keptAs({ key: TEST_KEY })] },
    },
  ],
  visit: {
    applies: hasKeptKeys,
    async finish(cx) {
      for (const { kept, records } of keptKeys(cx)) {
        const half = await kept.publicHalf()
        if ('unreadable' in half) continue
        for (const record of records) {
          const { key } = READ.of(cx.zones, record).record
          if (!key || key.length === 0 || toBase64(key) === half.key) continue
          cx.report({
            record,
            part: 0,
            message: `the key at ${cx.name(cx.zones.owner(record))} is not that of ${kept.file}`,
            consequence: 'What is signed with that private key fails.',
            fix: [line(cx, record, `v=DKIM1; k=${half.key.length === 44 ? 'ed25519' : 'rsa'}; p=${half.key}`)],
          })
        }
      }
    },
  },
}

export const dkimPrivateKeyUnreadable: Rule = {
  code: 'dkim/private-key-unreadable',
  severity: 'warning',
  source: 'practice',
  title: 'a private key in the workspace that cannot be read',
  why: 'Whether what is published is its other half cannot be told; nor could a mail host sign with it.',
  remedy: 'Put the right key there, or take the file away.',
  bad: [{ zones: { 'hollowmere.example': GOOD }, around: { keys: [keptAs({ unreadable: 'no private key of RSA or Ed25519' })] } }],
  good: [{ zones: { 'hollowmere.example': GOOD }, around: { keys: [keptAs({ key: TEST_KEY })] } }],
  visit: {
    applies: hasKeptKeys,
    async finish(cx) {
      for (const { kept, records } of keptKeys(cx)) {
        const half = await kept.publicHalf()
        if ('unreadable' in half)
          cx.report({
            record: records[0],
            part: 'owner',
            message: `${kept.file}, the private key of ${cx.name(cx.zones.owner(records[0]))}, cannot be read: ${half.unreadable}`,
            consequence: 'It cannot be told whether the published key is its other half.',
            fix: [`put the right key into ${kept.file}, or take the file away`],
          })
      }
    },
  },
}

export const dkimNone: Rule = {
  code: 'dkim/none',
  severity: 'advice',
  source: 'practice',
  title: 'a domain that sends and has no key',
  why: 'SPF breaks when mail is forwarded; a signature goes with it. Large receivers want both from whoever sends much.',
  remedy: 'Let the mail host sign, and publish its key, or an alias to it.',
  bad: ['@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"'],
  good: [
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"\n${GOOD}`,
    '@ TXT "v=spf1 -all"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:d@larkpost.example"',
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: AT_TOP,
        visit(set, cx) {
          const { zones } = cx
          if (!hasSpf(zones, set.owner) || set.zone.complete === false || isPrivate(cx.zones, set.zone) || isReverse(set.zone)) return
          if (!letsSend(spfAt(zones, set.owner) ?? '') || hasKeys(zones, set.owner)) return
          const record = set.records.find((each) => isSpf(READ.of(zones, each).text))
          if (record === undefined) return
          cx.report({
            record,
            message: `${cx.name(set.owner)} sends mail, and has no DKIM key`,
            consequence: 'Forwarded mail fails SPF, and nothing else speaks for it.',
            fix: [`ask whoever sends for their selector; for a host of your own: bramblefront write dkim ${bare(foldName(set.zone.name))} --selector ferry1`],
          })
        },
      },
    },
  },
}

export const dkimAliasWithoutKey: Rule = {
  code: 'dkim/alias-without-key',
  severity: 'error',
  source: 'RFC 6376 §3.6.2',
  title: 'an alias at a selector whose target has no key',
  why: 'Verifiers follow the alias and find nothing: signatures with this selector fail.',
  remedy: 'Write the key at the target, or the target that the service names.',
  silences: ['cname/target-missing'],
  bad: ['s1._domainkey CNAME key', 's1._domainkey CNAME key\nkey A 192.0.2.10'],
  good: [`s1._domainkey CNAME key\nkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`, 's1._domainkey CNAME s1.keys.larkpost.example.'],
  visit: {
    set: {
      [TYPE.CNAME]: { when: SELECTOR, visit: (set, cx) => withoutText(cx, set.records[0], 'key') },
    },
  },
}

/** Reports an alias whose target is known and has no text. */
export function withoutText(cx: Context, record: RecordId, what: 'key' | 'policy'): void {
  const { zones } = cx
  // Where the target is an alias again, what it leads to is that alias’s matter.
  const node = locate(zones, zones.target(record))
  if (node === UNKNOWN || (node !== MISSING && (zones.has(node, TYPE.TXT) || zones.hasCname(node) || zones.cut(node) !== NONE))) return
  const target = cx.name(zones.target(record))
  cx.report({
    record,
    part: 0,
    message: `${cx.name(zones.owner(record))} is an alias of ${target}, which ${node === MISSING ? 'does not exist' : 'has no text'}`,
    consequence: what === 'key' ? 'Verifiers find no key: signatures with this selector fail.' : 'Receivers find no policy: the domain is undefended.',
    fix: [`write the ${what} at ${target}, or another target`],
  })
}
