/** How mail must be carried to a domain: the record and the policy of MTA-STS (RFC 8461), and reports of it (RFC 8460). */
import { foldName, type Name } from '../names/name.ts'
import { MOST_PROBLEMS, parseTags, shortened, type TextProblem } from './tags.ts'

/** Whether a text counts at `_mta-sts` or `_smtp._tls`: unrelated ones are set aside first (RFC 8461 §3.1, RFC 8460 §3). */
export const isSts = (text: string): boolean => /^v=STSv1(?:\s*;|\s*$)/.test(text)
export const isTlsReports = (text: string): boolean => /^v=TLSRPTv1(?:\s*;|\s*$)/.test(text)

/** Reads the record at `_mta-sts`: its id, and what is wrong with it. */
export function parseSts(text: string): { id?: string; problems: TextProblem[] } {
  const { tags, problems } = parseTags(text)
  const id = tags.find(({ name }) => name === 'id')
  if (!id)
    problems.push({
      kind: 'syntax',
      start: 0,
      end: text.length,
      message: 'id= is missing',
      wanted: 'id= with a value that differs after each change of the policy',
    })
  else if (!/^[A-Za-z0-9]{1,32}$/.test(id.value))
    problems.push({
      kind: 'syntax',
      start: id.start,
      end: Math.max(id.end, id.start + 1),
      message: `“${shortened(id.value)}” is not a valid id`,
      wanted: '1 to 32 letters and digits',
    })
  return { id: id?.value, problems }
}

/** Reads the record at `_smtp._tls`: where reports go, and what is wrong with it. */
export function parseTlsReports(text: string): { rua: string[]; problems: TextProblem[] } {
  const { tags, problems } = parseTags(text)
  const rua = tags.find(({ name }) => name === 'rua')
  if (!rua)
    problems.push({
      kind: 'syntax',
      start: 0,
      end: text.length,
      message: 'rua= is missing',
      wanted: 'rua=mailto:ADDRESS',
    })
  const uris = rua?.value.split(',').map((each) => each.trim()) ?? []
  for (const uri of uris)
    if (rua && problems.length < MOST_PROBLEMS && !/^(?:mailto:[^@\s]+@[^@\s]+|https:\/\/\S+)$/i.test(uri))
      problems.push({
        kind: 'syntax',
        start: rua.valueStart + Math.max(0, rua.value.indexOf(uri)),
        end: rua.end,
        message: `“${shortened(uri)}” is not a mailto: or https: URL`,
        wanted: uri.includes('@') && !uri.includes(':') ? `mailto:${uri}` : 'mailto:ADDRESS or https://…',
      })
  return { rua: uris, problems }
}

export const STS_MODES = ['enforce', 'testing', 'none'] as const
export type StsMode = (typeof STS_MODES)[number]

export interface StsPolicy {
  mode?: StsMode
  /** Seconds. */
  maxAge?: number
  /** Host names; `*.` in front stands for one label. */
  exchanges: string[]
}

/** The longest that senders keep a policy: a year and a bit, in seconds. */
export const MAX_POLICY_AGE = 31_557_600

/** Reads the text of a policy (RFC 8461 §3.2), and what is wrong with it, line by line. Unknown keys are passed over. */
export function parsePolicy(text: string): {
  policy: StsPolicy
  problems: { line: number; message: string; wanted: string }[]
} {
  const policy: StsPolicy = { exchanges: [] }
  const problems: { line: number; message: string; wanted: string }[] = []
  const problem = (line: number, message: string, wanted: string): void => {
    if (problems.length < MOST_PROBLEMS) problems.push({ line, message, wanted })
  }
  const seen = new Set<string>()
  for (const [i, content] of text.split(/\r?\n/).entries()) {
    if (content.trim() === '') continue
    const match = /^([A-Za-z0-9][A-Za-z0-9_.-]*)[ \t]*:([\s\S]*)$/.exec(content)
    if (!match) {
      problem(i + 1, `“${shortened(content)}” is not of the form key: value`, 'KEY: VALUE')
      continue
    }
    const key = match[1]!
    seen.add(key)
    const value = match[2]!.trim()
    if (key === 'version') {
      if (value !== 'STSv1') problem(i + 1, `the version is ${shortened(value)}`, 'STSv1')
    } else if (key === 'mode') {
      policy.mode ??= STS_MODES.find((each) => each === value)
      if (!policy.mode) problem(i + 1, `${shortened(value)} is not a mode`, STS_MODES.join(', '))
    } else if (key === 'max_age') {
      policy.maxAge ??= /^\d{1,10}$/.test(value) && Number(value) <= MAX_POLICY_AGE ? Number(value) : undefined
      if (policy.maxAge === undefined)
        problem(i + 1, `${shortened(value)} is not a time`, `seconds, up to ${MAX_POLICY_AGE}`)
    } else if (key === 'mx') {
      if (/^(?:\*\.)?[a-z0-9-]+(?:\.[a-z0-9-]+)*\.?$/i.test(value)) policy.exchanges.push(value)
      else problem(i + 1, `${shortened(value)} is not a valid host name`, 'a host name, or *. and a domain')
    }
  }
  if (!seen.has('version')) problem(1, 'version is missing', 'version: STSv1')
  if (!seen.has('mode')) problem(1, 'mode is missing', 'mode: testing')
  if (!seen.has('max_age')) problem(1, 'max_age is missing', 'max_age: 604800')
  if (policy.exchanges.length === 0 && policy.mode !== 'none')
    problem(1, 'mx is missing', 'a line mx: HOST for each MX host')
  return { policy, problems }
}

/** The text of a policy, its lines ended as RFC 8461 §3.2 has them. */
export function policyText({ mode = 'testing', maxAge = 604_800, exchanges }: StsPolicy): string {
  return ['version: STSv1', `mode: ${mode}`, ...exchanges.map((each) => `mx: ${each}`), `max_age: ${maxAge}`]
    .map((line) => `${line}\r\n`)
    .join('')
}

/** Whether a policy lists an exchange (RFC 8461 §4.1): by its name, or by `*.` for exactly one label in front. */
export function listsExchange(policy: StsPolicy, exchange: Name): boolean {
  const host = foldName(exchange).replace(/\.$/, '')
  return policy.exchanges.some((each) => {
    const pattern = foldName(each).replace(/\.$/, '')
    return pattern.startsWith('*.') ? host.slice(host.indexOf('.')) === pattern.slice(1) : host === pattern
  })
}

/** An id that is another than the one before: the time, to the second; with a letter behind it where that is the same. */
export function nextId(now: Date, before?: string): string {
  const id = now.toISOString().replace(/\D/g, '').slice(0, 14)
  return before?.startsWith(id) ? `${before}a`.slice(0, 32) : id
}
