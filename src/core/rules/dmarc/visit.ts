/** Policies for mail that fails: what is wrong inside a DMARC record, where it stands, and which domains have none. */
import { type DmarcRecord, isDmarc, readDmarc, strictness, withTags } from '../../mail/dmarc/record.ts'
import { nextStep } from '../../mail/dmarc/steps.ts'
import { letsSend, readSpf } from '../../mail/spf/record.ts'
import type { TextProblem } from '../../mail/tags.ts'
import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { bare, labelsOf, type Name } from '../../names/name.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { hasKeys, recordsOf, spfAt } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { corrected, line, reportText, TextMemory, textLine } from '../text.ts'
import { SCOPED, TAGGED_TEXT } from '../traits.ts'

interface Read {
  text: string
  isPolicy: boolean
  record: DmarcRecord
  problems: TextProblem[]
}

export const READ = new TextMemory<Read>((text) => ({ text, isPolicy: isDmarc(text), ...readDmarc(text) }))

export const isAt = ({ tree }: Zones, name: NameId, label: string): boolean =>
  tree.labelOctet(name, 0) === 0x5f && tree.labelText(name) === label

/** A name where a domain says that it takes another’s reports. */
function isConsent(zones: Zones, owner: NameId): boolean {
  const { tree } = zones
  for (let above = tree.parent(owner); above > ROOT; above = tree.parent(above))
    if (isAt(zones, above, '_report') && isAt(zones, tree.parent(above), '_dmarc')) return true
  return false
}

const isSound = (text: string): boolean => readDmarc(text).problems.length === 0

/** A text that was meant to be a policy, by what is in it. */
const meantAsPolicy = (text: string): boolean =>
  /dmarc/i.test(text) || /(?:^|;)\s*p\s*=\s*(?:none|quarantine|reject)\b/i.test(text)

const CONSEQUENCES: Record<string, string> = {
  syntax: 'Receivers pass it over: the domain has no policy.',
  policy: 'What was meant does not happen.',
  'tag-value': 'Receivers act as if the tag were not there, or pass the record over.',
  'unknown-tag': 'It changes nothing.',
  'report-address': 'No reports come.',
}

/** The domain that a `_dmarc` is for. */
export const domainOf = (zones: Zones, owner: NameId): NameId => zones.tree.parent(owner)

/** Whether a name neither sends nor receives, by what it says itself. */
export function doesNoMail(zones: Zones, name: NameId): boolean {
  const spf = name === NONE ? undefined : spfAt(zones, name)
  const mx = zones.records(name, TYPE.MX)
  return (
    spf !== undefined &&
    readSpf(spf).problems.length === 0 &&
    !letsSend(spf) &&
    mx.every((record) => zones.target(record) === ROOT)
  )
}

export const VISIT: Rule['visit'] = {
  set: {
    [TYPE.TXT]: {
      when: TAGGED_TEXT | SCOPED,
      visit(set, cx) {
        const { zones } = cx
        const atPolicy = isAt(zones, set.owner, '_dmarc')
        for (const record of set.records) {
          const read = READ.of(zones, record)
          if (!read.isPolicy && !(atPolicy && meantAsPolicy(read.text))) continue
          if (isConsent(zones, set.owner)) continue
          if (!atPolicy) {
            cx.memory((): RecordId[] => []).push(record)
            continue
          }
          for (const problem of read.problems) {
            const code = CODES[problem.kind] ?? 'dmarc/syntax'
            reportText(cx, record, problem, {
              code,
              message: `policy at ${cx.name(set.owner)}: ${problem.message}`,
              consequence: CONSEQUENCES[problem.kind],
              fix: corrected(cx, record, read.text, problem, isSound),
            })
          }
          if (read.isPolicy) ofPolicy(cx, record, domainOf(zones, set.owner), set.zone, read)
        }
      },
    },
  },
  async finish(cx) {
    const astray = cx.memory((): RecordId[] => [])
    if (astray.length === 0) return
    const { zones } = cx
    const aliased = new Set(
      recordsOf(zones, TYPE.CNAME)
        .filter((record) => isAt(zones, zones.owner(record), '_dmarc'))
        .map((record) => zones.target(record)),
    )
    for (const record of astray) {
      const owner = zones.owner(record)
      // A wildcard’s policy is another rule’s.
      if (aliased.has(owner) || zones.tree.isWildcard(owner)) continue
      const labels = labelsOf(cx.name(owner))
      const domain = /^_?d-?marc/i.test(labels[0]) ? labels.slice(1) : labels
      cx.report({
        code: 'dmarc/wrong-place',
        record,
        part: 'owner',
        message: `${cx.name(owner)} has a DMARC policy, and is not a _dmarc`,
        consequence: 'Receivers ask for _dmarc.DOMAIN, and find no policy.',
        fix: [textLine(`_dmarc.${domain.join('.')}.`, READ.of(zones, record).text)],
      })
    }
  },
}

/** What there is to say of a policy that receivers can read. */
function ofPolicy(cx: Context, record: RecordId, domain: NameId, zone: Zone, { text, record: policy }: Read): void {
  const { zones } = cx
  const name = (): Name => cx.name(domain)
  const whole = { start: 0, end: text.length }
  const tag = (key: string): { start: number; end: number } => policy.tags.find((each) => each.name === key) ?? whole
  if (policy.rua.length === 0 && policy.policy !== undefined)
    reportText(cx, record, whole, {
      code: 'dmarc/no-reports',
      severity: doesNoMail(zones, domain) ? 'advice' : 'warning',
      message: `the policy of ${name()} has no rua=`,
      consequence: 'Nobody learns who sends in its name, or that its own mail fails.',
      fix: [line(cx, record, `${text.trimEnd().replace(/;$/, '')}; rua=mailto:ADDRESS`)],
    })
  if (
    policy.policy === 'none' &&
    policy.tags.some((each) => each.name === 'p' && each.value.toLowerCase() === 'none') &&
    !policy.testing
  ) {
    const step = nextStep(text, { reports: ['mailto:ADDRESS'] })
    reportText(cx, record, tag('p'), {
      code: 'dmarc/monitoring-only',
      message: `the policy of ${name()} only watches`,
      consequence: 'Forged mail in its name is delivered as before.',
      fix: [
        'text' in step
          ? `when ${step.first[0]}: bramblefront write dmarc ${bare(name())} --next`
          : 'put the record right first',
      ],
    })
  }
  for (const [key, value] of [
    ['sp', policy.below],
    ['np', policy.missing],
  ] as const)
    if (value !== undefined && strictness(value) < strictness(policy.policy))
      reportText(cx, record, tag(key), {
        code: 'dmarc/weaker-below',
        message: `the policy of ${name()} is ${policy.policy}, and ${key}=${value} is weaker for names ${key === 'np' ? 'that do not exist' : 'below it'}`,
        consequence: `Who wants to forge takes a name below ${bare(name())}.`,
        fix: [line(cx, record, withTags(text, { [key]: undefined }))],
      })
  if (policy.percent < 100 && policy.policy !== 'none' && policy.policy !== undefined)
    reportText(cx, record, tag('pct'), {
      code: 'dmarc/partial',
      message: `the policy of ${name()} is applied to ${policy.percent} of 100 messages that fail`,
      consequence: 'The rest is delivered. Receivers that follow the successor of RFC 7489 apply it to all.',
      fix: [`when nothing of yours has been caught: bramblefront write dmarc ${bare(name())} --next`],
    })
  if (policy.policy === 'quarantine' || policy.policy === 'reject')
    cannotPass(cx, record, domain, zone, policy.policy, tag('p'))
}

/** A policy on a domain that sends, where nothing could pass with its name. */
function cannotPass(
  cx: Context,
  record: RecordId,
  domain: NameId,
  zone: Zone,
  policy: string,
  at: { start: number; end: number },
): void {
  const { zones } = cx
  if (zone.complete === false || hasKeys(zones, domain) || zones.first(domain) === NONE) return
  const spf = spfAt(zones, domain)
  const mx = zones.records(domain, TYPE.MX)
  const receives = mx.some((each) => zones.target(each) !== ROOT)
  // Without exchange and without SPF, nothing says that it is meant to send; an SPF record that lets somebody send may align.
  if (!receives || (spf !== undefined && letsSend(spf)) || (spf !== undefined && readSpf(spf).problems.length > 0))
    return
  // An SPF record that lets nobody send says that the domain only receives.
  const onlyReceives = spf !== undefined
  reportText(cx, record, at, {
    code: 'dmarc/cannot-pass',
    severity: onlyReceives ? 'advice' : undefined,
    message: `${cx.name(domain)} takes mail and has p=${policy}, and neither ${spf === undefined ? 'an SPF record' : 'an SPF record that lets anybody send'} nor a key`,
    consequence:
      policy === 'reject' ? 'Receivers refuse all mail from it.' : 'Receivers put all mail from it aside as suspect.',
    fix:
      spf === undefined
        ? [textLine(cx.name(domain), 'v=spf1 mx ~all'), 'or publish the key that its mail is signed with']
        : [
            'leave it so, if the domain only receives; else list who sends in the SPF record, or publish the key that its mail is signed with',
          ],
  })
}

export const RUA = 'rua=mailto:dmarc@larkpost.example'

export const policy = (text: string): string => `_dmarc TXT "${text}"`

/** Which rule speaks of a problem of the parser. */
const CODES: Record<string, string> = {
  syntax: 'dmarc/syntax',
  policy: 'dmarc/policy',
  'tag-value': 'dmarc/tag-value',
  'unknown-tag': 'dmarc/unknown-tag',
  'report-address': 'dmarc/report-address',
}

/** The organizational domain of names, by the public suffix list; loaded where a name is asked for that the list could have something to say of. */
export async function organizations(): Promise<(name: Name) => Name> {
  const { organizationalDomain } = await import('../../names/public-suffix.ts')
  return organizationalDomain
}
