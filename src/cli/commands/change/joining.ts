/** Records that join those of a zone, from a text or a recipe: blanks and questions are asked at a terminal, then all is shown, agreed to, and written. */

import type { Command } from 'commander'
import type { ZonePart } from '../../../core/change/change-set.ts'
import { joinInto } from '../../../core/change/join/join.ts'
import type { Answers, Joined, Question } from '../../../core/change/join/joined.ts'
import { joinedParts, withReverse } from '../../../core/change/reverse.ts'
import { isSpf } from '../../../core/mail/spf/record.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import type { Rdata } from '../../../core/records/rdata.ts'
import { TYPE } from '../../../core/records/types.ts'
import { joined as joinedText } from '../../../core/records/views.ts'
import type { Instructions } from '../../../core/transcribe/instructions.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { zoneNamed } from '../../../workspace/workspace.ts'
import { agreedTo, answered, canAsk } from '../../output/ask.ts'
import { counted, Page } from '../../output/page.ts'
import { print } from '../../output/terminal.ts'
import {
  isOpen,
  openText,
  senseOf,
  showTranscription,
  type Transcription,
  zoneOutcome,
} from '../../output/transcription.ts'
import { GivenAnswers } from './answers.ts'
import { change } from './apply.ts'
import { changes, type Outcome } from './report.ts'
import type { ChangeOptions, Target } from './target.ts'

export interface JoinOptions extends ChangeOptions {
  fill?: string[]
  mx?: string
  /** Answers to questions, as they were given. */
  answer?: string[]
  /** What cannot exist next to a record that is stated is removed. */
  replace?: boolean
  yes?: boolean
  /** PTR records are written, too. */
  ptr?: boolean
}

/** Where the records come from. */
export interface Source {
  /** What there is for a zone, with what was filled in so far. */
  read(zone: Zone, given: ReadonlyMap<string, string>): Instructions
  /** The question for a blank. */
  asks(blank: Instructions['blanks'][number]): string
  /** What is wrong with an answer to it; undefined where it fits. */
  refuses?(name: string, value: string): string | undefined
  /** Called once the text was read, with the names that `--fill` was given: throws where it cannot be used. */
  check(found: Instructions, filled: readonly string[]): void
  /** Prints what came of it, of one zone or several. */
  tellJson(told: readonly Told[]): void
}

/** What came of one zone. */
export interface Told {
  told: Transcription
  outcome: Outcome
}

/** Joins the records with those of each zone, and writes them all or none. Sets the exit status. */
export async function joinAndWrite(
  source: Source,
  target: Target,
  loaded: Zones,
  into: readonly Zone[],
  options: JoinOptions,
  command: Command,
): Promise<void> {
  const { mx } = options
  if (mx !== undefined && mx !== 'replace' && mx !== 'add') throw new Trouble(`--mx ${mx} must be replace or add`)
  const given = fillsOf(options.fill ?? [])
  const isAsking = !options.json && !options.dryRun && canAsk()
  const answers = new Map<string, string>()
  const called = new GivenAnswers(options.answer ?? [])
  const all: Transcription[] = []
  const joinedIn = (zones: Zones, zone: Zone, { rows, intents }: Instructions): Joined =>
    joinInto(zones, zone, rows, intents, answersFrom(answers, called.of(zone.name), options))
  for (const zone of into) {
    const found = await filledIn(source, zone, given, isAsking)
    source.check(found, [...fillsOf(options.fill ?? []).keys()])
    if (isAsking) await decided(() => joinedIn(loaded, zone, found), answers)
    all.push({ found, joined: joinedIn(loaded, zone, found), zone })
  }
  if (called.unused !== undefined)
    throw new Trouble(`--answer ${called.unused}: no question has this answer. What is asked, and its answers: --json`)
  const open = all.filter(isOpen)
  const mayLeaveOut = isAsking && open.every(canLeaveOut)
  const isStopped =
    open.length > 0 && !(mayLeaveOut && (await agreedTo(printable(`${openText(open)} Write the rest without them?`))))
  const ofEach = (outcome: Outcome): Told[] => all.map((told) => ({ told, outcome: zoneOutcome(outcome, told.zone) }))
  await change(
    target,
    loaded,
    { ...options, dryRun: options.dryRun === true || isStopped },
    command,
    (zones) => {
      const parts = all.map((told) => {
        const at = zoneNamed(zones, told.zone.name)
        told.joined = joinedIn(zones, at, told.found)
        return { zone: at, sets: told.joined.changes, notes: told.joined.notes }
      })
      if (!options.ptr) return { parts }
      const reverse = orTrouble(
        withReverse(
          zones,
          parts.flatMap(({ sets }) => sets),
        ),
      )
      const said = reverse.parts.flatMap(({ sets }) =>
        sets.map(({ owner }) => `The PTR record ${bare(owner)} is written, too.`),
      )
      parts[0]!.notes = [...parts[0]!.notes, ...said, ...reverse.notes]
      return { parts: joinedParts<ZonePart>([...parts, ...reverse.parts]) }
    },
    {
      agree: async (outcome) => options.yes === true || (isAsking && (await agreed(ofEach(outcome), options, command))),
      tell: (outcome) => {
        const isSame = outcome.preview.zones.every((each) => each.files.length === 0)
        const isDone = outcome.committed !== undefined || options.dryRun === true || isSame
        process.exitCode = isStopped || outcome.refused || !isDone ? 1 : 0
        if (options.json) source.tellJson(ofEach(outcome))
        else showAll(ofEach(outcome), options, command, isStopped ? 'open' : 'done')
      },
    },
  )
}

/** Shows what came of each zone; of those that come to the same, once, and which others these are. Of several, how many there are of each kind comes last. */
function showAll(all: readonly Told[], options: JoinOptions, command: Command, how: 'ask' | 'open' | 'done'): void {
  const groups = new Map<string, Told[]>()
  for (const each of all) {
    const key = senseOf(each.told, each.outcome)
    const group = groups.get(key)
    if (group) group.push(each)
    else groups.set(key, [each])
  }
  let isFirst = true
  for (const [first, ...others] of groups.values()) {
    if (!isFirst) print('\n')
    isFirst = false
    showTranscription(first!.told, first!.outcome, options, command, how)
    if (others.length > 0) showOthers(first!, others, command)
  }
  if (all.length > 1 && how !== 'ask') print(printable(`\n${summaryOf(all, how)}\n`))
}

const NAMED = 6

function showOthers(first: Told, others: readonly Told[], command: Command): void {
  const names = others.slice(0, NAMED).map(({ told }) => bare(told.zone.name))
  const more = others.length > names.length ? ` and ${others.length - names.length} more` : ''
  const page = new Page(command)
  page.text(
    `The same as in ${bare(first.told.zone.name)}, in ${counted(others.length, 'other zone')}: ${names.join(', ')}${more}.`,
  )
  page.print()
}

/** How many zones were written, had it all, or are open. */
function summaryOf(all: readonly Told[], how: 'open' | 'done'): string {
  const names = (of: readonly Told[]): string =>
    `${of
      .slice(0, NAMED)
      .map(({ told }) => bare(told.zone.name))
      .join(', ')}${of.length > NAMED ? ', …' : ''}`
  const open = all.filter(({ told }) => isOpen(told))
  const same = all.filter(
    ({ told, outcome }) => !isOpen(told) && outcome.preview.zones.every(({ files }) => files.length === 0),
  )
  const rest = all.length - open.length - same.length
  const unchanged = same.length > 0 ? `, ${same.length} unchanged` : ''
  if (how === 'open')
    return `${counted(all.length, 'zone')}: ${rest} ready${unchanged}, ${open.length} open (${names(open)}). Nothing was written.`
  return `${counted(all.length, 'zone')}: ${rest} ${all.some(({ outcome }) => outcome.committed) ? 'written' : 'not written'}${unchanged}.`
}

/** Shows what is to be written, and asks once for all of it. */
async function agreed(all: readonly Told[], options: JoinOptions, command: Command): Promise<boolean> {
  showAll(all, options, command, 'ask')
  const count = all.reduce((sum, { outcome }) => sum + outcome.preview.zones[0]!.sets.filter(changes).length, 0)
  const where = all.length === 1 ? bare(all[0]!.told.zone.name) : counted(all.length, 'zone')
  const agreed = await agreedTo(`Write ${counted(count, 'record set')} to ${where}?`)
  for (const { told } of all) told.agreed = agreed
  return agreed
}

/** Open questions cannot be left out: they are answered, or nothing is written. Nor can what may replace the mail that is removed. */
const canLeaveOut = ({ found, joined }: Transcription): boolean =>
  found.blanks.length === 0 &&
  joined.questions.length === 0 &&
  !(found.unread.length > 0 && joined.leavesNone(isOfMail))

/** Exchangers and SPF records: without one, mail fails. */
const isOfMail = (type: number, data: Rdata): boolean =>
  type === TYPE.MX || (type === TYPE.TXT && isSpf(joinedText(data)))

function fillsOf(fills: readonly string[]): Map<string, string> {
  return new Map(
    fills.map((fill) => {
      const at = fill.indexOf('=')
      if (at < 1) throw new Trouble(`--fill ${fill} must be NAME=VALUE, as in --fill selector=s1`)
      return [fill.slice(0, at), fill.slice(at + 1)]
    }),
  )
}

/** Reads the records; at a terminal, what they leave blank is asked. */
async function filledIn(
  source: Source,
  zone: Zone,
  given: Map<string, string>,
  isAsking: boolean,
): Promise<Instructions> {
  const skipped = new Set<string>()
  for (;;) {
    const found = source.read(zone, given)
    const blank = isAsking ? found.blanks.find(({ name }) => !skipped.has(name)) : undefined
    if (!blank) return found
    const value = await answered(printable(source.asks(blank)))
    const why = value ? source.refuses?.(blank.name, value) : undefined
    if (why !== undefined) print(printable(`${why}\n`))
    else if (value) given.set(blank.name, value)
    else skipped.add(blank.name)
  }
}

/** A question as it was put: what it says of the zone may be another thing once that has changed. */
const keyOf = ({ about, owner, type, says }: Question): string => `${about} ${foldName(owner)} ${type} ${says}`

const answersFrom =
  (answers: ReadonlyMap<string, string>, called: Answers, { mx, replace }: JoinOptions): Answers =>
  (question) =>
    answers.get(keyOf(question)) ??
    called(question) ??
    (question.about === 'mx' ? mx : question.about === 'excluded' && replace ? question.choices[0] : undefined)

/** Asks what is open, one after another; an answer that is none leaves it open. */
async function decided(join: () => Joined, answers: Map<string, string>): Promise<void> {
  const asked = new Set<string>()
  for (;;) {
    const { questions, resolvable } = join()
    const question = [...questions, ...resolvable].find((each) => !asked.has(keyOf(each)))
    if (!question) return
    asked.add(keyOf(question))
    const answer = await answered(printable(`${question.says} [${question.choices.join('/')}]`))
    const choice = question.choices.find(
      (each) => answer !== undefined && answer !== '' && each.startsWith(answer.toLowerCase()),
    )
    if (choice) answers.set(keyOf(question), choice)
  }
}
