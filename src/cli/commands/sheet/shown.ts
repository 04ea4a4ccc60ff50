/** A sheet as a table, for people, which `transcribe` reads back. */
import type { Command } from 'commander'
import type { Zone } from '../../../core/model/zones.ts'
import { bare, relativeName } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import type { ActionRow } from '../../../core/sheet/changes.ts'
import { labelIn } from '../../../core/sheet/rows.ts'
import type { Style } from '../../../core/sheet/style.ts'
import { grouped, linesOf, tableOf } from '../../../core/sheet/table.ts'
import { counted, Page } from '../../output/page.ts'
import type { Changed } from './call.ts'

export function show(
  rows: readonly ActionRow[],
  zone: Zone,
  style: Style,
  asked: Changed | undefined,
  command: Command,
): void {
  const page = new Page(command)
  const { colour } = page
  if (asked && rows.length === 0)
    page.text(
      asked.unanswered > 0
        ? `Nobody could be asked about ${counted(asked.unanswered, 'record set')} of ${bare(zone.name)}; in all others, nothing is left to do.`
        : `Nothing to do: the name servers of ${bare(zone.name)} answer everything as intended.`,
    )
  else {
    page.text(`${bare(zone.name)}, in the style ${style.label}: ${counted(rows.length, 'row')}`, '', '', colour.bold)
    page.line()
    const shown = asked
      ? rows.map((row) => ({
          ...row,
          fields: [{ name: 'action' as const, label: labelIn(style, 'action'), value: row.action }, ...row.fields],
        }))
      : rows
    for (const group of grouped(shown, asked !== undefined)) {
      const { heading, rows: lines } = linesOf(tableOf(group))
      page.line(colour.dim(printable(heading)))
      for (const [i, row] of lines.entries()) {
        for (const line of row) page.line(printable(line))
        const { action, before } = group[i]!
        if (action === 'change' && before && before !== group[i - 1]?.before)
          page.line(colour.dim(printable(`  now there: ${before.join(', ')}`)))
      }
      page.line()
    }
    const hints = new Map<string, string[]>()
    for (const { owner, hints: all } of rows)
      for (const hint of all) {
        const names = hints.get(hint) ?? []
        names.push(relativeName(owner, zone.name))
        hints.set(hint, names)
      }
    for (const [hint, names] of hints) {
      const all = [...new Set(names)]
      page.text(
        `${hint} (${all.slice(0, 4).join(', ')}${all.length > 4 ? `, and ${all.length - 4} more` : ''})`,
        '  ',
        '· ',
      )
    }
    if (asked?.by) page.text('No name server answered: this is compared with what was last published.')
    else if (asked && asked.unanswered > 0)
      page.text(`${counted(asked.unanswered, 'record set')} could not be asked for.`)
  }
  page.print()
}
