/** A confirmation while it is waited for: one screen on a terminal, one line a change elsewhere. */

import type { Command } from 'commander'
import type { Confirmation } from '../../core/confirm/plan.ts'
import type { ConfirmedSet } from '../../core/confirm/status.ts'
import { statusCounts } from '../../core/confirm/status.ts'
import { spanText, timeText } from '../../core/confirm/time-text.ts'
import { printable } from '../../core/printable.ts'
import { CLOCK } from '../clock.ts'
import type { Confirmed } from './confirmation/confirmed.ts'
import { paintStatus, setText, statusText } from './confirmation/words.ts'
import { counted, Page } from './page.ts'
import { table } from './table.ts'
import { print, printNote } from './terminal.ts'

const BAR = 40
/** Rows of what is awaited that a screen shows. */
const AWAITED = 20

export interface WatchScreen {
  show(confirmations: readonly Confirmation[], next: number | undefined): void
  /** Takes the screen away: what comes after it is the summary. */
  end(): void
}

export function watchScreen(command: Command, confirmed: Confirmed, quiet: boolean): WatchScreen {
  const out = quiet ? printNote : print
  return (quiet ? process.stderr : process.stdout).isTTY ? onTerminal(command, confirmed, out) : byLines(out)
}

function byLines(out: typeof print): WatchScreen {
  const said = new Map<string, string>()
  return {
    show(confirmations, next) {
      for (const { own, sets, at } of confirmations)
        for (const set of [...own, ...sets]) {
          const before = said.get(setText(set))
          const { word, text } = set.status
          said.set(setText(set), word)
          // At first, only what is awaited.
          if (before === word || (before === undefined && word === 'confirmed')) continue
          out(printable(`${new Date(at * 1000).toISOString().slice(0, 19)}Z  ${word}  ${setText(set)}  ${text}`) + '\n')
        }
      const sets = confirmations.flatMap((each) => each.sets)
      const { confirmed } = statusCounts(sets)
      if (next !== undefined)
        out(
          `${new Date(confirmations[0]!.at * 1000).toISOString().slice(0, 19)}Z  ${confirmed} of ${sets.length} confirmed; next at ${timeText(next, confirmations[0]!.at)}\n`,
        )
    },
    end() {},
  }
}

function onTerminal(command: Command, { plans, about }: Confirmed, out: typeof print): WatchScreen {
  let timer: NodeJS.Timeout | undefined
  let draw: () => void = () => {}
  // The other screen of the terminal: what was there comes back in the end.
  out('\u001b[?1049h\u001b[?25l')
  const leave = (): void => void out('\u001b[?25h\u001b[?1049l')
  process.once('exit', leave)
  const started = CLOCK.elapsed()
  return {
    show(confirmations, next) {
      clearInterval(timer)
      const at = CLOCK.elapsed()
      const sets = confirmations.flatMap((each) => each.sets)
      const own = confirmations.flatMap((each) => each.own)
      draw = () => {
        const now = confirmations[0]!.at + (CLOCK.elapsed() - at) / 1000
        out(
          `\u001b[H${screen(new Page(command), about ?? plans.map(({ zone }) => zone.name).join(', '), { own, sets }, now, next, (CLOCK.elapsed() - started) / 1000)}\u001b[J`,
        )
      }
      draw()
      timer = setInterval(draw, 1000)
    },
    end() {
      clearInterval(timer)
      process.removeListener('exit', leave)
      leave()
    },
  }
}

/** The screen as lines, each cleared to its end. */
function screen(
  page: Page,
  name: string,
  { own, sets }: { own: readonly ConfirmedSet[]; sets: readonly ConfirmedSet[] },
  now: number,
  next: number | undefined,
  waited: number,
): string {
  const { colour } = page
  const counts = statusCounts(sets)
  const done = Math.round((BAR * counts.confirmed) / Math.max(1, sets.length))
  page.line(`${colour.bold(printable(name))}  ${colour.dim(`${timeText(now, now)}, watching for ${spanText(waited)}`)}`)
  page.line()
  page.line(
    `  ${colour.green('█'.repeat(done))}${colour.dim('░'.repeat(BAR - done))}  ${counts.confirmed} of ${counted(sets.length, 'set')} confirmed`,
  )
  page.line()
  const open = [...own, ...sets]
    .filter(({ status }) => status.word !== 'confirmed')
    .sort((a, b) => (a.status.until ?? 0) - (b.status.until ?? 0))
  if (open.length > 0) page.line(colour.dim('  waiting for:'))
  const shown = open.slice(0, AWAITED)
  table(
    page,
    shown.map((set) => {
      const { until, atMost, text, word } = set.status
      const end =
        until === undefined
          ? ''
          : until > now
            ? `${atMost ? 'at most ' : ''}${spanText(until - now)}, until ${timeText(until, now)}`
            : `since ${timeText(until, now)}`
      return [statusText(word), setText(set), end === '' || word !== 'settling' ? text : end]
    }),
    '  ',
    (cell, column, row) => (column === 0 ? paintStatus(colour, shown[row]!.status.word, cell) : cell),
  )
  if (open.length > shown.length) page.line(`  and ${open.length - shown.length} more`)
  page.line()
  if (next !== undefined) {
    page.line(
      colour.dim(`  asks again at ${timeText(next, now)} (in ${spanText(next - now)}), when something may have`),
    )
    page.line(colour.dim('  changed. Press Ctrl-C to stop and see the summary.'))
  }
  return page.taken().replaceAll('\n', '\u001b[K\n')
}
