import type { Command } from 'commander'
import type { EntrySet, EntrySide } from '../../../core/change/entry.ts'
import { bare } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { folded } from '../../../core/view/fold.ts'
import { counted, Page } from '../../output/page.ts'
import { verbosity } from '../../verbosity.ts'
import { type Asked, about, type Shown } from './entries.ts'
import { shortId, WayBack } from './way-back.ts'

/** So many entries are listed. */
export const LISTED = 40

export function printEntries(
  entries: Iterable<Shown>,
  asked: Asked,
  options: { all?: boolean },
  command: Command,
): void {
  const page = new Page(command)
  const { colour } = page
  const what =
    asked.owner === undefined
      ? asked.zone === undefined
        ? 'all zones'
        : bare(asked.zone)
      : [bare(asked.owner), asked.type].filter(Boolean).join(' ')
  const most = options.all || verbosity.verbose ? Number.POSITIVE_INFINITY : LISTED
  const listed: Shown[] = []
  const way = new WayBack(asked)
  let count = 0
  for (const whole of entries) {
    const [entry] = about(whole, asked)
    way.take(whole, entry)
    if (!entry) continue
    count++
    if (listed.length < most) listed.push(entry)
  }
  if (count === 0) {
    page.text(`${what}: no history yet. It begins with the next change or confirmation.`)
    page.print()
    return
  }
  page.line(
    `${colour.bold(printable(what))}  ${colour.dim(`${counted(count, 'entry', 'entries')}, newest first; times in UTC`)}`,
  )
  for (const entry of listed) {
    page.line()
    head(page, entry, asked)
    details(page, entry, asked)
  }
  page.line()
  if (listed.length < count)
    page.text(`${counted(count - listed.length, 'older entry', 'older entries')} not shown: use --all.`)
  if (way.said !== undefined) page.text(way.said)
  page.print()
}

const WORDS: Record<Shown['what'], string> = {
  change: 'changed',
  edited: 'edited by hand',
  restored: 'restored',
  adopted: 'adopted',
  published: 'published',
  confirmation: 'confirmed',
}

function head(page: Page, { id, at, zone, view, what, serial, open }: Shown, asked: Asked): void {
  const { colour } = page
  const name = id === null ? '(new) ' : shortId(id).padEnd(6)
  const word = what === 'confirmation' && open.length > 0 ? 'asked' : WORDS[what]
  const rest = [
    asked.zone === undefined ? bare(zone) : '',
    view === null ? '' : `view ${view}`,
    serial === null
      ? ''
      : serial.before === serial.after
        ? `serial ${serial.after}`
        : `serial ${serial.before} → ${serial.after}`,
  ].filter((each) => each !== '')
  page.line(
    `${colour.dim(at.slice(0, 16).replace('T', ' '))}  ${colour.cyan(name)}  ${colour.bold(word)}${rest.length > 0 ? `  ${printable(rest.join(', '))}` : ''}`,
  )
}

/** So many sets of an entry are listed. */
const SETS = 12

function details(page: Page, entry: Shown, asked: Asked): void {
  const { colour } = page
  const [indent, deeper] = ['    ', '        ']
  if (entry.command !== null) page.text(`bramblefront ${entry.command}`, deeper, indent, colour.dim)
  const sets = verbosity.verbose ? entry.sets : entry.sets.slice(0, SETS)
  for (const set of sets)
    for (const line of setLines(set, asked)) page.text(line, deeper, indent + ' '.repeat(line.search(/\S/)))
  if (sets.length < entry.sets.length)
    page.text(`and ${counted(entry.sets.length - sets.length, 'more record set')}`, deeper, indent)
  if (entry.what === 'published') page.text(publishedText(entry), deeper, indent)
  if (entry.what !== 'confirmation') return
  if (asked.owner === undefined)
    page.text(
      `${Object.entries(entry.counts)
        .filter(([, count]) => count > 0)
        .map(([word, count]) => `${count} ${word}`)
        .join(', ')}; asked: ${entry.vantages.join(', ')}`,
      deeper,
      indent,
    )
  else if (entry.open.length === 0) page.text(`as intended at ${entry.vantages.join(', ')}`, deeper, indent)
  for (const { owner, type, status, verdicts } of entry.open.slice(0, SETS))
    page.text(
      `${bare(owner)} ${type} ${status}: ${verdicts.map(({ vantage, verdict }) => `${vantage} ${verdict}`).join(', ')}`,
      deeper,
      indent,
    )
}

function publishedText({ by, seen }: Shown): string {
  const names = seen.map(({ owner, type }) => `${bare(owner)} ${type}`)
  const which =
    seen.length === 0 ? 'the whole zone' : seen.length <= 3 ? names.join(', ') : counted(seen.length, 'record set')
  if (by === 'update') return `delivered by dynamic update: ${which}`
  if (by === 'file') return `delivered as a file: ${which}`
  return seen.length === 0 ? `all servers have ${which}` : `all servers have ${which} for the first time`
}

/** A set before and after: in a line, or both sides where it was asked for. */
function setLines({ owner, type, before, after }: EntrySet | Shown['sets'][number], asked: Asked): string[] {
  const sideText = (side: EntrySide | Shown['sets'][number]['before']): string =>
    side === null ? '(none)' : `${side.ttl} ${folded([...side.records]).join(' | ')}`
  const word = before === null ? 'added' : after === null ? 'removed' : 'changed'
  const name = `${word} ${bare(owner)} ${type}`
  if (asked.owner === undefined && before !== null && after !== null && before.ttl === after.ttl) {
    const gone = before.records.filter((each) => !after.records.includes(each))
    const come = after.records.filter((each) => !before.records.includes(each))
    if (gone.length + come.length > 0)
      return [
        `${name}:`,
        ...folded(gone).map((each) => `  removed ${each}`),
        ...folded(come).map((each) => `  added ${each}`),
      ]
  }
  return before === null || after === null
    ? [`${name}: ${sideText(before ?? after)}`]
    : [`${name}:`, `  before ${sideText(before)}`, `  after  ${sideText(after)}`]
}
