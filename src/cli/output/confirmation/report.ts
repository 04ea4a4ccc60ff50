/** What a confirmation came to, for people. */

import type { Command } from 'commander'
import type { Cause } from '../../../core/confirm/causes.ts'
import { OF_ZONE } from '../../../core/confirm/causes.ts'
import type { Confirmation, Ended } from '../../../core/confirm/round.ts'
import type { ConfirmedSet } from '../../../core/confirm/status.ts'
import { STATUSES, type StatusWord } from '../../../core/confirm/status.ts'
import { momentText, timeText } from '../../../core/confirm/time-text.ts'
import type { Unread } from '../../../core/confirm/unread.ts'
import { parseVantage, reachedAt } from '../../../core/confirm/vantage.ts'
import type { Judged, Verdict } from '../../../core/confirm/verdict.ts'
import type { Name } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { typeText } from '../../../core/records/types.ts'
import { folded } from '../../../core/view/fold.ts'
import { setName } from '../../../core/view/record-set.ts'
import { type Colours, counted, Page } from '../page.ts'
import { table } from '../table.ts'
import { closing } from './closing.ts'
import type { Confirmed, ZonePlan } from './confirmed.ts'

/** Confirmed sets are listed one by one up to this many; beyond, they are counted. */
const LISTED = 60
/** Problems are told in full up to this many; beyond, one row each. */
const TOLD = 15

/** With more zones than this, those in which all is well are counted. */
const ZONES = 12

const isAllWell = ({ unread }: ZonePlan, { sets, remarks, nowhere }: Confirmation): boolean =>
  unread.length === 0 &&
  nowhere.length === 0 &&
  !remarks.some(({ wrong }) => wrong) &&
  sets.every(({ status }) => status.word === 'confirmed')

const SIGN: Record<StatusWord, string> = {
  confirmed: '✓',
  settling: '…',
  unreachable: '?',
  'not-published': '✗',
  overdue: '✗',
  split: '✗',
  wrong: '✗',
}
const VERDICT_SIGN: Partial<Record<Verdict, string>> = {
  'as-intended': '✓',
  'earlier-answer': '…',
  stale: '…',
  'no-reply': '?',
  'not-tried': '–',
}

export function paintStatus(colour: Colours, word: StatusWord, text: string): string {
  if (word === 'confirmed') return colour.green(text)
  if (word === 'settling') return colour.cyan(text)
  return word === 'unreachable' ? colour.bold(colour.yellow(text)) : colour.bold(colour.red(text))
}

/** "✗ not published" */
export const statusText = (word: StatusWord): string => `${SIGN[word]} ${word.replace('-', ' ')}`
const verdictText = (verdict: Verdict): string => `${VERDICT_SIGN[verdict] ?? '✗'} ${verdict}`
/** "www.hollowmere.example. A", or with the zone's name "www A". */
export const setText = ({ question: { owner, type, intended, follow } }: ConfirmedSet, zone?: Name): string =>
  `${setName(owner, type, zone)}${intended || follow ? '' : ' (removed)'}`

export function report(command: Command, confirmed: Confirmed, all: boolean): void {
  const page = new Page(command)
  const toTell = [...confirmed.plans.keys()].filter(
    (i) => all || confirmed.plans.length <= ZONES || !isAllWell(confirmed.plans[i]!, confirmed.confirmations[i]!),
  )
  for (const i of toTell) zoneReport(page, confirmed, i, all)
  const well = confirmed.plans.length - toTell.length
  if (well > 0)
    page.text(`${counted(well, 'zone')} with nothing to tell: every record set is confirmed (--all lists them).`)
  const { ended } = confirmed
  if (ended) page.text(endedText(ended, confirmed.confirmations[0]!.at))
  page.text(closing(confirmed))
  page.print()
}

function endedText({ why, next }: Ended, at: number): string {
  if (why === 'stopped') return 'Stopped watching.'
  return why === 'deadline'
    ? `Stopped watching: the deadline comes before the next possible change, at ${timeText(next!, at)}.`
    : 'Stopped watching: nothing that is left changes by waiting.'
}

function zoneReport(
  page: Page,
  { plans, confirmations, vantages, about, samples }: Confirmed,
  i: number,
  all: boolean,
): void {
  const { zone, left, unread } = plans[i]!
  const { sets, state, remarks, parties, at, nowhere } = confirmations[i]!
  const { colour } = page
  page.line(
    `${colour.bold(printable(about ?? zone.name))}  ${colour.dim(`${counted(sets.length, 'record set')}, asked at ${momentText(at)}`)}`,
  )
  page.line()
  const serials = new Map(state.servers.map(({ vantage, soa }) => [vantage, soa?.serial]))
  table(
    page,
    parties.map(({ label, role }) => {
      const serial = serials.get(label)
      const vantage = vantages.get(label)
      const reached = vantage ? reachedAt(vantage) : 'no address is known for it'
      return [
        role === 'authoritative' ? 'server' : 'resolver',
        label,
        parseVantage(label) ? '' : reached,
        role === 'authoritative'
          ? serial === undefined
            ? 'no serial'
            : `serial ${serial}`
          : counted(samples, 'sample'),
      ]
    }),
    '  ',
    (cell, column) => (column === 0 || column === 2 ? colour.dim(cell) : cell),
  )
  if (state.servers.length > 0 && !remarks.some(({ what }) => what === 'own-ns' || what === 'delegation')) {
    const parents = state.parents.map(({ vantage }) => vantage.replace(/^parent /, ''))
    page.text(
      parents.length > 0
        ? `the name servers are as intended, and the parent zone delegates to them (asked ${parents.join(', ')})`
        : 'the delegation in the parent zone was not checked',
      '    ',
      '  · ',
    )
  }
  for (const { wrong, text } of remarks) page.text(text, '    ', `  ${wrong ? colour.bold(colour.red('✗')) : '·'} `)

  const confirmedSets = sets.filter(({ status }) => status.word === 'confirmed')
  if (confirmedSets.length > 0) page.line()
  if (confirmedSets.length > LISTED && !all)
    page.line(
      `${paintStatus(colour, 'confirmed', statusText('confirmed'))}  ${counted(confirmedSets.length, 'set')} (--all lists them)`,
    )
  else if (confirmedSets.length > 0 || sets.length > TOLD)
    setTable(
      page,
      zone.name,
      all || sets.length <= LISTED ? sets : confirmedSets,
      parties.map(({ label }) => label),
    )
  const problems = sets
    .filter(({ status }) => status.word !== 'confirmed')
    .sort((a, b) => STATUSES.indexOf(b.status.word) - STATUSES.indexOf(a.status.word))
  const told = new Set<string>()
  // One cause, one block: whoever replied to nothing is told once, with the sets that lack nothing else.
  const silent = silentOf(sets)
  const onlySilent = (set: ConfirmedSet): boolean =>
    set.status.word === 'unreachable' &&
    set.answers.every(({ vantage, verdict }) => verdict === 'as-intended' || silent.has(vantage))
  const others = problems.filter((set) => !onlySilent(set))
  const waiting = problems.length - others.length
  if (waiting > 1) silentBlock(page, silent, sets, waiting)
  const toTell = waiting > 1 ? others : problems
  const blocks = all ? toTell.map((set) => [set]) : alike(toTell)
  for (const block of blocks.slice(0, all ? undefined : TOLD))
    if (block.length === 1) problem(page, block[0]!, told)
    else alikeBlock(page, zone.name, block, told)
  const rest = all ? [] : blocks.slice(TOLD).flat()
  if (rest.length > 0) {
    page.line()
    table(
      page,
      rest.slice(0, 200).map((set) => [statusText(set.status.word), setText(set), set.status.text]),
      '',
      (cell, column, row) => (column === 0 ? paintStatus(colour, rest[row]!.status.word, cell) : cell),
    )
    if (rest.length > 200) page.text(`and ${rest.length - 200} more (--all shows each)`)
  }
  if (unread.length > 0) unreadBlock(page, unread)
  if (nowhere.length > 0) {
    page.line()
    page.text(
      `${counted(nowhere.length, 'target')} outside your zones ${nowhere.length === 1 ? 'leads' : 'lead'} nowhere, though the records are as intended:`,
      '    ',
      `${colour.yellow('!')} `,
    )
    for (const { owner, type, why } of nowhere.slice(0, TOLD))
      page.text(`${setName(owner, type)}: ${why}`, '      ', '    ')
    if (nowhere.length > TOLD) page.text(`and ${nowhere.length - TOLD} more`, '    ')
  }
  page.line()
  if (left.length > 0)
    page.text(`Not asked: ${left.map((each) => `${each.owner} ${typeText(each.type)} (${each.why})`).join('; ')}.`)
}

/** What could not be read is not confirmed. */
function unreadBlock(page: Page, unread: readonly Unread[]): void {
  const { colour } = page
  page.line()
  page.line(
    `${colour.bold(colour.red('✗ not read'))}  ${colour.bold(counted(unread.length, 'entry', 'entries'))} of the file: what ${unread.length === 1 ? 'it was to be' : 'they were to be'} is not known, and not confirmed`,
  )
  for (const { file, line, text, why, owner, type } of unread.slice(0, TOLD)) {
    const whose = owner !== undefined && type !== undefined ? `${setName(owner, type)}: ` : ''
    page.text(`${file} line ${line}: ${whose}${why}`, '    ', '  ')
    page.text(text, '      ')
  }
  if (unread.length > TOLD) page.text(`and ${unread.length - TOLD} more`, '  ')
}

/** Those that replied to none of the questions, and why. */
function silentOf(sets: readonly ConfirmedSet[]): Map<string, string> {
  const silent = new Map<string, string>()
  const heard = new Set<string>()
  for (const { answers } of sets)
    for (const { vantage, verdict, detail, rcode } of answers)
      if (rcode !== null || (verdict !== 'no-reply' && verdict !== 'not-tried')) heard.add(vantage)
      else if (!silent.has(vantage)) silent.set(vantage, detail)
  for (const vantage of heard) silent.delete(vantage)
  return silent
}

function silentBlock(
  page: Page,
  silent: ReadonlyMap<string, string>,
  sets: readonly ConfirmedSet[],
  waiting: number,
): void {
  const { colour } = page
  page.line()
  page.line(
    `${paintStatus(colour, 'unreachable', statusText('unreachable'))}  ${colour.bold(printable([...silent.keys()].join(', ')))}`,
  )
  for (const [vantage, detail] of silent) page.text(`${vantage} did not reply to any query: ${detail}`, '    ', '  ')
  page.text(
    `${waiting === sets.length ? `None of the ${sets.length} record sets could` : `${waiting} of ${sets.length} record sets could not`} be confirmed there; no difference was found elsewhere.`,
    '  ',
  )
}

/** A row a set; a column a vantage where they fit, else what they come to. */
function setTable(page: Page, zone: Name, sets: readonly ConfirmedSet[], labels: readonly string[]): void {
  const { colour } = page
  const names = sets.map((set) => setText(set, zone))
  const longest = (texts: readonly string[]): number =>
    texts.reduce((most, { length }) => Math.max(most, length), 0) + 2
  const width = longest(names)
  const columns =
    labels.length > 5
      ? []
      : labels.map((label) => longest([label, ...sets.map(({ answers }) => cellOf(answers, label))]))
  const byVantage =
    labels.length > 1 &&
    labels.length <= 5 &&
    width + columns.reduce((a, b) => a + b, 0) <= page.width &&
    width <= page.width * 0.45
  const rows = byVantage
    ? sets.map((set, i) => [names[i]!, ...labels.map((label) => cellOf(set.answers, label))])
    : sets.map((set, i) => [statusText(set.status.word), names[i]!, noteOf(set)])
  const paint = (cell: string, column: number, row: number): string => {
    const set = sets[byVantage ? row - 1 : row]
    if (!set) return colour.dim(cell)
    if (byVantage)
      return column === 0
        ? cell
        : cell.startsWith('✓')
          ? colour.green(cell)
          : cell.startsWith('✗')
            ? colour.bold(colour.red(cell))
            : colour.cyan(cell)
    return column === 0 ? paintStatus(colour, set.status.word, cell) : column === 2 ? colour.dim(cell) : cell
  }
  table(page, byVantage ? [['', ...labels], ...rows] : rows, '', paint)
}

function cellOf(answers: readonly Judged[], label: string): string {
  const of = answers.filter(({ vantage }) => vantage === label)
  if (of.length === 0) return '– not asked'
  const wrong = of.find(({ verdict }) => verdict !== 'as-intended')
  const cell = verdictText((wrong ?? of[0]!).verdict)
  const count = of.filter(({ verdict }) => verdict === of[0]!.verdict).length
  return of.length > 1 && count < of.length
    ? `${cell} (${of.filter(({ verdict }) => verdict === wrong!.verdict).length} of ${of.length})`
    : cell
}

function noteOf({ question, answers, status }: ConfirmedSet): string {
  if (status.word !== 'confirmed') return ''
  const ttls = [...new Set(answers.flatMap(({ ttl }) => (ttl === null ? [] : [ttl])))]
  const asked = question.asked === question.owner ? [] : [`asked as ${question.asked}`]
  return [
    ...asked,
    ...(question.intended && ttls.length > 0 ? [`TTL ${ttls.join(' and ')}`] : question.intended ? [] : ['removed']),
    ...notesOf(answers),
  ].join(', ')
}

const notesOf = (answers: readonly Judged[]): string[] => [...new Set(answers.flatMap(({ notes }) => notes))]

/** From so many sets on of which the same is to be said, it is said once. */
const ALIKE = 3

/** Sets with one status, said in the same words, and with no cause of their own, stand together: one cause, one block. */
function alike(sets: readonly ConfirmedSet[]): ConfirmedSet[][] {
  const blocks = new Map<string, ConfirmedSet[]>()
  for (const set of sets) {
    const own = set.causes.some(({ kind }) => !OF_ZONE.includes(kind)) || set.status.word === 'wrong'
    const key = own ? setText(set) : `${set.status.word} ${set.status.text}`
    const block = blocks.get(key)
    if (block) block.push(set)
    else blocks.set(key, [set])
  }
  return [...blocks.values()].flatMap((block) => (block.length < ALIKE ? block.map((set) => [set]) : [block]))
}

/** What is to be said of several sets, and which of them were answered how; what came is shown where one is asked for by itself. */
function alikeBlock(page: Page, zone: Name, sets: readonly ConfirmedSet[], told: Set<string>): void {
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
    const verdict = other ? verdictText(other.verdict) : '–'
    byVerdict.set(verdict, [...(byVerdict.get(verdict) ?? []), setText(set, zone)])
  }
  for (const [verdict, names] of byVerdict) page.text(`${verdict}: ${names.join(', ')}`, '      ', '    ')
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
    const sign = verdictText(verdict)
    page.text(`${sign} at ${labels.join(', ')}${detail ? `: ${detail}` : ''}`, '    ', '  ', (line) =>
      line.replace(sign, paintVerdict(colour, verdict, sign)),
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

function paintVerdict(colour: Colours, verdict: Verdict, text: string): string {
  if (verdict === 'as-intended') return colour.green(text)
  return verdict in VERDICT_SIGN ? colour.cyan(text) : colour.red(text)
}
