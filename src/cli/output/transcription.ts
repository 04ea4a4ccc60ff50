/** What was taken over from a text: row by row with what each became, what is open, and the sets as they change. */

import type { Command } from 'commander'
import { setJson } from '../../core/change/change-set.ts'
import type { Conflict, Joined } from '../../core/change/join/joined.ts'
import type { Zone } from '../../core/model/zones.ts'
import { bare, foldName, nameInText, relativeName } from '../../core/names/name.ts'
import { jsonText, printable } from '../../core/printable.ts'
import { rdataText } from '../../core/records/rdata.ts'
import { typeText } from '../../core/records/types.ts'
import { type Instructions, type Stand, standText } from '../../core/transcribe/instructions.ts'
import { folded } from '../../core/view/fold.ts'
import { setName } from '../../core/view/record-set.ts'
import { shownPath } from '../../workspace/workspace.ts'
import { optionOf } from '../commands/change/answers.ts'
import { changes, nextStep, type Outcome, sides } from '../commands/change/report.ts'
import type { ChangeOptions } from '../commands/change/target.ts'
import type { TranscribeDocument } from '../documents/transcribe.ts'
import { verbosity } from '../verbosity.ts'
import { findingJson, foldedFindings } from './findings.ts'
import { counted, Page } from './page.ts'
import { table } from './table.ts'

/** What came of a text in a zone, apart from the zone’s name and serial: equal for zones that come to the same. */
export function senseOf(told: Transcription, { preview, committed, refused }: Outcome): string {
  const { zone, joined, found } = told
  const sets = preview.zones[0]?.sets.map(({ owner, type, before, after }) => [
    owner,
    type,
    setJson(before),
    setJson(after),
  ])
  const said = [
    found.rows.map((row) => [row.owner, row.type, row.value, joined.became.get(row)]),
    found.blanks,
    joined.questions,
    joined.conflicts,
    joined.notes,
    sets,
    preview.findings.added.map(({ rule, owner, type }) => [rule, owner, type]),
    committed !== undefined,
    refused,
  ]
  return jsonText(said).toLowerCase().replace(nameInText(zone.name), '·')
}

export interface Transcription {
  found: Instructions
  joined: Joined
  zone: Zone
  /** What was answered when it was asked whether to write; then all of it was shown before. */
  agreed?: boolean
}

/** What keeps the text from being written whole. */
interface Open {
  type: string
  owner: string
  why: string
  choices?: readonly string[]
}

function conflictsOf({ found, joined }: Transcription): Open[] {
  const asText = ({ owner, type, why, choices }: Conflict): Open => ({
    owner: foldName(owner),
    type: typeText(type),
    why,
    choices,
  })
  return [
    ...joined.conflicts.map(asText),
    ...found.secrets.map(asText),
    ...found.features.map(({ feature, owner }) => ({
      owner: foldName(owner),
      type: feature,
      why: `${feature} is not a record type, but a feature of some hosts: write the addresses that the target has`,
      choices: ['follow', 'address', 'another name'],
    })),
  ]
}

export const isOpen = (told: Transcription): boolean => {
  const { found, joined } = told
  return found.blanks.length + found.unread.length + joined.questions.length + conflictsOf(told).length > 0
}

/** Of a change of several zones, what came of one. */
export function zoneOutcome(outcome: Outcome, zone: Zone): Outcome {
  const { preview, committed } = outcome
  const isIts = ({ zone: name }: { zone: string }): boolean => foldName(name) === foldName(zone.name)
  const written = preview.zones.filter(({ files }) => files.length > 0)
  const own = preview.zones.filter((each) => isIts({ zone: each.zone.name }))
  if (preview.zones.length === own.length) return outcome
  const { added, standing, gone } = preview.findings
  return {
    ...outcome,
    preview: {
      zones: own,
      findings: { added: added.filter(isIts), standing: standing.filter(isIts), gone: gone.filter(isIts) },
    },
    committed: committed && { ...committed, backups: own.map((each) => committed.backups[written.indexOf(each)]) },
  }
}

/** What is open, by number. */
export function openText(all: readonly Transcription[]): string {
  const count = (of: (told: Transcription) => number): number => all.reduce((sum, told) => sum + of(told), 0)
  const names = new Set(all.flatMap(({ found }) => found.blanks.map(({ name }) => name)))
  const parts = [
    [names.size, 'placeholder'],
    [count(({ joined }) => joined.questions.length), 'question'],
    [count((told) => conflictsOf(told).length), 'conflict'],
    [count(({ found }) => found.unread.length), 'line that cannot be read', 'lines that cannot be read'],
  ] as const
  return `${parts
    .filter(([count]) => count > 0)
    .map(([count, one, several]) => counted(count, one, several))
    .join(', ')}.`
}

const standJson = ({ line, of }: Stand): { line: number; file?: string } =>
  of === undefined ? { line } : { line, file: of }

export function transcriptionJson(told: Transcription, { preview, committed }: Outcome): TranscribeDocument {
  const { found, joined, zone } = told
  return {
    format: 1,
    zone: foldName(zone.name),
    rows: found.rows.map(({ line, of, type, owner, ttl, value, kind, cleaned, asked, condition, damage }) => ({
      ...standJson({ line, of }),
      type: typeText(type),
      owner: foldName(owner),
      ttl: ttl ?? null,
      value,
      kind,
      certain: asked === undefined && condition === undefined && damage === undefined,
      cleaned,
    })),
    blanks: found.blanks.map(({ text, name, ...stand }) => ({ ...standJson(stand), text, name })),
    unread: found.unread.map(({ text, why, ...stand }) => ({ ...standJson(stand), text, why })),
    questions: joined.questions.map((question) => ({
      about: question.about,
      owner: foldName(question.owner),
      type: typeText(question.type),
      choices: question.choices.map((choice) => ({ choice, option: optionOf(question, choice, zone.name) })),
    })),
    changes: preview.zones
      .flatMap(({ sets }) => sets)
      .filter(changes)
      .map(({ owner, type, before, after }) => ({
        owner: foldName(owner),
        type: typeText(type),
        before: setJson(before),
        after: setJson(after),
      })),
    conflicts: conflictsOf(told).map(({ owner, type, why, choices }) => ({
      owner,
      type,
      why,
      ...(choices ? { choices: [...choices] } : {}),
    })),
    notes: found.notes.map(({ text, ...stand }) => ({ ...standJson(stand), text })),
    findings: preview.findings.added.map(findingJson),
    written: committed !== undefined && preview.zones.some(({ files }) => files.length > 0),
  }
}

/** `how`: before a question, with something open, or at the end. */
export function showTranscription(
  told: Transcription,
  outcome: Outcome,
  options: ChangeOptions,
  command: Command,
  how: 'ask' | 'open' | 'done',
): void {
  const page = new Page(command)
  const { preview } = outcome
  const verdict = verdictOf(told, outcome, options, how)
  if (verdict) {
    page.text(verdict)
    page.line()
  }
  const wasAsked = how === 'done' && told.agreed !== undefined
  if (!wasAsked) {
    rowsOf(page, told)
    openOf(page, told)
    const sets = preview.zones.flatMap((each) => each.sets).filter((set) => set.before && changes(set))
    // New sets are the rows above.
    for (const set of sets) {
      page.line(page.colour.bold(printable(setName(set.owner, set.type))))
      sides(page, set, 'after')
      page.line()
    }
    foldedFindings(page, preview.findings.added)
    for (const { notes } of preview.zones) for (const note of notes) page.text(note)
  }
  nextOf(page, told, outcome, options, how)
  page.print()
}

function verdictOf(
  told: Transcription,
  { preview, committed, refused }: Outcome,
  options: ChangeOptions,
  how: 'ask' | 'open' | 'done',
): string | undefined {
  const [zone] = preview.zones
  if (how === 'ask') return undefined
  if (how === 'open')
    return `Nothing was written${isOpen(told) ? `: ${openText([told])}` : ' to any zone, since another one is open.'}`
  if (refused) {
    const errors = preview.findings.added.filter(({ severity }) => severity === 'error').length
    return errors > 0
      ? `Refused: the records would add ${counted(errors, 'error')}. Nothing was written.`
      : 'Nothing was written: in another zone, the records would add an error.'
  }
  if (zone!.files.length === 0) return `Nothing to change: ${bare(zone!.zone.name)} has all of it already.`
  if (!committed)
    return options.dryRun
      ? 'Dry run: nothing was written.'
      : told.agreed === false
        ? 'Nothing was written.'
        : 'Nothing was written: it was not confirmed.'
  return `Written: ${bare(zone!.zone.name)}${zone!.serial ? `, serial ${zone!.serial.before} → ${zone!.serial.after}` : ''}.`
}

/** The rows, each with what it became; then what was cleaned, and where. */
function rowsOf(page: Page, { found, joined, zone }: Transcription): void {
  if (found.rows.length === 0) return
  const meant = found.rows.map((row) => joined.turned.get(row) ?? row)
  const values = meant.map(({ type, data }) => rdataText(type, data))
  const shown = verbosity.verbose ? values : folded(values)
  const cells = found.rows.map((row, i) => [
    standText(row).padStart(4),
    joined.became.get(row) ?? '',
    `${relativeName(meant[i]!.owner, zone.name)} ${row.ttl === undefined ? '' : `${row.ttl} `}${typeText(row.type)} ${shown[i]}`,
  ])
  table(page, [['line', 'becomes', 'record'], ...cells], '', (cell, column, row) =>
    row === 0 || column === 0 ? page.colour.dim(cell) : cell,
  )
  page.line()
  const cleaned = new Map<string, string[]>()
  for (const row of found.rows)
    for (const what of row.cleaned) {
      const lines = cleaned.get(what)
      if (lines) lines.push(standText(row))
      else cleaned.set(what, [standText(row)])
    }
  for (const [what, lines] of cleaned)
    page.text(`${what} (${linesText(lines)})`, '         ', `${page.colour.dim('cleaned')}  `)
  for (const { line, of, text } of found.notes)
    page.text(`line ${standText({ line, of })}: ${text}`, '         ', `${page.colour.yellow('note')}     `)
  if (cleaned.size + found.notes.length > 0) page.line()
}

/** Of many lines, the first few. */
function linesText(lines: readonly string[]): string {
  const all = [...new Set(lines)]
  const few = all.slice(0, 6)
  return `${all.length === 1 ? 'line' : 'lines'} ${few.join(', ')}${all.length > few.length ? ', …' : ''}`
}

/** What is open, and what closes it. */
function openOf(page: Page, told: Transcription): void {
  const { found, joined } = told
  const { colour } = page
  const seen = new Set<string>()
  for (const { line, of, text, name, what } of found.blanks) {
    if (seen.has(name)) continue
    seen.add(name)
    page.text(
      `${what ?? `${text} on line ${standText({ line, of })} is a placeholder`}. Fill it in: --fill ${name}=VALUE`,
      '         ',
      `${colour.yellow('blank')}    `,
    )
  }
  for (const { line, of, text, why } of found.unread)
    page.text(`line ${standText({ line, of })}: ${why}: ${text}`, '         ', `${colour.yellow('unread')}   `)
  for (const question of joined.questions) {
    const ways = question.choices.map((choice) => optionOf(question, choice, told.zone.name))
    page.text(`${question.says} Answer with ${ways.join(' or ')}`, '         ', `${colour.yellow('question')} `)
  }
  for (const { owner, type, why, choices } of conflictsOf(told)) {
    const isExcluded = joined.resolvable.some((each) => foldName(each.owner) === owner && typeText(each.type) === type)
    const instead = isExcluded
      ? '. To remove what is there: --replace'
      : choices?.includes('follow')
        ? `. Keep the addresses of the target there instead: bramblefront follow ${bare(owner)} TARGET`
        : choices
          ? ` (possible: ${choices.join(', ')})`
          : ''
    page.text(`${owner} ${type}: ${why}${instead}`, '         ', `${colour.red('conflict')} `)
  }
  if (isOpen(told)) page.line()
}

function nextOf(
  page: Page,
  told: Transcription,
  { committed, target, preview, refused }: Outcome,
  options: ChangeOptions,
  how: 'ask' | 'open' | 'done',
): void {
  const backup = committed?.backups[0]
  if (backup !== undefined) page.text(`Backup: ${shownPath(backup)}`)
  for (const note of committed?.notes ?? []) page.text(note)
  if (committed && preview.zones.some(({ files }) => files.length > 0)) page.text(nextStep({ target }, told.zone))
  else if (
    how === 'done' &&
    !refused &&
    !options.dryRun &&
    !committed &&
    told.agreed === undefined &&
    preview.zones.some(({ files }) => files.length > 0)
  )
    page.text('To write it without being asked: --yes')
}
