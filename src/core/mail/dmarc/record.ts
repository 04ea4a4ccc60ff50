/** DMARC records: read with the place of every fault, and written again (RFC 7489 §6.3, §6.4; np of RFC 9091; psd and t of its successor). */
import { domainToName } from '../lookup.ts'
import { MOST_PROBLEMS, parseTags, shortened, type Tag, type TextProblem } from '../tags.ts'

export const POLICIES = ['none', 'quarantine', 'reject'] as const
export type Policy = (typeof POLICIES)[number]
export type Alignment = 'relaxed' | 'strict'

export interface ReportAddress {
  /** As written. */
  uri: string
  start: number
  end: number
  /** The mailbox, where it is `mailto:`. */
  mailbox?: string
  /** The mailbox’s domain, absolute. */
  domain?: string
}

export interface DmarcRecord {
  /** What receivers act on; undefined where they ignore the record. */
  policy?: Policy
  /** For names below; for names that do not exist. The policy where none is stated. */
  below?: Policy
  missing?: Policy
  dkim: Alignment
  spf: Alignment
  percent: number
  rua: ReportAddress[]
  ruf: ReportAddress[]
  /** `psd=`: y for a public suffix, n for an organizational domain. */
  suffix?: 'y' | 'n' | 'u'
  /** `t=y`: act one step more mildly. */
  testing: boolean
  tags: Tag[]
}

/** Tags, what they may be, and what stands for them. */
const VALUES: Record<string, RegExp> = {
  adkim: /^[rs]$/i,
  aspf: /^[rs]$/i,
  fo: /^[01ds](?:\s*:\s*[01ds])*$/i,
  pct: /^(?:\d|[1-9]\d|100)$/,
  ri: /^\d{1,10}$/,
  rf: /^[a-z][a-z0-9-]*(?:\s*:\s*[a-z][a-z0-9-]*)*$/i,
  psd: /^[ynu]$/i,
  t: /^[yn]$/i,
}
const WANTED: Record<string, string> = {
  adkim: 'r (relaxed) or s (strict)',
  aspf: 'r (relaxed) or s (strict)',
  fo: '0, 1, d, s, or several with colons between them',
  pct: 'a number from 0 to 100',
  ri: 'a number of seconds, as in 86400',
  rf: 'afrf',
  psd: 'y, n or u',
  t: 'y or n',
}
const KNOWN = new Set(['v', 'p', 'sp', 'np', 'rua', 'ruf', ...Object.keys(VALUES)])

/** What tags mean that not every receiver knows yet, or any more. */
export const TAG_NOTES: Record<string, string> = {
  np: 'for names that do not exist (RFC 9091, RFC 9989)',
  psd: 'whether this is a public suffix, for the tree walk of RFC 9989',
  t: 'testing mode of RFC 9989: receivers act one step more mildly',
  pct: 'dropped by RFC 9989: receivers that follow it act on all mail',
  ri: 'dropped by RFC 9989: reports are sent daily',
  rf: 'dropped by RFC 9989: there is only one format',
}

/** Whether a joined text is a DMARC record (RFC 7489 §6.4): anything else at the name is passed over. */
export const isDmarc = (text: string): boolean => /^[vV][ \t]*=[ \t]*DMARC1[ \t]*(?:;|$)/.test(text)

/** Reads a joined text that stands at `_dmarc`. Problems are `syntax`, `policy`, `tag-value`, `unknown-tag` or `report-address`. */
export function readDmarc(text: string): { record: DmarcRecord; problems: TextProblem[] } {
  const { tags: written, problems } = parseTags(text)
  const tags = written.map((tag) => ({ ...tag, name: tag.name.toLowerCase() }))
  const tag = (name: string): Tag | undefined => tags.find((each) => each.name === name)
  const problem = (kind: string, at: { start: number; end: number }, message: string, wanted: string): void => {
    if (problems.length < MOST_PROBLEMS)
      problems.push({ kind, start: at.start, end: Math.max(at.end, at.start + 1), message, wanted })
  }
  const whole = { start: 0, end: text.length }
  const version = tag('v')
  if (!version) problem('syntax', whole, 'v=DMARC1 is missing', 'v=DMARC1 at the beginning')
  else if (tags[0] !== version || version.value !== 'DMARC1')
    problem(
      'syntax',
      version,
      tags[0] === version ? `the version is “${shortened(version.value)}”` : 'v= is not the first tag',
      'v=DMARC1 at the beginning, exactly so',
    )
  const record: DmarcRecord = { dkim: 'relaxed', spf: 'relaxed', percent: 100, rua: [], ruf: [], testing: false, tags }
  for (const each of tags) {
    const values = VALUES[each.name]
    if (!KNOWN.has(each.name))
      problem('unknown-tag', each, `receivers ignore the tag ${each.name}=`, `one of ${[...KNOWN].join(', ')}`)
    else if (values && !values.test(each.value))
      problem(
        'tag-value',
        stretchOf(each),
        `${each.name}=${shortened(each.value)} is not an allowed value`,
        WANTED[each.name]!,
      )
    else if (each.name === 'rua' || each.name === 'ruf') record[each.name].push(...addressesIn(each, problem))
  }
  const value = (name: string): string | undefined => {
    const found = tag(name)
    return found && VALUES[name]!.test(found.value) ? found.value.toLowerCase() : undefined
  }
  if (value('adkim') === 's') record.dkim = 'strict'
  if (value('aspf') === 's') record.spf = 'strict'
  record.percent = Number(value('pct') ?? 100)
  record.suffix = value('psd') as DmarcRecord['suffix']
  record.testing = value('t') === 'y'
  readPolicies(record, tag, whole, problem)
  return { record, problems }
}

const stretchOf = (tag: Tag): { start: number; end: number } => ({
  start: tag.value === '' ? tag.start : tag.valueStart,
  end: tag.end,
})

type Say = (kind: string, at: { start: number; end: number }, message: string, wanted: string) => void

/** RFC 7489 §6.6.3: where `p` (or `sp`) is missing or unknown, a valid `rua` makes it `none`, and without one the record is ignored. */
function readPolicies(
  record: DmarcRecord,
  tag: (name: string) => Tag | undefined,
  whole: { start: number; end: number },
  problem: Say,
): void {
  const policyIn = (name: string): Policy | 'unknown' | undefined => {
    const found = tag(name)
    return found && (POLICIES.find((each) => each === found.value.toLowerCase()) ?? 'unknown')
  }
  const [policy, below, missing] = ['p', 'sp', 'np'].map(policyIn)
  const reports = record.rua.some(({ mailbox }) => mailbox !== undefined)
  const then = reports ? 'receivers treat it as p=none' : 'receivers ignore the record'
  if (policy === undefined)
    problem('policy', whole, `p= is missing: ${then}`, 'p=none, p=quarantine or p=reject after v=DMARC1')
  for (const name of ['p', 'sp', 'np']) {
    const found = tag(name)
    if (found && policyIn(name) === 'unknown')
      problem(
        'policy',
        stretchOf(found),
        `${name}=${shortened(found.value)} is not a policy: ${name === 'np' ? 'receivers that know np ignore it' : then}`,
        'none, quarantine or reject',
      )
  }
  const broken = policy === undefined || policy === 'unknown' || below === 'unknown'
  record.policy = broken ? (reports ? 'none' : undefined) : policy
  if (record.policy === undefined || broken) return
  record.below = below as Policy | undefined
  record.missing = missing === 'unknown' ? undefined : missing
}

/** The addresses of `rua` or `ruf`: URIs parted by commas, each with a size behind `!` (RFC 7489 §6.2). */
function addressesIn(tag: Tag, problem: Say): ReportAddress[] {
  const found: ReportAddress[] = []
  let at = tag.valueStart
  for (const part of tag.value.split(',')) {
    const uri = part.trim()
    const start = at + (part.length - part.trimStart().length)
    const place = { start, end: start + uri.length }
    at += part.length + 1
    const [address = '', size, ...more] = uri.split('!')
    const mailto = /^mailto:([^@\s]+@[^@\s?]+)(?:\?.*)?$/i.exec(address)
    const mailbox = mailto ? decoded(mailto[1]!) : undefined
    const domain = mailbox === undefined ? undefined : domainToName(mailbox.slice(mailbox.lastIndexOf('@') + 1))
    found.push({ uri, ...place, ...(mailbox !== undefined && domain !== undefined ? { mailbox, domain } : {}) })
    const say = (message: string, wanted: string): void =>
      problem('report-address', place, `${tag.name}: ${message}`, wanted)
    if (uri === '') problem('report-address', stretchOf(tag), `${tag.name}= has an empty address`, 'mailto:ADDRESS')
    else if (!/^[a-z][a-z0-9+.-]*:/i.test(uri))
      say(`“${shortened(uri)}” is not a URI`, address.includes('@') ? `mailto:${uri}` : 'mailto:ADDRESS')
    else if (!/^mailto:/i.test(uri)) say(`receivers send no reports to ${shortened(uri)}`, 'mailto:ADDRESS')
    else if (mailbox === undefined || domain === undefined)
      say(`“${shortened(uri)}” has no email address`, 'mailto:ADDRESS')
    else if (more.length > 0 || (size !== undefined && !/^\d+[kmgt]?$/i.test(size)))
      say(
        `“!${shortened([size, ...more].join('!'))}” is not a size; write “!” and “,” in an address as %21 and %2C`,
        'a size as in !10m, or none',
      )
  }
  return found
}

function decoded(text: string): string | undefined {
  try {
    return decodeURIComponent(text)
  } catch {
    return undefined
  }
}

/** The policy for a name: the domain that the record stands at, one below it, or one below it that does not exist. */
export function policyFor(record: DmarcRecord, name: 'itself' | 'below' | 'missing'): Policy | undefined {
  if (name === 'itself') return record.policy
  return (name === 'missing' ? record.missing : undefined) ?? record.below ?? record.policy
}

/** How strict a policy is. */
export const strictness = (policy: Policy | undefined): number => (policy === undefined ? -1 : POLICIES.indexOf(policy))

/** The record with tags changed, put in or (undefined) taken out; the others stay, in their order. `v` and `p` come first. */
export function withTags(text: string, changes: Readonly<Record<string, string | undefined>>): string {
  const values = new Map(parseTags(text).tags.map(({ name, value }) => [name.toLowerCase(), value]))
  for (const [name, value] of Object.entries(changes)) {
    if (value === undefined) values.delete(name)
    else values.set(name, value)
  }
  const policy = values.get('p')
  values.delete('v')
  values.delete('p')
  return [['v', 'DMARC1'], ...(policy === undefined ? [] : [['p', policy]]), ...values]
    .map(([name, value]) => `${name}=${value}`)
    .join('; ')
}
