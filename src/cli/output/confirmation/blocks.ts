/** What is not confirmed, told in blocks: one for each cause. */
import { type Cause, OF_ZONE } from '../../../core/confirm/causes.ts'
import type { ConfirmedSet } from '../../../core/confirm/status.ts'
import { STATUSES, worst } from '../../../core/confirm/status.ts'
import type { Judged, Verdict } from '../../../core/confirm/verdict.ts'
import type { Name } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { folded } from '../../../core/view/fold.ts'
import { counted, type Page } from '../page.ts'
import { paintStatus, paintVerdict, setText, statusText, verdictText } from './words.ts'

/** Verdicts that say nothing of a set, but of the vantage: whatever it is asked for, the same comes. */
const OF_VANTAGE = new Set<Verdict>(['no-reply', 'unusable', 'refused', 'failed', 'not-authoritative', 'garbled'])

/** What is open, put together by its cause: first what vantages do to several sets alike. */
export function blocksOf(problems: readonly ConfirmedSet[]): { failing: ConfirmedSet[][]; others: ConfirmedSet[][] } {
  const byFailing = new Map<string, ConfirmedSet[]>()
  const others: ConfirmedSet[] = []
  for (const set of problems) {
    const key = failingKey(set)
    const block = key === undefined ? others : byFailing.get(key)
    if (block) block.push(set)
    else byFailing.set(key!, [set])
  }
  const failing = [...byFailing.values()]
  for (const block of failing) if (block.length === 1) others.push(block[0]!)
  others.sort((a, b) => STATUSES.indexOf(b.status.word) - STATUSES.indexOf(a.status.word))
  return { failing: failing.filter(({ length }) => length > 1), others: alike(others) }
}

/** Who fails how, for a set of which nothing else is to be said; undefined for others. */
function failingKey({ answers, status }: ConfirmedSet): string | undefined {
  const others = answers.filter(({ verdict }) => verdict !== 'as-intended' && verdict !== 'not-tried')
  if (others.length === 0 || !others.every(({ verdict }) => OF_VANTAGE.has(verdict))) return undefined
  const failures = others.map(({ vantage, verdict, bogus, rcode }) => `${vantage} ${verdict} ${bogus} ${rcode}`)
  return [status.word, ...new Set(failures.sort())].join('; ')
}

/** "ns1.upland-dns.example did not reply: …", "ns1.upland-dns.example: it declined to answer …". */
function doesText({ vantage, verdict, detail }: Judged): string {
  if (verdict === 'no-reply') return `${vantage} did not reply: ${detail}`
  return `${vantage}${verdict === 'unusable' ? ' cannot be used' : ''}: ${detail || verdict}`
}

/** What one or several vantages do to all of these sets. `total`: of the record sets of the zone, SOA and NS apart. */
export function failingBlock(
  page: Page,
  zone: Name,
  sets: readonly ConfirmedSet[],
  total: number,
  told: Set<string>,
): void {
  const { colour } = page
  const real = sets.filter(({ question }) => !question.own)
  if (real.length === 1) {
    problem(page, real[0]!, told)
    if (sets.length > 1) page.text('The same applies to the zone’s own SOA and NS records.', '  ', '  ')
    return
  }
  const failures = new Map<string, Judged>()
  for (const { answers } of sets)
    for (const answer of answers)
      if (OF_VANTAGE.has(answer.verdict) && !failures.has(answer.vantage)) failures.set(answer.vantage, answer)
  const { word } = worst(sets.map(({ status }) => status))
  const about = real.length === 0 ? setText(sets[0]!).replace(/\S+$/, 'SOA and NS') : [...failures.keys()].join(', ')
  page.line()
  page.line(`${paintStatus(colour, word, statusText(word))}  ${colour.bold(printable(about))}`)
  for (const answer of failures.values()) page.text(doesText(answer), '    ', '  ')
  if (real.length > 0) page.text(whichText(zone, real, total, sets.length > real.length), '    ', '  ')
  causesOf(
    page,
    sets.flatMap(({ causes }) => causes),
    told,
  )
}

/** "7 of 42 record sets could not be confirmed there: www A, …" */
function whichText(zone: Name, real: readonly ConfirmedSet[], total: number, own: boolean): string {
  const nor = own ? ', nor the zone’s own SOA and NS records' : ''
  if (real.length === total) return `None of the ${total} record sets could be confirmed there${nor}.`
  const names = real.map((set) => setText(set, zone)).join(', ')
  return `${real.length} of ${total} record sets could not be confirmed there${nor}: ${names}`
}

/** From so many sets on of which the same is to be said, it is said once. */
const ALIKE = 3

/** Sets with one status, said in the same words, and with no cause of their own, stand together: one cause, one block. */
function alike(sets: readonly ConfirmedSet[]): ConfirmedSet[][] {
  const blocks = new Map<string, ConfirmedSet[]>()
  for (const set of sets) {
    const own = set.causes.some(({ kind }) => !OF_ZONE.includes(kind)) || set.answers.some(hasData)
    const key = own ? setText(set) : `${set.status.word} ${set.status.text}`
    const block = blocks.get(key)
    if (block) block.push(set)
    else blocks.set(key, [set])
  }
  return [...blocks.values()].flatMap((block) => (block.length < ALIKE ? block.map((set) => [set]) : [block]))
}

/** Whether other data came, which are shown with the set. */
const hasData = ({ verdict, extra }: Judged): boolean =>
  verdict === 'different' || (verdict === 'aliased' && extra.length > 0)

/** What is to be said of several sets, and which of them were answered how; what came is shown where one is asked for by itself. */
export function alikeBlock(page: Page, zone: Name, sets: readonly ConfirmedSet[], told: Set<string>): void {
  const { colour } = page
  const { status } = sets[0]!
  page.line()
  page.line(
    `${paintStatus(colour, status.word, statusText(status.word))}  ${colour.bold(counted(sets.length, 'record set'))}`,
  )
  page.text(status.text, '  ')
  const byVerdict = new Map<string, string[]>()
  for (const set of sets) {
    const other = set.answers.find(({ verdict }) => verdict !== 'as-intended')
    const verdict = other ? verdictText(other.verdict, status.word) : '–'
    byVerdict.set(verdict, [...(byVerdict.get(verdict) ?? []), setText(set, zone)])
  }
  for (const [verdict, names] of byVerdict)
    page.text(verdict === '–' ? names.join(', ') : `${verdict}: ${names.join(', ')}`, '      ', '    ')
  causesOf(
    page,
    sets.flatMap(({ causes }) => causes),
    told,
  )
}

/** `told`: what was said already and is of the zone, not of the set. */
export function problem(page: Page, set: ConfirmedSet, told: Set<string>): void {
  const { colour } = page
  const { status, answers, causes } = set
  page.line()
  page.line(`${paintStatus(colour, status.word, statusText(status.word))}  ${colour.bold(printable(setText(set)))}`)
  page.text(status.text, '  ')
  for (const { verdict, labels, detail, values } of grouped(answers)) {
    const sign = verdictText(verdict, status.word)
    page.text(`${sign} at ${labels.join(', ')}${detail ? `: ${detail}` : ''}`, '    ', '  ', (line) =>
      line.replace(sign, paintVerdict(colour, sign)),
    )
    for (const value of values) page.text(value, '                ', '      ')
  }
  causesOf(page, causes, told)
}

function causesOf(page: Page, causes: readonly Cause[], told: Set<string>): void {
  const { colour } = page
  for (const { kind, text, evidence, fix } of causes) {
    if (OF_ZONE.includes(kind) && told.has(kind)) continue
    told.add(kind)
    page.text(text, CAUSE, `  ${colour.dim('Likely cause:')} `)
    page.text(evidence, CAUSE, `  ${colour.dim('Evidence:')}     `)
    page.text(fix, CAUSE, `  ${colour.dim('Fix:')}          `)
  }
}

/** As wide as “Likely cause:” with its blanks. */
const CAUSE = ' '.repeat(16)

interface Group {
  verdict: Verdict
  labels: string[]
  detail: string
  /** What is missing and what came instead, and notes. */
  values: string[]
}

/** Vantages that say the same stand together, those that are right last. */
function grouped(answers: readonly Judged[]): Group[] {
  const groups = new Map<string, Group>()
  for (const { vantage, verdict, detail, missing, extra, ttl, notes } of answers) {
    const shown =
      verdict === 'different' || verdict === 'aliased' || verdict === 'earlier-answer' || verdict === 'stale'
    const denial = verdict === 'absent' && ttl !== null ? `; the negative answer may be cached for ${ttl} s` : ''
    const data = shown ? folded([...missing, ...extra]) : []
    const values = [...data.map((value, i) => `${i < missing.length ? 'missing:  ' : 'received: '}${value}`), ...notes]
    const key = [verdict, detail, denial, ...values].join('\n')
    const group = groups.get(key) ?? { verdict, labels: [], detail: `${detail}${denial}`, values }
    groups.set(key, group)
    if (!group.labels.includes(vantage)) group.labels.push(vantage)
  }
  return [...groups.values()].sort((a, b) => Number(a.verdict === 'as-intended') - Number(b.verdict === 'as-intended'))
}
