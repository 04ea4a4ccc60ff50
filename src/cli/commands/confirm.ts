import { randomBytes } from 'node:crypto'
import type { Command } from 'commander'
import { foldName } from '../../core/names/name.ts'
import { typeText } from '../../core/records/types.ts'
import { type Judged, judge, type Question, questionsFor, type Standing, standingOf } from '../../core/verdicts/verdict.ts'
import type { Zone } from '../../core/zone/zones.ts'
import { Asker } from '../../net/ask.ts'
import type { Vantage } from '../../core/verdicts/observation.ts'
import { parseVantage } from '../../net/vantage.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { printable } from '../output/printable.ts'
import { progressBar } from '../output/progress.ts'
import { table } from '../output/table.ts'
import { limitOf, vantagesFor } from './live.ts'
import { choose, type SourceOptions } from './source.ts'

interface Options extends SourceOptions {
  at?: string[]
  limit: string
  all?: boolean
  json?: boolean
}

interface ConfirmedSet {
  zone: Zone
  question: Question
  standing: Standing
  answers: Judged[]
}

/** Confirmed sets are listed one by one up to this many; beyond, they are counted. */
const LISTED = 60

/** Asks every vantage for every set, and compares. Exit status 1 where an answer differs, 3 where only the asking failed. */
export async function confirm(what: string | undefined, options: Options, command: Command): Promise<void> {
  const source = await choose(what, options)
  const vantages = options.at || !source.workspace ? await vantagesFor(options) : source.workspace.vantages
  if (vantages.length === 0)
    throw new Trouble(`nobody to ask: state one with --at ADDRESS[:PORT]${source.workspace ? ', or name vantages in bramblefront.yaml' : ''}`)
  const limitMs = limitOf(options)
  const fresh = `bramblefront-${randomBytes(6).toString('hex')}`
  const left: { owner: string; type: number; why: string }[] = []
  const asked: { zone: Zone; question: Question }[] = []
  for (const zone of source.chosen) {
    const found = questionsFor(source.zones, zone, fresh)
    const inName = (each: { owner: string }): boolean => source.name === undefined || foldName(each.owner) === source.name
    asked.push(...found.questions.filter(inName).map((question) => ({ zone, question })))
    left.push(...found.left.filter(inName))
  }
  if (asked.length === 0) throw new Trouble(source.name ? `${source.name} has no record set of its own to ask for` : 'there is no record set to ask for')
  const at = new Date()
  const sets = await askAll(asked, vantages, limitMs)
  const counts = { confirmed: 0, wrong: 0, unreachable: 0 }
  for (const set of sets) counts[set.standing]++
  process.exitCode = counts.wrong > 0 ? 1 : counts.unreachable > 0 ? 3 : 0
  if (options.json) printJson(document(source.chosen, sets, counts, vantages, at, left))
  else report(new Page(command), source.chosen, sets, counts, vantages, at, left, options.all === true)
}

async function askAll(asked: { zone: Zone; question: Question }[], vantages: Vantage[], limitMs: number): Promise<ConfirmedSet[]> {
  const askers = vantages.map((vantage) => new Asker(vantage, { limitMs }))
  const progress = await progressBar('asking', asked.length * vantages.length, 100)
  try {
    return await Promise.all(
      asked.map(async ({ zone, question }): Promise<ConfirmedSet> => {
        const answers = await Promise.all(
          askers.map(async (asker) => {
            const judged = judge(question, await asker.ask(question.asked, question.type))
            progress?.increment()
            return judged
          }),
        )
        return { zone, question, answers, standing: standingOf(answers.map((each) => each.verdict)) }
      }),
    )
  } finally {
    progress?.stop()
    for (const asker of askers) asker.close()
  }
}

type Counts = Record<Standing, number>
type Left = { owner: string; type: number; why: string }[]

function document(chosen: Zone[], sets: ConfirmedSet[], counts: Counts, vantages: Vantage[], at: Date, left: Left): object {
  return {
    format: 1,
    zone: chosen.length === 1 ? foldName(chosen[0].name) : null,
    at: at.toISOString(),
    vantages,
    sets: sets.map(({ zone, question, standing, answers }) => ({
      ...(chosen.length === 1 ? {} : { zone: foldName(zone.name) }),
      owner: foldName(question.owner),
      type: typeText(question.type),
      ...(question.asked === question.owner ? {} : { asked: question.asked }),
      standing,
      answers,
    })),
    left: left.map(({ owner, type, why }) => ({ owner: foldName(owner), type: typeText(type), why })),
    counts,
  }
}

function report(page: Page, chosen: Zone[], sets: ConfirmedSet[], counts: Counts, vantages: Vantage[], at: Date, left: Left, all: boolean): void {
  const { colour } = page
  const paint: Record<Standing, (text: string) => string> = {
    confirmed: colour.green,
    wrong: (text) => colour.bold(colour.red(text)),
    unreachable: (text) => colour.bold(colour.yellow(text)),
  }
  const where = chosen.length === 1 ? chosen[0].name : counted(chosen.length, 'zone')
  page.text(
    `${where}  ${counted(sets.length, 'record set')}, asked of ${counted(vantages.length, 'vantage')} at ${at.toISOString().replace('T', ' ').slice(0, 19)} UTC:`,
  )
  table(
    page,
    vantages.map(({ label, address, port }) => (parseVantage(label) ? [`${address} port ${port}`, ''] : [label, `${address} port ${port}`])),
    '  ',
  )
  page.line()
  const confirmed = sets.filter((set) => set.standing === 'confirmed')
  if (confirmed.length <= LISTED || all)
    table(
      page,
      confirmed.map(({ question, answers }) => ['confirmed', `${question.owner} ${typeText(question.type)}`, confirmedNote(question, answers)]),
      '',
      (cell, column) => (column === 0 ? paint.confirmed(cell) : column === 2 ? colour.dim(cell) : cell),
    )
  else page.text(`${counted(confirmed.length, 'set')} confirmed (--all lists them)`)
  for (const set of sets.filter((each) => each.standing !== 'confirmed')) {
    page.line()
    page.line(`${paint[set.standing](set.standing)}  ${printable(`${set.question.owner} ${typeText(set.question.type)}`)}`)
    table(page, set.answers.flatMap(answerRows), '  ')
  }
  page.line()
  if (left.length > 0) page.text(`Not asked: ${left.map((each) => `${each.owner} ${typeText(each.type)} (${each.why})`).join('; ')}.`)
  page.text(closing(sets, counts, vantages))
  page.print()
}

function confirmedNote({ asked, owner }: Question, answers: Judged[]): string {
  const ttls = [...new Set(answers.map((answer) => answer.ttl))]
  return `${asked === owner ? '' : `asked as ${asked}, `}TTL ${ttls.join(' and ')}`
}

function answerRows(answer: Judged): string[][] {
  const notes = [
    ...(answer.detail ? [answer.detail] : []),
    ...(answer.verdict === 'different' ? [...answer.missing.map((value) => `missing: ${value}`), ...answer.extra.map((value) => `extra: ${value}`)] : []),
    ...(answer.verdict === 'as-intended' ? [`TTL ${answer.ttl}`] : []),
  ]
  return notes.map((note, i) => [i === 0 ? answer.vantage : '', i === 0 ? answer.verdict : '', note])
}

function closing(sets: ConfirmedSet[], counts: Counts, vantages: Vantage[]): string {
  if (counts.wrong > 0)
    return `${counts.wrong} of ${counted(sets.length, 'set')} wrong. What is served there is not what the zone file says: was the file published, and its serial advanced?`
  if (counts.unreachable > 0)
    return `${counts.confirmed} of ${counted(sets.length, 'set')} confirmed; for the others a vantage did not reply. Nothing is known to be wrong.`
  return `All ${counted(sets.length, 'set')} confirmed by ${vantages.length === 1 ? 'the one vantage' : `all ${vantages.length} vantages`} asked.`
}
