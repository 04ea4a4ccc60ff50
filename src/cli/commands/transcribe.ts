/** Takes over records that somebody hands over as a text: read, cleaned, joined with what the zone has. */
import { readFileSync } from 'node:fs'
import type { Command } from 'commander'
import { joinInto } from '../../core/change/join/join.ts'
import type { Answers, Joined, Question } from '../../core/change/join/joined.ts'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { bare, foldName } from '../../core/names/name.ts'
import { isRefused } from '../../core/result.ts'
import { type Instructions, together } from '../../core/transcribe/instructions.ts'
import { readInstructions } from '../../core/transcribe/read.ts'
import { decodeText } from '../../core/transcribe/text.ts'
import { readFileOrTrouble } from '../../workspace/files.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { loadZones, zoneNamed } from '../../workspace/workspace.ts'
import { changeOptions, collect } from '../options.ts'
import { agreedTo, answered, canAsk } from '../output/ask.ts'
import { counted, printJson } from '../output/page.ts'
import { printable } from '../output/printable.ts'
import { isOpen, openText, showTranscription, type Transcription, transcriptionJson } from '../output/transcription.ts'
import { change, ofZone } from './change/apply.ts'
import { changes, type Outcome } from './change/report.ts'
import { type ChangeOptions, targetOf } from './change/target.ts'

export const define = (command: Command): Command =>
  changeOptions(command.argument('<files...>', 'texts with records, as they were pasted (- for standard input)'))
    .option('--into <zone>', 'the zone that the records are for')
    .option('--fill <name=value>', 'fill in a placeholder of the text (repeatable)', collect)
    .option('--mx <how>', 'replace the MX records that are there, or add to them: replace or add')
    .option('--yes', 'write without asking')
    .addHelpText(
      'after',
      `
The text may be an email, a table, a list, a web page: what states a record is
read, all else is passed over. Records join those in the zone by purpose.

  bramblefront transcribe email.txt --into example.com`,
    )
    .action(transcribe)

interface TranscribeOptions extends ChangeOptions {
  into?: string
  fill?: string[]
  mx?: string
  yes?: boolean
}

async function transcribe(files: string[], options: TranscribeOptions, command: Command): Promise<void> {
  const { into, mx } = options
  if (into === undefined && options.file === undefined)
    throw new Trouble('say which zone the records are for: bramblefront transcribe FILE --into ZONE')
  if (mx !== undefined && mx !== 'replace' && mx !== 'add') throw new Trouble(`--mx ${mx} must be replace or add`)
  const given = fillsOf(options.fill ?? [])
  const texts = files.map(textOf)
  const target = await targetOf(options.file === undefined ? options : { ...options, zone: options.zone ?? into })
  const loaded = loadZones(target.files, options.includeAnywhere)
  const zone = into === undefined ? loaded.zones[0]! : zoneNamed(loaded, into)
  const isAsking = !options.json && !options.dryRun && canAsk()
  const found = await filledIn(texts, zone, given, isAsking)
  mustHaveRecords(found, files)
  mustHaveBlanks(found, [...given.keys()])
  const answers = new Map<string, string>()
  const joinedIn = (zones: Zones, at: Zone): Joined =>
    joinInto(zones, at, found.rows, found.intents, answersFrom(answers, mx))
  if (isAsking) await decided(() => joinedIn(loaded, zone), answers)
  const told: Transcription = { found, joined: joinedIn(loaded, zone), zone }
  const leftOut = `${openText(told)} Write the rest without them?`
  const isStopped = isOpen(told) && !(isAsking && canLeaveOut(told) && (await agreedTo(printable(leftOut))))
  await change(
    target,
    loaded,
    { ...options, dryRun: options.dryRun === true || isStopped },
    command,
    ofZone(zone, (zones, at) => {
      told.joined = joinedIn(zones, at)
      return { changes: told.joined.changes, notes: told.joined.notes }
    }),
    {
      agree: async (outcome) => options.yes === true || (isAsking && (await agreed(told, outcome, options, command))),
      tell: (outcome) => tell(told, outcome, isStopped, options, command),
    },
  )
}

/** Shows what is to be written, and asks. */
async function agreed(
  told: Transcription,
  outcome: Outcome,
  options: TranscribeOptions,
  command: Command,
): Promise<boolean> {
  showTranscription(told, outcome, options, command, 'ask')
  const { length } = outcome.preview.zones[0]!.sets.filter(changes)
  told.agreed = await agreedTo(`Write ${counted(length, 'record set')} to ${bare(told.zone.name)}?`)
  return told.agreed
}

/** Says what came of it, and sets the exit status. */
function tell(
  told: Transcription,
  outcome: Outcome,
  isStopped: boolean,
  options: TranscribeOptions,
  command: Command,
): void {
  const isSame = outcome.preview.zones.every((each) => each.files.length === 0)
  const isDone = outcome.committed !== undefined || options.dryRun === true || isSame
  process.exitCode = isStopped || outcome.refused || !isDone ? 1 : 0
  if (options.json) printJson(transcriptionJson(told, outcome))
  else showTranscription(told, outcome, options, command, isStopped ? 'open' : 'done')
}

function mustHaveRecords(
  { rows, blanks, unread, intents, features, secrets }: Instructions,
  files: readonly string[],
): void {
  if ([rows, blanks, unread, intents, features, secrets].every((each) => each.length === 0))
    throw new Trouble(`${files.join(', ')}: no record was found in it. A record needs a type, a name and a value`)
}

function mustHaveBlanks({ asked }: Instructions, given: readonly string[]): void {
  const unknown = given.find((name) => !asked.has(name))
  if (unknown === undefined) return
  const known = asked.size > 0 ? `; it has: ${[...asked].join(', ')}` : ''
  throw new Trouble(`--fill ${unknown}: the text has no such placeholder${known}`)
}

/** Open questions cannot be left out: they are answered, or nothing is written. */
const canLeaveOut = ({ found, joined }: Transcription): boolean =>
  found.blanks.length === 0 && joined.questions.length === 0

function textOf(file: string): string {
  const decoded = decodeText(file === '-' ? readFileSync(0) : readFileOrTrouble(file))
  if (isRefused(decoded)) throw new Trouble(`${file === '-' ? 'standard input' : file} ${decoded.refused}`)
  return decoded.text
}

function fillsOf(fills: readonly string[]): Map<string, string> {
  return new Map(
    fills.map((fill) => {
      const at = fill.indexOf('=')
      if (at < 1) throw new Trouble(`--fill ${fill} must be NAME=VALUE, as in --fill selector=s1`)
      return [fill.slice(0, at), fill.slice(at + 1)]
    }),
  )
}

/** Reads the texts; at a terminal, what they leave blank is asked. */
async function filledIn(
  texts: readonly string[],
  zone: Zone,
  given: Map<string, string>,
  isAsking: boolean,
): Promise<Instructions> {
  const read = (): Instructions => together(texts.map((text) => readInstructions(text, zone.name, given)))
  let found = read()
  const skipped = new Set<string>()
  for (;;) {
    const blank = isAsking ? found.blanks.find(({ name }) => !skipped.has(name)) : undefined
    if (!blank) return found
    const value = await answered(printable(`Line ${blank.line}: what is ${blank.text} (${blank.name})?`))
    if (value) given.set(blank.name, value)
    else skipped.add(blank.name)
    found = read()
  }
}

const keyOf = ({ about, owner, type }: Question): string => `${about} ${foldName(owner)} ${type}`

const answersFrom =
  (answers: ReadonlyMap<string, string>, mx: string | undefined): Answers =>
  (question) =>
    answers.get(keyOf(question)) ?? (question.about === 'mx' ? mx : undefined)

/** Asks what is open, one after another; an answer that is none leaves it open. */
async function decided(join: () => Joined, answers: Map<string, string>): Promise<void> {
  const asked = new Set<string>()
  for (;;) {
    const question = join().questions.find((each) => !asked.has(keyOf(each)))
    if (!question) return
    asked.add(keyOf(question))
    const answer = await answered(printable(`${question.says} [${question.choices.join('/')}]`))
    const choice = question.choices.find(
      (each) => answer !== undefined && answer !== '' && each.startsWith(answer.toLowerCase()),
    )
    if (choice) answers.set(keyOf(question), choice)
  }
}
