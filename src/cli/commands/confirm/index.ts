import type { Command } from 'commander'
import { Memory } from '../../../core/confirm/memory.ts'
import type { Confirmation } from '../../../core/confirm/plan.ts'
import { confirmAll } from '../../../core/confirm/round.ts'
import type { StatusWord } from '../../../core/confirm/status.ts'
import { statedSpan } from '../../../core/confirm/time-text.ts'
import { watch } from '../../../core/confirm/watch.ts'
import { readLog } from '../../../workspace/log.ts'
import { noteSeen, type Seen } from '../../../workspace/seen.ts'
import { notices, Trouble } from '../../../workspace/trouble.ts'
import { fileOf } from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import { now, today } from '../../clock.ts'
import {
  AT_HELP,
  collect,
  includeOption,
  jsonOption,
  RATE_HELP,
  viewOption,
  workspaceOption,
  zoneOption,
} from '../../options.ts'
import type { Confirmed } from '../../output/confirmation/confirmed.ts'
import { printJson } from '../../output/page.ts'
import { progressBar } from '../../output/progress.ts'
import { choose } from '../source.ts'
import { limitOf, rateOf } from '../whom.ts'
import { Askers } from './askers.ts'
import { type ConfirmOptions, plan } from './plans.ts'

/** Statuses by what they mean for the exit status. */
const WRONG: readonly StatusWord[] = ['wrong', 'split', 'overdue', 'not-published']

export const define = (command: Command): Command =>
  command
    .argument('[what]', 'a zone file, or a zone or name of the workspace (default: all zones)')
    .addOption(zoneOption())
    .option('--at <whom>', AT_HELP, collect)
    .option('--only-authoritative', 'ask only the zone’s authoritative servers')
    .option(
      '--early',
      'ask resolvers even before all authoritative servers have a set: they may then cache the negative answer',
    )
    .option('--samples <number>', 'how many times to ask each resolver: several caches may answer at one address', '1')
    .option('--watch', 'keep asking until everything is confirmed')
    .option('--deadline <time>', 'with --watch: stop after this time, as in 30m')
    .option('--rate <number>', RATE_HELP)
    .option('--timeout <seconds>', 'how long to wait for an answer', '5')
    .option('--all', 'list every record set')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(confirm)

/** Writes what was seen to the log. Where that fails, it is still told; it is not remembered. */
async function kept(folder: string, seen: readonly Seen[]): Promise<void> {
  try {
    await noteSeen(folder, seen, today(), callText())
  } catch (error) {
    if (!(error instanceof Trouble)) throw error
    notices.add(`${error.message}; what was seen now is not remembered`)
  }
}

/** Asks every vantage for every set, and compares. Exit status 1 where something is wrong, 3 where only the asking failed, 4 where it is settling. */
async function confirm(what: string | undefined, options: ConfirmOptions, command: Command): Promise<void> {
  const samples = Number(options.samples ?? 1)
  if (!(Number.isInteger(samples) && samples >= 1 && samples <= 100))
    throw new Trouble(`--samples ${options.samples} must be a number from 1 to 100`)
  const span = options.deadline === undefined ? undefined : statedSpan(options.deadline)
  if (options.deadline !== undefined && (span === undefined || !options.watch))
    throw new Trouble(
      options.watch ? `--deadline ${options.deadline} must be a time, as in 30m or 2h` : '--deadline requires --watch',
    )
  const source = await choose(what, options)
  const folder = source.workspace?.folder
  const memory = new Memory(folder === undefined ? [] : readLog(folder), options.view, now())
  const askers = new Askers({ limitMs: limitOf(options), rate: rateOf(options.rate) })
  const stop = new AbortController()
  const confirmed: Confirmed = {
    plans: [],
    confirmations: [],
    vantages: askers.vantages,
    about: source.name,
    samples,
    watching: options.watch === true,
  }
  const logged: string[] = []
  const keep = async (confirmations: readonly Confirmation[]): Promise<void> => {
    if (folder === undefined) return
    const seen = confirmations.map(({ state, own, sets, parties, at }, i): Seen => {
      const { zone, whole, digest = '' } = confirmed.plans[i]!
      const edited = memory.isOther(zone.name, digest)
      const lines = memory.note({
        zone,
        about: source.name,
        sets,
        own,
        vantages: parties.map(({ label }) => label),
        state,
        now: at,
        some: !whole,
        digest,
      })
      const all = { file: fileOf(source.workspace!, zone.name)!, digest, edited, lines }
      // A long watch is not logged round by round, but whenever something is other than it was.
      if (!options.watch) return all
      const said = JSON.stringify(lines.map(({ at: _, ...line }) => line))
      const before = logged[i]
      logged[i] = said
      return { ...all, edited: edited && before === undefined, lines: said === before ? [] : lines }
    })
    await kept(folder, seen)
  }
  try {
    await plan(what, options, source, memory, askers, confirmed)
    const steps = confirmed.plans.reduce((sum, { questions, parties }) => sum + questions.length * parties.length, 0)
    const asking = askers.asking(stop.signal)
    if (options.watch) {
      const { watchScreen } = await import('../../output/watch.ts')
      const screen = watchScreen(command, confirmed, options.json === true)
      // The first leaves the summary, the second everything.
      process.on('SIGINT', () => (stop.signal.aborted ? process.exit(130) : stop.abort()))
      confirmed.confirmations = await watch(confirmed.plans, asking, {
        deadline: span === undefined ? undefined : now() + span,
        stopped: () => stop.signal.aborted,
        ended: (how) => void (confirmed.ended = how),
        async round(confirmations, next) {
          await keep(confirmations)
          screen.show(confirmations, next)
        },
      })
      screen.end()
    } else {
      const progress = await progressBar('asking', 100)
      progress?.expect(steps)
      asking.progress = () => progress?.increment()
      confirmed.confirmations = await confirmAll(confirmed.plans, asking)
      progress?.stop()
      await keep(confirmed.confirmations)
    }
  } finally {
    askers.close()
  }
  const sets = confirmed.confirmations.flatMap(({ own, sets: ofZone }) => [...own, ...ofZone])
  const has = (words: readonly StatusWord[]): boolean => sets.some(({ status }) => words.includes(status.word))
  const unread = confirmed.plans.some((each) => each.unread.length > 0)
  const faulty =
    unread ||
    has(WRONG) ||
    confirmed.confirmations.some(({ remarks, nowhere }) => nowhere.length > 0 || remarks.some(({ wrong }) => wrong))
  process.exitCode = faulty ? 1 : has(['unreachable']) ? 3 : has(['settling']) ? 4 : 0
  if (options.json) return printJson((await import('../../output/confirmation/json.ts')).confirmationJson(confirmed))
  const { report } = await import('../../output/confirmation/report.ts')
  report(command, confirmed, options.all === true)
}
