/** What came of a change, for people and as JSON. */

import type { Command } from 'commander'
import { type ChangeSet, type Preview, type SetPreview, setJson } from '../../../core/change/change-set.ts'
import type { RecordSet, Zone } from '../../../core/model/zones.ts'
import { bothWays } from '../../../core/names/idna.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { typeText } from '../../../core/records/types.ts'
import { countsOf, INTERNAL_ERROR } from '../../../core/rules/engine.ts'
import { SEVERITIES } from '../../../core/rules/reports.ts'
import type { Finding } from '../../../core/rules/rule.ts'
import { folded } from '../../../core/view/fold.ts'
import { RecordSetView, setName } from '../../../core/view/record-set.ts'
import type { Committed } from '../../../workspace/commit.ts'
import { deliveriesFor } from '../../../workspace/deliveries.ts'
import { shownPath } from '../../../workspace/workspace.ts'
import type { ChangeDocument, ChangePart } from '../../documents/change.ts'
import { agreedTo } from '../../output/ask.ts'
import { countsText, findingJson, finding as showFinding } from '../../output/findings.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { print } from '../../output/terminal.ts'
import { verbosity } from '../../verbosity.ts'
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

/** Shows what is to be written, and asks: `word` is the verb of the question. */
export async function agreedAfterShowing(
  outcome: Outcome,
  options: ChangeOptions,
  command: Command,
  word = 'Write',
): Promise<boolean> {
  if (outcome.preview.zones.length === 0) return true
  report(outcome, options, command)
  const count = outcome.preview.zones.reduce((sum, { sets }) => sum + sets.filter(changes).length, 0)
  return agreedTo(`${word} ${count > 0 ? counted(count, 'record set') : 'the file'}?`)
}

/** Shows it; what is still to be agreed to is a problem (exit status 1). */
export function reportOpen(outcome: Outcome, options: ChangeOptions, command: Command): void {
  const isOpen =
    !outcome.refused &&
    !outcome.committed &&
    !options.dryRun &&
    outcome.preview.zones.some(({ files }) => files.length > 0)
  if (isOpen) process.exitCode = 1
  report(outcome, options, command)
  if (isOpen && !options.json) print('To write it without being asked, use --yes.\n')
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

/** What came of one zone, as JSON has it. */
export function document(outcome: Outcome, i: number, options: ChangeOptions): ChangePart {
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
  const { zone, sets } = outcome.preview.zones[i]!
  const { added, standing, last, included, backup, notes, beside } = resultOf(outcome, i)
  // The answer first.
  page.text(verdict(outcome, i, options))
  page.line()
  for (const set of sets.filter(changes)) {
    page.line(
      `${colour.bold(printable(setName(bothWays(set.owner), set.type)))}  ${colour.dim(printable([...included, zone.file].join(', ')))}`,
    )
    sides(page, set, outcome.refused ? 'asked' : 'after')
    page.line()
  }
  const same = sets.filter((set) => !changes(set))
  if (same.length > 0 && same.length < sets.length)
    page.text(`Unchanged: ${same.map(({ owner, type }) => setName(owner, type)).join(', ')}.`)
  for (const each of worstFirst(added)) showFinding(page, each)
  if (verbosity.verbose) for (const each of standing) showFinding(page, each)
  else if (standing.length > 0) page.text(standingText(standing, outcome, zone))
  for (const note of notes) page.text(note)
  for (const { what, path } of beside) page.text(outcome.committed ? `${what}: ${path}` : `${path} was not written.`)
  if (backup !== undefined) page.text(`Backup: ${shownPath(backup)}`)
  if (outcome.refused && last)
    page.text('The lines above are those of the file as it would be. To write it anyway, use --force.')
  if (!outcome.committed || !last) return
  const written = outcome.preview.zones.filter(({ files }) => files.length > 0)
  if (written.length > 0) page.text(nextStep(outcome, written.length === 1 ? zone : undefined))
}

/** What follows once files are written; `zone` where it is one. */
export function nextStep({ target }: Pick<Outcome, 'target'>, zone: Zone | undefined): string {
  const { deliveries = [], bareFile } = target
  const name = zone && bare(zone.name)
  if (zone?.hosted)
    return `Next: bramblefront sheet ${name} --changes, type that in, then: bramblefront sheet ${name} --tick`
  if (zone && deliveriesFor(zone, deliveries).length > 0) return `Next: bramblefront publish ${name}`
  const confirm = bareFile ? ` ${target.files[0]!.file} --at ADDRESS` : name === undefined ? '' : ` ${name}`
  const isServed = (target.servers ?? []).length > 0
  if (isServed)
    return `Next: reload the ${zone ? 'zone' : 'zones'} on your name server, then: bramblefront confirm${confirm}`
  const sheet = `bramblefront sheet ${bareFile ? target.files[0]!.file : (name ?? 'ZONE')}`
  return `Next: put ${zone ? 'it' : 'them'} in place, on your name server or in your host’s web form (${sheet}), then: bramblefront confirm${confirm}`
}

/** What a change is refused for comes before what else there is to say of it. */
const worstFirst = (findings: readonly Finding[]): Finding[] =>
  [...findings].sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity))

/** How it ended, in a line. */
function verdict(outcome: Outcome, i: number, options: ChangeOptions): string {
  const { serial, zone } = outcome.preview.zones[i]!
  const { last, same } = resultOf(outcome, i)
  const errors = outcome.preview.findings.added.filter((each) => each.severity === 'error').length
  if (outcome.refused) return `Refused: the change would add ${counted(errors, 'error')}. Nothing was written.`
  if (same && !(last && outcome.committed && outcome.preview.zones.length === 1)) return 'Nothing to change.'
  if (!outcome.committed) return options.dryRun ? 'Dry run: nothing was written.' : 'Nothing was written yet.'
  const forced = errors > 0 && options.force ? ` It adds ${counted(errors, 'error')}, because of --force.` : ''
  return `Written: ${bare(zone.name)}${serial ? `, serial ${serial.before} → ${serial.after}` : ''}.${forced}`
}

/** Whether a set becomes another one. */
export function changes({ before, after }: SetPreview): boolean {
  return JSON.stringify(setJson(before)) !== JSON.stringify(setJson(after))
}

/** What there was to say of the name before, in a line. */
function standingText(standing: readonly Finding[], { target }: Outcome, zone: Zone): string {
  const codes = [...new Set(standing.map(({ rule }) => rule))]
  const names = [...new Set(standing.map(({ owner }) => bare(owner)))].slice(0, 3)
  const what = target.bareFile ? `${zone.file} --zone ${bare(zone.name)}` : names.join(' ')
  return `Already there before: ${countsText(countsOf(standing))} (${codes.slice(0, 5).join(', ')}${codes.length > 5 ? ', …' : ''}). Details: bramblefront check ${what}`
}

/** A set as it was and as it will be, each record with its TTL. */
export const sides = (page: Page, { before, after }: SetPreview, word: string, former = 'before'): void =>
  allSides(page, [
    [former, before, page.colour.red],
    [word, after, page.colour.green],
  ])

/** A set as it is on each of several sides. */
export function allSides(
  page: Page,
  all: readonly (readonly [lead: string, set: RecordSet | undefined, paint: (text: string) => string])[],
): void {
  const { colour } = page
  const values = all.flatMap(([, set]) => (set ? new RecordSetView(set).values : []))
  const width = Math.max(6, ...all.map(([lead]) => lead.length))
  // Folded together, so that two values never look the same that are not.
  const shown = verbosity.verbose ? values : folded(values)
  for (const [lead, set, paint] of all) {
    if (!set) page.line(`  ${colour.dim(lead.padEnd(width))}  (none)`)
    for (const [i, value] of shown.splice(0, set?.data.length ?? 0).entries())
      page.text(
        `${set!.ttl} ${value}`,
        ' '.repeat(width + 6),
        `  ${colour.dim((i === 0 ? lead : '').padEnd(width))}  `,
        paint,
      )
  }
}
