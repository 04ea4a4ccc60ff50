/** Policies for mail that fails: what is wrong inside a DMARC record, where it stands, and which domains have none. */
import { followAliases, locateName, locateWire, UNKNOWN } from '../../knowledge/answer.ts'
import { consentName } from '../../mail/dmarc/discovery.ts'
import { type DmarcRecord, isDmarc, readDmarc, strictness, withTags } from '../../mail/dmarc/record.ts'
import { nextStep } from '../../mail/dmarc/steps.ts'
import { letsSend, readSpf } from '../../mail/spf/record.ts'
import type { TextProblem } from '../../mail/tags.ts'
import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { bare, foldName, isAtOrBelow, labelsOf, type Name, nameToWire } from '../../names/name.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { dmarcBelow, hasKeys, isOfMail, named, recordsOf, spfAt } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { corrected, hasSpf, line, reportText, TextMemory, textLine } from '../text.ts'
import { AT_TOP, SCOPED, TAGGED_TEXT } from '../traits.ts'
import { withoutText } from './dkim.ts'

interface Read {
  text: string
  isPolicy: boolean
  record: DmarcRecord
  problems: TextProblem[]
}

const READ = new TextMemory<Read>((text) => ({ text, isPolicy: isDmarc(text), ...readDmarc(text) }))

const isAt = ({ tree }: Zones, name: NameId, label: string): boolean => tree.labelOctet(name, 0) === 0x5f && tree.labelText(name) === label
/** A name where a domain says that it takes another’s reports. */
function isConsent(zones: Zones, owner: NameId): boolean {
  const { tree } = zones
  for (let above = tree.parent(owner); above > ROOT; above = tree.parent(above))
    if (isAt(zones, above, '_report') && isAt(zones, tree.parent(above), '_dmarc')) return true
  return false
}
const isSound = (text: string): boolean => readDmarc(text).problems.length === 0

/** A text that was meant to be a policy, by what is in it. */
const meantAsPolicy = (text: string): boolean => /dmarc/i.test(text) || /(?:^|;)\s*p\s*=\s*(?:none|quarantine|reject)\b/i.test(text)

const CONSEQUENCES: Record<string, string> = {
  syntax: 'Receivers pass it over: the domain has no policy.',
  policy: 'What was meant does not happen.',
  'tag-value': 'Receivers act as if the tag were not there, or pass the record over.',
  'unknown-tag': 'It changes nothing.',
  'report-address': 'No reports come.',
}

/** The domain that a `_dmarc` is for. */
const domainOf = (zones: Zones, owner: NameId): NameId => zones.tree.parent(owner)

/** Whether a name neither sends nor receives, by what it says itself. */
function doesNoMail(zones: Zones, name: NameId): boolean {
  const spf = name === NONE ? undefined : spfAt(zones, name)
  const mx = zones.records(name, TYPE.MX)
  return spf !== undefined && readSpf(spf).problems.length === 0 && !letsSend(spf) && mx.every((record) => zones.target(record) === ROOT)
}

const VISIT: Rule['visit'] = {
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
  if (policy.policy === 'none' && policy.tags.some((each) => each.name === 'p' && each.value.toLowerCase() === 'none') && !policy.testing) {
    const step = nextStep(text, { reports: ['mailto:ADDRESS'] })
    reportText(cx, record, tag('p'), {
      code: 'dmarc/monitoring-only',
      message: `the policy of ${name()} only watches`,
      consequence: 'Forged mail in its name is delivered as before.',
      fix: ['text' in step ? `when ${step.first[0]}: bramblefront write dmarc ${bare(name())} --next` : 'put the record right first'],
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
  if (policy.policy === 'quarantine' || policy.policy === 'reject') cannotPass(cx, record, domain, zone, policy.policy, tag('p'))
}

/** A policy on a domain that sends, where nothing could pass with its name. */
function cannotPass(cx: Context, record: RecordId, domain: NameId, zone: Zone, policy: string, at: { start: number; end: number }): void {
  const { zones } = cx
  if (zone.complete === false || hasKeys(zones, domain) || zones.first(domain) === NONE) return
  const spf = spfAt(zones, domain)
  const mx = zones.records(domain, TYPE.MX)
  const receives = mx.some((each) => zones.target(each) !== ROOT)
  // Without exchange and without SPF, nothing says that it is meant to send; an SPF record that lets somebody send may align.
  if (!receives || (spf !== undefined && letsSend(spf)) || (spf !== undefined && readSpf(spf).problems.length > 0)) return
  // An SPF record that lets nobody send says that the domain only receives.
  const onlyReceives = spf !== undefined
  reportText(cx, record, at, {
    code: 'dmarc/cannot-pass',
    severity: onlyReceives ? 'advice' : undefined,
    message: `${cx.name(domain)} takes mail and has p=${policy}, and neither ${spf === undefined ? 'an SPF record' : 'an SPF record that lets anybody send'} nor a key`,
    consequence: policy === 'reject' ? 'Receivers refuse all mail from it.' : 'Receivers put all mail from it aside as suspect.',
    fix:
      spf === undefined
        ? [textLine(cx.name(domain), 'v=spf1 mx ~all'), 'or publish the key that its mail is signed with']
        : ['leave it so, if the domain only receives; else list who sends in the SPF record, or publish the key that its mail is signed with'],
  })
}

const RUA = 'rua=mailto:dmarc@larkpost.example'
const policy = (text: string): string => `_dmarc TXT "${text}"`

export const dmarcWrongPlace: Rule = {
  code: 'dmarc/wrong-place',
  severity: 'warning',
  source: 'RFC 7489 §6.1',
  title: 'a policy that does not stand at a _dmarc',
  why: 'Receivers look for _dmarc in front of the domain, and nowhere else.',
  remedy: 'Write it at _dmarc.',
  bad: [`@ TXT "v=DMARC1; p=none; ${RUA}"`, `dmarc TXT "v=DMARC1; p=none; ${RUA}"`],
  good: [policy(`v=DMARC1; p=none; ${RUA}`), '*._report._dmarc TXT "v=DMARC1"', `_dmarc CNAME policy\npolicy TXT "v=DMARC1; p=none; ${RUA}"`],
  visit: VISIT,
}

export const dmarcSyntax: Rule = {
  code: 'dmarc/syntax',
  severity: 'error',
  source: 'RFC 7489 §6.3, §6.4',
  title: 'a policy that receivers do not take for one',
  why: 'It must begin with v=DMARC1, in these letters, and be a list of tags. Anything else is passed over.',
  remedy: 'Begin with v=DMARC1; and part the tags with semicolons.',
  silences: ['dmarc/policy', 'dmarc/no-reports'],
  bad: [policy(`p=none; ${RUA}`), policy(`v=dmarc1; p=none; ${RUA}`), policy(`p=none; v=DMARC1; ${RUA}`), policy(`v=DMARC1; p=none; ${RUA}; p=none`)],
  good: [policy(`v=DMARC1; p=none; ${RUA};`), policy(`v = DMARC1 ;p=none;${RUA}`), `${policy(`v=DMARC1; p=none; ${RUA}`)}\n_dmarc TXT "ferry-proof=41c2"`],
  visit: VISIT,
}

export const dmarcPolicy: Rule = {
  code: 'dmarc/policy',
  severity: 'error',
  source: 'RFC 7489 §6.3, §6.6.3, §7.1; RFC 9091',
  title: 'a policy that is missing or none of the three',
  why: 'With a valid rua, receivers act as for p=none; without one, they ignore the record.',
  remedy: 'Write p=none, p=quarantine or p=reject.',
  bad: [policy(`v=DMARC1; ${RUA}`), policy(`v=DMARC1; p=block; ${RUA}`), policy('v=DMARC1'), policy(`v=DMARC1; p=reject; sp=all; ${RUA}`)],
  good: [policy(`v=DMARC1; p=reject; sp=reject; np=reject; ${RUA}`), 'lakepass.example._report._dmarc TXT "v=DMARC1"'],
  visit: VISIT,
}

export const dmarcTagValue: Rule = {
  code: 'dmarc/tag-value',
  severity: 'error',
  source: 'RFC 7489 §6.3',
  title: 'a tag with a value that it cannot have',
  why: 'What receivers do then is not the same everywhere: some take the default, some drop the record.',
  remedy: 'Write one of its values.',
  bad: ['adkim=strict', 'aspf=x', 'fo=2', 'pct=150', 'ri=daily', 't=yes'].map((each) => policy(`v=DMARC1; p=none; ${RUA}; ${each}`)),
  good: [policy(`v=DMARC1; p=none; ${RUA}; adkim=s; aspf=r; fo=1:d; ri=3600; rf=afrf; psd=n`)],
  visit: VISIT,
}

export const dmarcUnknownTag: Rule = {
  code: 'dmarc/unknown-tag',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'a tag that receivers do not know',
  why: 'They pass it over. It is often a mis-typed one that was meant to do something.',
  remedy: 'Write the tag that was meant, or take it out.',
  bad: [policy(`v=DMARC1; p=none; ${RUA}; policy=reject`)],
  good: [policy(`v=DMARC1; p=none; ${RUA}; np=none; psd=n; t=n`)],
  visit: VISIT,
}

export const dmarcReportAddress: Rule = {
  code: 'dmarc/report-address',
  severity: 'warning',
  source: 'RFC 7489 §6.2',
  title: 'a report address that no reports reach',
  why: 'Addresses are URIs, parted by commas: mailto: in front, no “,” or “!” of their own.',
  remedy: 'Write mailto: and the address.',
  bad: [
    'dmarc@larkpost.example',
    'mailto:larkpost.example',
    'https://larkpost.example/reports',
    'mailto:d@larkpost.example!big',
    'mailto:d@larkpost.example,',
  ].map((each) => policy(`v=DMARC1; p=none; rua=${each}`)),
  good: [policy('v=DMARC1; p=none; rua=mailto:d@larkpost.example!10m,mailto:e@larkpost.example')],
  visit: VISIT,
}

export const dmarcNoReports: Rule = {
  code: 'dmarc/no-reports',
  severity: 'warning',
  source: 'RFC 7489 §6.3',
  title: 'a policy without an address for reports',
  why: 'Reports tell who sends in the domain’s name, and what of it passes. Without them, a stricter policy is a leap in the dark.',
  remedy: 'Add rua=mailto: and an address that somebody, or a service, reads.',
  bad: [policy('v=DMARC1; p=quarantine'), `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy('v=DMARC1; p=reject')}`],
  good: [policy(`v=DMARC1; p=quarantine; ${RUA}`)],
  visit: VISIT,
}

export const dmarcMonitoringOnly: Rule = {
  code: 'dmarc/monitoring-only',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'a policy that only watches',
  why: 'p=none asks for reports and changes nothing for mail. It is the first step, not the last.',
  remedy: 'When reports show that all your mail passes, take the next step: quarantine, then reject.',
  bad: [policy(`v=DMARC1; p=none; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; ${RUA}`)],
  visit: VISIT,
}

export const dmarcWeakerBelow: Rule = {
  code: 'dmarc/weaker-below',
  severity: 'warning',
  source: 'RFC 7489 §6.3',
  title: 'a weaker policy for the names below',
  why: 'Whoever forges mail takes a made-up name below the domain, which looks as good to people.',
  remedy: 'Take sp= (or np=) out: the domain’s own policy then counts for them.',
  bad: [policy(`v=DMARC1; p=reject; sp=none; ${RUA}`), policy(`v=DMARC1; p=reject; np=none; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; sp=reject; ${RUA}`)],
  visit: VISIT,
}

export const dmarcPartial: Rule = {
  code: 'dmarc/partial',
  severity: 'advice',
  source: 'RFC 7489 §6.3',
  title: 'a policy for a part of the mail only',
  why: 'pct is for trying a policy out. What is left over is delivered, and receivers that follow the newer rules do not look at it.',
  remedy: 'Take it out when the trial is over.',
  bad: [policy(`v=DMARC1; p=quarantine; pct=20; ${RUA}`)],
  good: [policy(`v=DMARC1; p=quarantine; pct=100; ${RUA}`)],
  visit: VISIT,
}

export const dmarcCannotPass: Rule = {
  code: 'dmarc/cannot-pass',
  severity: 'error',
  source: 'RFC 7489 §3.1',
  title: 'quarantine or reject on a domain of which no mail can pass',
  why: 'DMARC needs SPF or DKIM to pass with the domain’s own name. With neither, the policy hits all of its mail.',
  remedy: 'Publish who sends, or the key that signs, or step back to p=none.',
  silences: ['spf/missing'],
  bad: [
    `@ MX 10 mx.larkpost.example.\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
  ],
  good: [
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 -all"\ns1._domainkey CNAME s1.keys.larkpost.example.\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
    `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=reject; ${RUA}`)}`,
  ],
  visit: VISIT,
}

/** Which rule speaks of a problem of the parser. */
const CODES: Record<string, string> = {
  syntax: 'dmarc/syntax',
  policy: 'dmarc/policy',
  'tag-value': 'dmarc/tag-value',
  'unknown-tag': 'dmarc/unknown-tag',
  'report-address': 'dmarc/report-address',
}

/** The organizational domain of names, by the public suffix list; loaded where a name is asked for that the list could have something to say of. */
async function organizations(): Promise<(name: Name) => Name> {
  const { organizationalDomain } = await import('../../names/public-suffix.ts')
  return organizationalDomain
}

/** A policy, and the record by which it is a name's: the policy itself, or an alias of it. */
interface AskedFor {
  record: RecordId
  policy: RecordId
}

export const dmarcReportConsent: Rule = {
  code: 'dmarc/report-consent',
  severity: 'error',
  source: 'RFC 7489 §7.1',
  title: 'reports to another organization’s domain that does not say that it takes them',
  why: 'So that nobody can flood others with reports, receivers ask the destination for its consent, and send nothing without it.',
  remedy: 'Write the consent record in the destination’s zone.',
  bad: [
    {
      zones: {
        'hollowmere.example': policy('v=DMARC1; p=none; rua=mailto:dmarc@lakepass.example'),
        'lakepass.example': '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@lakepass.example"',
      },
    },
    {
      zones: {
        'hollowmere.example': '_dmarc CNAME _dmarc.lakepass.example.',
        'lakepass.example': '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@lakepass.example"',
      },
    },
  ],
  good: [
    {
      zones: {
        'hollowmere.example': policy('v=DMARC1; p=none; rua=mailto:dmarc@lakepass.example'),
        'lakepass.example':
          '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@lakepass.example"\n*._report._dmarc TXT "v=DMARC1"',
      },
    },
    policy(`v=DMARC1; p=none; ${RUA}`),
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: SCOPED,
        visit(set, cx) {
          if (isAt(cx.zones, set.owner, '_dmarc')) for (const record of set.records) cx.memory((): AskedFor[] => []).push({ record, policy: record })
        },
      },
      [TYPE.CNAME]: {
        when: SCOPED,
        visit(set, cx) {
          // The policy of the name that it is an alias of asks for reports of this one.
          if (!isAt(cx.zones, set.owner, '_dmarc')) return
          const { end } = followAliases(cx.zones, nameToWire(cx.name(set.owner)) as Uint8Array)
          const node = end ? locateWire(cx.zones, end) : UNKNOWN
          if (node < 0) return
          for (const policy of cx.zones.records(node, TYPE.TXT)) cx.memory((): AskedFor[] => []).push({ record: set.records[0], policy })
        },
      },
    },
    async finish(cx) {
      const { zones } = cx
      // Below most destinations nothing is kept: then there is nothing to ask of the kept zones.
      const nothingKept = new Map<Name, boolean>()
      const isOutside = (domain: Name): boolean => {
        const reports = `_report._dmarc.${domain}`
        if (!nothingKept.has(domain)) nothingKept.set(domain, locateName(zones, reports) === UNKNOWN && named(zones, reports) === NONE)
        return nothingKept.get(domain)!
      }
      const outside = cx
        .memory((): AskedFor[] => [])
        .flatMap(({ record, policy }) => {
          const read = READ.of(zones, policy)
          if (!read.isPolicy) return []
          return [...read.record.rua, ...read.record.ruf].flatMap((each) => {
            const { domain } = each
            if (domain === undefined || (cx.around.lookup === undefined && isOutside(domain))) return []
            const from = cx.name(domainOf(zones, zones.owner(record)))
            if (isAtOrBelow(domain, from)) return []
            return cx.around.lookup !== undefined || locateName(zones, consentName(from, domain)) !== UNKNOWN ? [{ record, policy, from, ...each, domain }] : []
          })
        })
      if (outside.length === 0) return
      const organizational = await organizations()
      for (const { record, policy, from, domain, start, end, uri } of outside) {
        if (foldName(organizational(from)) === foldName(organizational(domain))) continue
        const consent = consentName(from, domain)
        const node = locateName(zones, consent)
        if (node >= 0 && (zones.hasCname(node) || zones.records(node, TYPE.TXT).some((each) => READ.of(zones, each).isPolicy))) continue
        const isKept = node !== UNKNOWN
        if (!isKept && !(await refuses(cx, consent))) continue
        const report = {
          severity: isKept ? ('error' as const) : ('warning' as const),
          message: `${uri}: ${domain} does not say that it takes the reports of ${from}`,
          consequence: 'Receivers send no reports there.',
          fix: [textLine(consent, 'v=DMARC1')],
        }
        if (record === policy) reportText(cx, record, { start, end }, report)
        else cx.report({ record, part: 0, ...report })
      }
    },
  },
}

/** Whether a name outside the kept zones, where a domain would say that it takes reports, was asked for and says nothing of the kind. */
async function refuses({ around }: Context, consent: Name): Promise<boolean> {
  const found = await around.lookup?.(consent, 'TXT')
  if (!found) return false
  return 'data' in found ? !found.data.some(isDmarc) : found.trouble === 'no-name' || found.trouble === 'no-data'
}

export const dmarcMissing: Rule = {
  code: 'dmarc/missing',
  severity: 'warning',
  source: 'RFC 7489 §6.6.3',
  title: 'a domain with MX or SPF, and no policy at it or its organizational domain',
  why: 'Receivers cannot tell forged mail from the domain’s own, nobody gets reports, and large receivers refuse mass mail without a policy.',
  remedy: 'Begin with p=none and an address for reports.',
  bad: ['@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"', '@ TXT "v=spf1 include:_spf.larkpost.example -all"'],
  good: [
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\nnews TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=none; ${RUA}`)}`,
    '_spf TXT "v=spf1 ip4:192.0.2.25 -all"',
  ],
  visit: {
    set: {
      [TYPE.MX]: (set, cx) => wantsPolicy(cx, set.records[0], set.owner, set.zone),
      [TYPE.TXT]: {
        // The SPF record of a host is for its greeting; only what takes mail, or is a zone’s top, is a domain of mail.
        when: AT_TOP,
        visit(set, cx) {
          if (!cx.zones.has(set.owner, TYPE.MX) && hasSpf(cx.zones, set.owner)) wantsPolicy(cx, set.records[0], set.owner, set.zone)
        },
      },
    },
    async finish(cx) {
      const { zones } = cx
      const { wanting } = wanted(cx)
      if (wanting.size === 0) return
      // What is in a zone of two labels is of that organization: the list need not be loaded for it.
      const isPlain = (name: NameId): boolean => isTwoLabels(zones, zones.zoneOf(name)!)
      const organizational = [...wanting.keys()].every(isPlain) ? undefined : await organizations()
      for (const [name, record] of wanting) {
        const domain = cx.name(name)
        const organization = isPlain(name) ? zones.zoneOf(name)!.name : organizational!(domain)
        const node = locateName(zones, `_dmarc.${organization}`)
        if (node === UNKNOWN) continue
        if (node >= 0 && (zones.hasCname(node) || zones.records(node, TYPE.TXT).some((each) => /dmarc/i.test(joined(zones.rdata(each)))))) continue
        cx.report({
          record,
          part: 'owner',
          message: `${domain} has ${zones.has(name, TYPE.MX) ? 'MX' : 'SPF'}, and there is no policy at _dmarc.${domain}${foldName(organization) === foldName(domain) ? '' : ` or _dmarc.${organization}`}`,
          consequence: 'Forged mail in its name is delivered, and nobody hears of it.',
          fix: [`bramblefront write dmarc ${bare(organization)} --next --reports ADDRESS`],
        })
      }
    },
  },
}

/** Remembers a name without a policy of its own, unless that of its zone’s top counts for it. */
function wantsPolicy(cx: Context, record: RecordId, owner: NameId, zone: Zone): void {
  const { zones } = cx
  const { wanting, covering } = wanted(cx)
  let covered = covering.get(zone)
  // A zone of two labels is an organization’s, or a suffix itself: its policy is that of the names below it.
  if (covered === undefined) covering.set(zone, (covered = isTwoLabels(zones, zone) && dmarcBelow(zones, zone.apex) !== NONE))
  if (covered || zones.tree.isWildcard(owner) || !isOfMail(cx.zones, zone) || dmarcBelow(zones, owner) !== NONE) return
  wanting.set(owner, record)
}

const isTwoLabels = ({ tree }: Zones, { apex }: Zone): boolean => apex !== ROOT && tree.parent(apex) !== ROOT && tree.parent(tree.parent(apex)) === ROOT

/** Names that want a policy, each with its record; zones whose top has one for all of their names. */
const wanted = (cx: Context) => cx.memory(noneWanted)
const noneWanted = () => ({ wanting: new Map<NameId, RecordId>(), covering: new Map<Zone, boolean>() })

export const dmarcUndefended: Rule = {
  code: 'dmarc/undefended',
  severity: 'advice',
  source: 'RFC 7505 §4.2, RFC 7208 §10, RFC 7489',
  title: 'a domain that does no mail, and does not say so in all three places',
  why: 'A domain that nobody sends from is what forgers like: nobody misses mail from it. Null MX, v=spf1 -all and p=reject together close it.',
  remedy: 'bramblefront write no-mail DOMAIN writes all three.',
  silences: ['dmarc/missing'],
  bad: [`@ TXT "v=spf1 -all"\n${policy('v=DMARC1; p=reject')}`, `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy(`v=DMARC1; p=none; ${RUA}`)}`],
  good: [
    `@ MX 0 .\n@ TXT "v=spf1 -all"\n${policy('v=DMARC1; p=reject')}`,
    `@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n${policy(`v=DMARC1; p=none; ${RUA}`)}`,
  ],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: AT_TOP,
        visit(set, cx) {
          const { zones } = cx
          const top = set.owner
          if (!hasSpf(zones, top) || !isOfMail(cx.zones, set.zone) || !doesNoMail(zones, top)) return
          const found = dmarcBelow(zones, top)
          const rejects =
            found !== NONE && (zones.hasCname(found) || zones.records(found, TYPE.TXT).some((each) => READ.of(zones, each).record.policy === 'reject'))
          const lacks = [...(zones.has(top, TYPE.MX) ? [] : ['a null MX']), ...(rejects ? [] : ['p=reject'])]
          if (lacks.length === 0) return
          cx.report({
            record: set.records.find((each) => /^v=spf1/i.test(joined(zones.rdata(each)))) ?? set.records[0],
            also: zones.records(top, TYPE.MX),
            message: `${cx.name(top)} does no mail, and lacks ${lacks.join(' and ')}`,
            consequence: lacks.length === 2 || !rejects ? 'Receivers take forged mail in its name.' : 'Senders try its addresses for days before they give up.',
            fix: [`bramblefront write no-mail ${bare(cx.name(top))}`],
          })
        },
      },
    },
  },
}

export const dmarcAliasWithoutPolicy: Rule = {
  code: 'dmarc/alias-without-policy',
  severity: 'error',
  source: 'RFC 7489 §6.6.3',
  title: 'an alias at _dmarc whose target has no text',
  why: 'Receivers follow the alias, find nothing, and take it that there is no policy.',
  remedy: 'Write the policy at the target, or the target that is meant.',
  silences: ['cname/target-missing'],
  bad: ['_dmarc CNAME policy', '_dmarc CNAME policy\npolicy A 192.0.2.10'],
  good: [`_dmarc CNAME policy\npolicy TXT "v=DMARC1; p=none; ${RUA}"`, '_dmarc CNAME hollowmere.dmarc.larkpost.example.'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: SCOPED,
        visit(set, cx) {
          if (isAt(cx.zones, set.owner, '_dmarc')) withoutText(cx, set.records[0], 'policy')
        },
      },
    },
  },
}
