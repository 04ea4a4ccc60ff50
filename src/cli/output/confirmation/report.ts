/** What a confirmation came to, for people. */

import type { Command } from 'commander'
import type { Confirmation } from '../../../core/confirm/plan.ts'
import type { ConfirmedSet } from '../../../core/confirm/status.ts'
import { momentText, timeText } from '../../../core/confirm/time-text.ts'
import type { Unread } from '../../../core/confirm/unread.ts'
import { parseVantage, reachedAt } from '../../../core/confirm/vantage.ts'
import type { Ended } from '../../../core/confirm/watch.ts'
import { bare } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { typeText } from '../../../core/records/types.ts'
import { setName } from '../../../core/view/record-set.ts'
import { counted, Page } from '../page.ts'
import { table } from '../table.ts'
import { alikeBlock, blocksOf, failingBlock, problem } from './blocks.ts'
import { closing } from './closing.ts'
import type { Confirmed, ZonePlan } from './confirmed.ts'
import { setTable } from './set-table.ts'
import { paintStatus, setText, statusText, verdictText } from './words.ts'

/** Confirmed sets are listed one by one up to this many; beyond, they are counted. */
const LISTED = 60
/** Problems are told in full up to this many; beyond, one row each. */
const TOLD = 15

/** With more zones than this, those in which all is well are counted. */
const ZONES = 12

const isAllWell = ({ unread }: ZonePlan, { own, sets, remarks, nowhere }: Confirmation): boolean =>
  unread.length === 0 &&
  nowhere.length === 0 &&
  own.every(({ status }) => status.word === 'confirmed') &&
  !remarks.some(({ wrong }) => wrong) &&
  sets.every(({ status }) => status.word === 'confirmed')

export function report(command: Command, confirmed: Confirmed, all: boolean): void {
  const page = new Page(command)
  const toTell = [...confirmed.plans.keys()].filter(
    (i) => all || confirmed.plans.length <= ZONES || !isAllWell(confirmed.plans[i]!, confirmed.confirmations[i]!),
  )
  const fixed = toTell.map((i) => zoneReport(page, confirmed, i, all)).some(Boolean)
  const well = confirmed.plans.length - toTell.length
  if (well > 0)
    page.text(
      `${counted(well, 'zone')} with nothing to tell: every record set is confirmed, and every server answers for its zone (--all lists them).`,
    )
  const { ended } = confirmed
  if (ended) page.text(endedText(ended, confirmed.confirmations[0]!.at))
  page.text(closing(confirmed, fixed))
  page.print()
}

function endedText({ why, next }: Ended, at: number): string {
  if (why === 'stopped') return 'Stopped watching.'
  return why === 'deadline'
    ? `Stopped watching: the deadline comes before the next possible change, at ${timeText(next!, at)}.`
    : 'Stopped watching: nothing that is left changes by waiting.'
}

/** Tells of a zone; whether a fix was among it. */
function zoneReport(
  page: Page,
  { plans, confirmations, vantages, about, samples }: Confirmed,
  i: number,
  all: boolean,
): boolean {
  const { zone, left, unread } = plans[i]!
  const { own, sets, state, remarks, parties, at, nowhere, unknownTargets } = confirmations[i]!
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
        role === 'resolver'
          ? counted(samples, 'sample')
          : serial === undefined
            ? ownText(own, label)
            : `serial ${serial}`,
      ]
    }),
    '  ',
    (cell, column) => (column === 0 || column === 2 ? colour.dim(cell) : cell),
  )
  if (state.servers.length > 0 && !remarks.some(({ what }) => what === 'own-ns' || what === 'delegation'))
    page.text(nameServersText(own, state), '    ', '  · ')
  for (const { wrong, text } of remarks) page.text(text, '    ', `  ${wrong ? colour.bold(colour.red('✗')) : '·'} `)

  const problems = [...own, ...sets].filter(({ status }) => status.word !== 'confirmed')
  const told = new Set<string>()
  const { failing, others } = all ? { failing: [], others: problems.map((set) => [set]) } : blocksOf(problems)
  const confirmedSets = sets.filter(({ status }) => status.word === 'confirmed')
  // What is told of all of them in one block needs no row each.
  const inBlocks = new Set(failing.filter(({ length }) => length > TOLD).flat())
  const listed = sets.length <= LISTED ? sets.filter((set) => !inBlocks.has(set)) : confirmedSets
  if (confirmedSets.length > 0) page.line()
  if (confirmedSets.length > LISTED && !all)
    page.line(
      `${paintStatus(colour, 'confirmed', statusText('confirmed'))}  ${counted(confirmedSets.length, 'set')} (--all lists them)`,
    )
  else if (listed.length > 0 && (confirmedSets.length > 0 || sets.length > TOLD))
    setTable(
      page,
      zone.name,
      all ? sets : listed,
      parties.map(({ label }) => label),
    )
  for (const block of failing) failingBlock(page, zone.name, block, sets.length, told)
  for (const block of others.slice(0, all ? undefined : TOLD))
    if (block.length === 1) problem(page, block[0]!, told)
    else alikeBlock(page, zone.name, block, told)
  const rest = all ? [] : others.slice(TOLD).flat()
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
  if (unknownTargets.length > 0) {
    page.line()
    page.text(
      `Could not be looked up (outside your zones): ${unknownTargets.slice(0, TOLD).map(bare).join(', ')}${unknownTargets.length > TOLD ? ` and ${unknownTargets.length - TOLD} more` : ''}.`,
    )
  }
  page.line()
  if (left.length > 0)
    page.text(`Not asked: ${left.map((each) => `${each.owner} ${typeText(each.type)} (${each.why})`).join('; ')}.`)
  return told.size > 0
}

/** What a server without a serial said instead: "? no-reply". */
function ownText(own: readonly ConfirmedSet[], label: string): string {
  const answer = own[0]?.answers.find(({ vantage }) => vantage === label)
  return answer ? verdictText(answer.verdict, own[0]!.status.word) : 'no serial'
}

function nameServersText(own: readonly ConfirmedSet[], { parents }: Confirmation['state']): string {
  const asked = parents.map(({ vantage }) => vantage.replace(/^parent /, '')).join(', ')
  const isSeen = own.length > 0 && own.every(({ status }) => status.word === 'confirmed')
  if (parents.length === 0) return 'the delegation in the parent zone was not checked'
  return isSeen
    ? `the name servers are as intended, and the parent zone delegates to them (asked ${asked})`
    : `the parent zone delegates to the intended name servers (asked ${asked})`
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
