/** `sheet --tick`: the rows one after another, each ticked off once the zone’s servers answer what it says. */
import type { Command } from 'commander'
import { cameSet } from '../../../core/confirm/came.ts'
import { Memory } from '../../../core/confirm/memory.ts'
import type { Asking } from '../../../core/confirm/plan.ts'
import type { Question } from '../../../core/confirm/questions.ts'
import { confirmRound } from '../../../core/confirm/round.ts'
import type { ConfirmedSet } from '../../../core/confirm/status.ts'
import type { Seconds } from '../../../core/model/zones.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { typeText } from '../../../core/records/types.ts'
import { type ActionRow, changedRows, everyRow, withoutWildcards } from '../../../core/sheet/changes.ts'
import { lastTick, otherTtlOf, type TickLine, tickOf } from '../../../core/sheet/tick.ts'
import { freshId } from '../../../workspace/backups.ts'
import { appendLog, readLog } from '../../../workspace/log.ts'
import { notices, Trouble } from '../../../workspace/trouble.ts'
import { callText } from '../../call.ts'
import { now, today } from '../../clock.ts'
import { answered, canAsk } from '../../output/ask.ts'
import { problem } from '../../output/confirmation/blocks.ts'
import type { Confirmed, ZonePlan } from '../../output/confirmation/confirmed.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { Askers } from '../confirm/askers.ts'
import { plan } from '../confirm/plans.ts'
import { limitOf, rateOf } from '../whom.ts'
import { type SheetCall, sheetJson } from './call.ts'

/** Asks the zone’s servers for everything first. What they have is ticked off; at a terminal, the rest is gone through. */
export async function tick(call: SheetCall, command: Command): Promise<void> {
  const { source, zone, style, options } = call
  const folder = source.workspace?.folder
  const lines = folder === undefined ? [] : readLog(folder, [zone.name])
  const askers = new Askers({ limitMs: limitOf(options), rate: rateOf(options.rate) })
  const confirmed: Confirmed = { plans: [], confirmations: [], vantages: askers.vantages, samples: 1 }
  try {
    const how = { ...options, onlyAuthoritative: options.at === undefined, early: true }
    await plan(
      call.stated,
      how,
      { ...source, name: undefined },
      new Memory(lines, options.view, now()),
      askers,
      confirmed,
    )
    const [planned] = confirmed.plans
    const before = lastTick(lines, foldName(zone.name), zone.view, style.label)
    const walk = new Walk(call, planned!, askers.asking(new AbortController().signal), before)
    await walk.askAll()
    if (options.json) printJson(sheetJson(zone, style, walk.rows()))
    else {
      walk.begin(command)
      if (walk.open().length > 0 && canAsk()) await walk.goThrough(command)
      else walk.tellOpen(command)
      walk.end(command)
    }
    const open = walk.open()
    process.exitCode = open.length === 0 ? 0 : open.every((each) => walk.stateOf(each) === 'unanswered') ? 3 : 1
    if (folder !== undefined) await remembered(folder, walk.line())
  } finally {
    askers.close()
  }
}

/** What cannot be remembered is told; the sheet is as it is all the same. */
async function remembered(folder: string, line: TickLine): Promise<void> {
  try {
    await appendLog(folder, () => [{ id: freshId(today()), ...line }])
  } catch (error) {
    if (!(error instanceof Trouble)) throw error
    notices.add(`${error.message}; where you left is not remembered`)
  }
}

/** What a person may answer. */
const KEYS = 'Enter: typed, ask the servers · s: skip · q: leave'

class Walk {
  private readonly call: SheetCall
  private readonly planned: ZonePlan
  private readonly asking: Asking
  private readonly before: TickLine | undefined
  private readonly accepted: Map<string, Seconds>
  private sets: ConfirmedSet[] = []

  constructor(call: SheetCall, planned: ZonePlan, asking: Asking, before: TickLine | undefined) {
    this.call = call
    this.planned = planned
    this.asking = asking
    this.before = before
    this.accepted = new Map(before?.accepted.map(([owner, type, ttl]) => [`${owner} ${type}`, ttl]))
  }

  async askAll(): Promise<void> {
    this.sets = await this.ask(this.planned.questions.filter(this.call.isWanted))
  }

  private async ask(questions: readonly Question[]): Promise<ConfirmedSet[]> {
    return (await confirmRound({ ...this.planned, questions }, this.asking)).sets
  }

  stateOf(set: ConfirmedSet) {
    return tickOf(set, this.call.style, this.accepted.get(keyOf(set)))
  }

  /** What is not ticked off: at a name, what has to be deleted comes first. */
  open(): ConfirmedSet[] {
    return this.sets.filter((set) => this.stateOf(set) !== 'ticked')
  }

  private rowsOf(set: ConfirmedSet): ActionRow[] {
    const { zone, style } = this.call
    const { question, answers } = set
    const { owner, intended } = question
    const there = answers.map((answer) => cameSet(question, answer)).find((each) => each !== undefined)
    if (intended) {
      const after = { ...intended, owner }
      const wildcards = this.sets.flatMap(({ question: { owner: of, intended: own } }) =>
        own && of.startsWith('*.') ? [{ ...own, owner: of }] : [],
      )
      const preview = { owner, type: intended.type, before: there, after }
      const rows = changedRows(withoutWildcards([preview], wildcards), zone, style)
      return this.stateOf(set) === 'open' && rows.length > 0 ? rows : everyRow([after], zone, style)
    }
    return there ? everyRow([there], zone, style).map((row) => ({ ...row, action: 'delete', hints: [] })) : []
  }

  /** All of them; those that are ticked off are kept. */
  rows(): ActionRow[] {
    return this.sets.flatMap((set) =>
      this.rowsOf(set).map((row) => (this.stateOf(set) === 'ticked' ? { ...row, action: 'keep' as const } : row)),
    )
  }

  begin(command: Command): void {
    const page = new Page(command)
    const { zone, style } = this.call
    const done = this.sets.length - this.open().length
    page.text(
      `${bare(zone.name)}, in the style ${style.label}: ${done} of ${counted(this.sets.length, 'record set')} ticked off`,
      '',
      '',
      page.colour.bold,
    )
    if (this.before && this.before.open.length > 0)
      page.text(
        `Left on ${this.before.at.slice(0, 16).replace('T', ' ')} UTC with ${this.before.ticked} of ${this.before.of}.`,
      )
    page.print()
  }

  /** The rows that are not ticked off, with what the servers answer instead. */
  tellOpen(command: Command): void {
    const page = new Page(command)
    const told = new Set<string>()
    for (const set of this.open()) {
      page.line()
      this.row(page, set)
      this.answer(page, set, told)
    }
    page.print()
  }

  /** Shows one row after the other, and asks for each once it is typed, until it is there. */
  async goThrough(command: Command): Promise<void> {
    const all = this.open()
    for (const [i, first] of all.entries()) {
      const page = new Page(command)
      page.line()
      page.line(page.colour.dim(`Row ${i + 1} of ${all.length}`))
      this.row(page, first)
      page.print()
      for (let said = await answered(`  ${KEYS} ›`); ; said = await answered(`  ${this.keys(first.question)} ›`)) {
        const key = said?.toLowerCase()
        if (key === undefined || key === 'q') return
        if (key === 's') break
        if (key === 'a' && this.accepts(first.question)) break
        const [set] = await this.ask([first.question])
        this.sets = this.sets.map((each) => (each.question === first.question ? set! : each))
        this.answer(page, set!, new Set())
        page.print()
        if (this.stateOf(set!) === 'ticked') break
      }
    }
  }

  private keys(question: Question): string {
    const set = this.sets.find((each) => each.question === question)!
    const again = 'Enter: ask again · s: skip · q: leave'
    return this.stateOf(set) === 'other-ttl' ? `${again} · a: accept that TTL` : again
  }

  /** Accepts the TTL that a set has at the servers. */
  private accepts(question: Question): boolean {
    const set = this.sets.find((each) => each.question === question)!
    const ttl = otherTtlOf(set)
    if (this.stateOf(set) !== 'other-ttl' || ttl === undefined) return false
    this.accepted.set(keyOf(set), ttl)
    return true
  }

  /** A row as the form has it: a field a line. */
  private row(page: Page, set: ConfirmedSet): void {
    const { colour } = page
    for (const { action, before, fields, hints } of this.rowsOf(set)) {
      const width = Math.max(...fields.map(({ label }) => label.length))
      page.line(`  ${colour.bold(action)}`)
      if (action === 'change' && before) page.line(colour.dim(printable(`    now there: ${before.join(', ')}`)))
      for (const { label, value } of fields)
        for (const [i, line] of value.split('\n').entries())
          page.line(`    ${colour.dim(printable((i === 0 ? label : '').padEnd(width)))}  ${printable(line)}`)
      for (const hint of hints) page.text(hint, '      ', '    · ')
    }
  }

  /** What the servers answered, in a line or with the likely causes. */
  private answer(page: Page, set: ConfirmedSet, told: Set<string>): void {
    const { colour } = page
    const state = this.stateOf(set)
    const servers = set.answers.map(({ vantage }) => vantage).join(', ')
    if (state === 'ticked') page.line(`  ${colour.green('✓ ticked off')}  ${printable(`as intended at ${servers}`)}`)
    else if (state === 'unanswered')
      page.text(`none of the servers answered (${servers})`, '    ', `  ${colour.yellow('?')} `)
    else if (state === 'other-ttl') {
      page.text(
        `the data is right; its TTL is ${otherTtlOf(set)} instead of ${set.question.intended?.ttl}`,
        '    ',
        `  ${colour.yellow('!')} `,
      )
    } else problem(page, set, told)
  }

  end(command: Command): void {
    const page = new Page(command)
    const open = this.open()
    const names = open.slice(0, 8).map(({ question: { owner, type } }) => `${bare(owner)} ${typeText(type)}`)
    const all = counted(this.sets.length, 'record set')
    page.line()
    page.text(
      open.length === 0
        ? `All ${all} of ${bare(this.call.zone.name)} are ticked off. Next: bramblefront ${printable(this.confirm())}`
        : `${this.sets.length - open.length} of ${all} ticked off. Still open: ${names.join(', ')}${open.length > 8 ? ', …' : ''}. To go on: bramblefront ${printable(callText())}`,
    )
    page.print()
  }

  /** The call that confirms the same at the same servers. */
  private confirm(): string {
    const { at = [], zone, view, workspace } = this.call.options
    const options = [
      ...at.map((each) => ['--at', each]),
      ['--zone', zone],
      ['--view', view],
      ['--workspace', workspace],
    ]
    const stated = options.flatMap(([option, value]) => (value === undefined ? [] : [option!, value]))
    return callText(['confirm', this.call.stated, ...stated])
  }

  line(): TickLine {
    const { zone, style } = this.call
    const open = this.open()
    const pair = ({ question: { owner, type } }: ConfirmedSet): [string, string] => [foldName(owner), typeText(type)]
    return {
      at: today().toISOString(),
      what: 'tick',
      zone: foldName(zone.name),
      ...(zone.view === undefined ? {} : { view: zone.view }),
      style: style.label,
      ticked: this.sets.length - open.length,
      of: this.sets.length,
      accepted: this.sets.flatMap((set) => {
        const ttl = this.accepted.get(keyOf(set))
        return ttl === undefined ? [] : [[...pair(set), ttl] as [string, string, Seconds]]
      }),
      open: open.map(pair),
    }
  }
}

const keyOf = ({ question: { owner, type } }: ConfirmedSet): string => `${foldName(owner)} ${typeText(type)}`
