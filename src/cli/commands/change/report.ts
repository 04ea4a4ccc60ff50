/** What came of a change, for people and as JSON. */

import type { Command } from 'commander'
import { type ChangeSet, type Preview, type SetPreview, setJson } from '../../../core/change/change-set.ts'
import type { RecordSet } from '../../../core/model/zones.ts'
import { bothWays } from '../../../core/names/idna.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { typeText } from '../../../core/records/types.ts'
import { INTERNAL_ERROR } from '../../../core/rules/engine.ts'
import type { Finding } from '../../../core/rules/rule.ts'
import { folded } from '../../../core/view/fold.ts'
import { RecordSetView, setName } from '../../../core/view/record-set.ts'
import type { Committed } from '../../../workspace/commit.ts'
import { shownPath } from '../../../workspace/workspace.ts'
import type { ChangeDocument, ChangePart } from '../../documents/change.ts'
import { findingJson, finding as showFinding } from '../../output/findings.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { printable } from '../../output/printable.ts'
import type { ChangeOptions, Target } from './target.ts'

/** What came of a change set. */
export interface Outcome {
  target: Target
  changeSet: ChangeSet
  preview: Preview
  /** It would add an error, and nothing was written. */
  refused: boolean
  /** Undefined where nothing was written. */
  committed?: Committed
}

/** Shows it, and sets the exit status. */
export function report(outcome: Outcome, options: ChangeOptions, command: Command): void {
  if (outcome.refused)
    process.exitCode = outcome.preview.findings.added.some(({ rule }) => rule === INTERNAL_ERROR) ? 2 : 1
  if (options.json) {
    const [first, ...others] = outcome.preview.zones.map((_, i) => document(outcome, i, options))
    const whole: ChangeDocument = others.length > 0 ? { ...first!, also: others } : first!
    printJson(whole)
    return
  }
  const page = new Page(command)
  outcome.preview.zones.forEach((_, i) => {
    if (i > 0) page.line()
    ofZone(page, outcome, i, options)
  })
  page.print()
}

/** The findings of a zone; those of zones that are not changed stand with the last. */
function findingsOf({ preview }: Outcome, i: number): { added: Finding[]; standing: Finding[] } {
  const last = i === preview.zones.length - 1
  const names = preview.zones.map(({ zone }) => foldName(zone.name))
  const isOurs = ({ zone }: Finding): boolean =>
    foldName(zone) === names[i] || (last && !names.includes(foldName(zone)))
  const { added, standing } = preview.findings
  return { added: added.filter(isOurs), standing: standing.filter(isOurs) }
}

/** What is shown of a zone, and how it ended. */
function resultOf(outcome: Outcome, i: number) {
  const zone = outcome.preview.zones[i]!
  const { changeSet, committed, preview } = outcome
  const last = i === preview.zones.length - 1
  const written = preview.zones.filter(({ files }) => files.length > 0)
  return {
    ...findingsOf(outcome, i),
    last,
    /** Nothing changes, neither in the zone nor (for the last) beside it. */
    same: zone.files.length === 0,
    included: zone.files.slice(0, -1).map(({ file }) => file),
    backup: committed?.backups[written.indexOf(zone)],
    notes: [...zone.notes, ...(last ? (committed?.notes ?? []) : [])],
    beside: last
      ? (changeSet.beside ?? []).flatMap(({ path, what }) =>
          what === undefined ? [] : [{ path: shownPath(path), what }],
        )
      : [],
  }
}

function document(outcome: Outcome, i: number, options: ChangeOptions): ChangePart {
  const { zone, sets, serial, files } = outcome.preview.zones[i]!
  const { added, standing, same, included, backup, notes, beside } = resultOf(outcome, i)
  return {
    format: 1,
    zone: foldName(zone.name),
    file: zone.file,
    included,
    written: outcome.committed !== undefined && files.length > 0,
    refused: outcome.refused,
    unchanged: same,
    dryRun: options.dryRun === true,
    sets: sets.map(({ owner, type, before, after }) => ({
      owner: foldName(owner),
      type: typeText(type),
      before: setJson(before),
      after: setJson(after),
    })),
    serial: serial ?? null,
    backup: backup === undefined ? null : shownPath(backup),
    added: added.map(findingJson),
    findings: standing.map(findingJson),
    notes,
    beside: beside[0] ? { ...beside[0], written: outcome.committed !== undefined } : null,
  }
}

function ofZone(page: Page, outcome: Outcome, i: number, options: ChangeOptions): void {
  const { colour } = page
  const { zone, sets, serial } = outcome.preview.zones[i]!
  const { added, standing, last, same, included, backup, notes, beside } = resultOf(outcome, i)
  for (const set of sets) {
    page.line(
      `${colour.bold(printable(setName(bothWays(set.owner), set.type)))}  ${colour.dim(printable([...included, zone.file].join(', ')))}`,
    )
    sides(page, set, outcome.refused ? 'asked' : 'after')
    page.line()
  }
  for (const each of added) showFinding(page, each)
  if (standing.length > 0) {
    page.text('There before, and still to be put right at this name:')
    page.line()
    for (const each of standing) showFinding(page, each)
  }
  for (const note of notes) page.text(note)
  for (const { what, path } of beside)
    page.text(
      outcome.committed ? `${what}: ${path}` : `${path} was not written; what is made of it above is for show alone.`,
    )
  if (notes.length > 0 || beside.length > 0) page.line()
  if (outcome.refused && !last) return
  const errors = (outcome.refused ? outcome.preview.findings.added : added).filter(
    (each) => each.severity === 'error',
  ).length
  if (outcome.refused)
    page.text(
      `Refused: the change would add ${counted(errors, 'error')}. Nothing was written; the lines above are those of the file as it would be. (--force writes it all the same.)`,
    )
  else if (same && !(last && outcome.committed)) page.text('Nothing to change: the file says so already.')
  else if (!outcome.committed) page.text('A dry run: nothing was written.')
  else {
    if (errors > 0 && options.force)
      page.text(`Written although it adds ${counted(errors, 'error')}, as --force asked.`)
    page.text(
      `Written.${serial ? ` Serial ${serial.before} → ${serial.after}.` : ''}${backup === undefined ? '' : ` The file as it was is kept in ${shownPath(backup)}`}`,
    )
    const written = outcome.preview.zones.filter(({ files }) => files.length > 0).length
    if (last)
      page.text(
        `Next: let the server read ${written > 1 ? 'the files' : 'the file'} anew, then: bramblefront confirm${outcome.target.bareFile ? ` ${zone.file} --at ADDRESS` : written > 1 ? '' : ` ${bare(zone.name)}`}`,
      )
  }
}

/** A set as it was and as it will be, each record with its TTL. */
function sides(page: Page, { before, after }: SetPreview, word: string): void {
  const { colour } = page
  const valuesOf = (set: RecordSet | undefined): string[] => (set ? new RecordSetView(set).values : [])
  // Folded together, so that two values never look the same that are not.
  const shown = folded([...valuesOf(before), ...valuesOf(after)])
  const side = (
    lead: string,
    set: RecordSet | undefined,
    values: readonly string[],
    paint: (text: string) => string,
  ) => {
    if (!set) page.line(`  ${colour.dim(lead.padEnd(6))}  (none)`)
    for (const [i, value] of values.entries())
      page.text(`${set!.ttl} ${value}`, ' '.repeat(12), `  ${colour.dim((i === 0 ? lead : '').padEnd(6))}  `, paint)
  }
  const count = before?.data.length ?? 0
  side('before', before, shown.slice(0, count), colour.red)
  side(word, after, shown.slice(count), colour.green)
}
