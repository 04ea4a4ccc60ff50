/** Findings as people read them: the line with the place marked, what is wrong, what comes of it, what to write. */

import { bothWays } from '../../core/names/idna.ts'
import { bare } from '../../core/names/name.ts'
import { printable } from '../../core/printable.ts'
import { type Findings, SEVERITIES } from '../../core/rules/reports.ts'
import type { Finding, Severity } from '../../core/rules/rule.ts'
import { type Alike, Folding } from '../../core/rules/select.ts'
import type { FindingDocument } from '../documents/findings.ts'
import { counted, type Page } from './page.ts'
import { table } from './table.ts'

/** The fields of a finding that its JSON has. */
export function findingJson(finding: Finding): FindingDocument {
  const { rule, severity, owner, type, zone, file, line, column, message, effect, fix, source, repair } = finding
  return {
    rule,
    severity,
    owner,
    type,
    zone,
    file,
    line,
    column,
    message,
    effect,
    fix,
    source,
    fixable: repair !== undefined,
  }
}

function coloured(page: Page, severity: Severity, text: string): string {
  const { colour } = page
  return severity === 'error'
    ? colour.bold(colour.red(text))
    : severity === 'warning'
      ? colour.bold(colour.yellow(text))
      : colour.cyan(text)
}

/** The line of the file, cut to the width around the place, with a row of marks below it. */
function excerpt(page: Page, finding: Finding): void {
  const gutter = `  ${String(finding.line).padStart(5)} » `
  const room = page.width - gutter.length
  const text = printable(finding.text)
  const before = printable([...finding.text].slice(0, finding.column - 1).join(''))
  const from =
    before.length + Math.min(finding.length, room / 2) > room ? Math.max(0, before.length - Math.floor(room / 3)) : 0
  const shown =
    (from > 0 ? '…' : '') +
    text.slice(from > 0 ? from + 1 : 0, from + room - 1) +
    (text.length > from + room - 1 ? '…' : '')
  page.line(page.colour.dim(gutter) + shown)
  const marks = Math.max(1, Math.min(finding.length, room - (before.length - from) - 1))
  page.line(' '.repeat(gutter.length + before.length - from) + coloured(page, finding.severity, '‾'.repeat(marks)))
}

/** One finding in full; `others` says where else it is found. */
export function finding(page: Page, each: Finding, others?: string): void {
  page.line(
    `${coloured(page, each.severity, each.severity.padEnd(8))}${page.colour.bold(each.rule)}  ${page.colour.dim(printable(`line ${each.line}, column ${each.column}`))}`,
  )
  if (each.text !== '') excerpt(page, each)
  page.text(each.message, '  ')
  if (others !== undefined) page.text(others, '  ')
  page.text(each.effect, '          ', `  ${page.colour.dim('Effect:')} `)
  each.fix.forEach((fix, i) => {
    const lead = i === 0 ? `  ${page.colour.dim('Fix:')}    ` : '          '
    // A record is to be copied: it stays in one piece.
    if (/^\S+\. (\d+ )?[A-Z]/.test(fix)) page.line(lead + printable(fix))
    else page.text(fix, '          ', lead)
  })
  page.line(`  ${page.colour.dim(`Source: ${each.source}`)}`)
  page.line()
}

/** A name whose octets over 127 are letters (UTF-8), with these letters; else as it is. */
function inLetters(name: string): string {
  return name.replace(/(?:\\(?:1[2-9]\d|2\d\d))+/g, (run) => {
    const octets = Uint8Array.from(run.slice(1).split('\\'), Number)
    try {
      return new TextDecoder('utf-8', { fatal: true }).decode(octets)
    } catch {
      return run
    }
  })
}

const rank = (each: Finding): number => SEVERITIES.indexOf(each.severity)

/** So many other names of a group are told. */
const NAMES = 4
/** In more zones than this, each rule is told once. */
const ZONES = 12

/** Findings one after another, those that say the same folded into one. */
export function foldedFindings(page: Page, found: readonly Finding[]): void {
  const folding = new Folding()
  for (const each of found) folding.add(each)
  for (const each of folding.groups) finding(page, each.first, othersText(each))
}

function othersText({ count, names }: Alike): string | undefined {
  if (count === 1) return undefined
  if (names.length === 0) return `and ${count - 1} more times at this name (--all shows each)`
  const shown = names.slice(0, NAMES)
  const rest = names.length > shown.length || count - 1 > names.length
  return `and ${counted(count - 1, 'more time')}, at ${shown.join(', ')}${rest ? ' …' : ''} (--all shows each)`
}

/**
 * Findings as text, piece by piece: zone by zone, in it name by name (that with the worst first), at a name the most severe first, those that say the same folded
 * into one. In very many zones, each rule once, with how often it is broken where. Unfolded: each by itself, in the order of the files.
 */
export function* findingsText(page: Page, found: Findings, unfolded: boolean): Generator<string> {
  if (unfolded) return yield* oneByOne(page, found)
  const zones = new Set<string>()
  for (const { zone } of found) zones.add(zone)
  if (zones.size > ZONES) return yield* ruleByRule(page, found)
  let folding: Folding | undefined
  for (const each of found) {
    if (folding && folding.groups[0]!.first.file !== each.file) {
      yield* zoneText(page, folding)
      folding = undefined
    }
    folding ??= new Folding()
    folding.add(each)
  }
  if (folding) yield* zoneText(page, folding)
}

function zoneHeading(page: Page, { zone, file }: Finding): void {
  page.line(`${page.colour.bold(printable(zone || file))}  ${page.colour.dim(printable(zone ? file : ''))}`.trimEnd())
  page.line()
}

const nameHeading = (page: Page, { owner, file }: Finding): void =>
  page.line(page.colour.underline(printable(owner === '' ? file : bothWays(inLetters(owner)))))

function* zoneText(page: Page, { groups, more }: Folding): Generator<string> {
  zoneHeading(page, groups[0]!.first)
  const names = new Map<string, Alike[]>()
  for (const group of groups) {
    const same = names.get(group.first.owner)
    if (same) same.push(group)
    else names.set(group.first.owner, [group])
  }
  const worstFirst = (a: Alike, b: Alike): number => rank(a.first) - rank(b.first)
  const sorted = [...names.values()].map((each) => each.sort(worstFirst)).sort((a, b) => worstFirst(a[0]!, b[0]!))
  for (const ofName of sorted) {
    nameHeading(page, ofName[0]!.first)
    for (const each of ofName) finding(page, each.first, othersText(each))
    yield page.taken()
  }
  for (const [rule, count] of more)
    page.text(`${counted(count, 'more finding')} of ${rule} in this zone: --only ${rule} --all shows each.`)
  if (more.size > 0) page.line()
  yield page.taken()
}

function* oneByOne(page: Page, found: Findings): Generator<string> {
  let before: Finding | undefined
  for (const each of found) {
    if (before?.file !== each.file) zoneHeading(page, each)
    if (before?.file !== each.file || before.owner !== each.owner) nameHeading(page, each)
    finding(page, each)
    before = each
    yield page.taken()
  }
}

/** Each rule once: its first finding, and how many more there are in which zones. */
function* ruleByRule(page: Page, found: Findings): Generator<string> {
  const rules = new Map<string, { first: Finding; count: number; zones: Set<string> }>()
  for (const each of found) {
    const { rule, zone } = each
    const known = rules.get(`${rule} ${each.severity}`)
    if (!known) rules.set(`${rule} ${each.severity}`, { first: each, count: 1, zones: new Set([zone]) })
    else {
      known.count++
      known.zones.add(zone)
    }
  }
  const sorted = [...rules.values()].sort((a, b) => rank(a.first) - rank(b.first) || b.count - a.count)
  for (const { first, count, zones } of sorted) {
    nameHeading(page, first)
    const others = [...zones].filter((zone) => zone !== first.zone)
    const where =
      others.length === 0
        ? 'in this zone'
        : `in ${counted(zones.size, 'zone')}, among them ${others.slice(0, 3).map(bare).join(', ')}${others.length > 3 ? ' …' : ''}`
    finding(page, first, count === 1 ? undefined : `and ${counted(count - 1, 'more time')}, ${where}`)
    yield page.taken()
  }
  page.line('By rule:')
  table(
    page,
    sorted.map(({ first, count, zones }) => [
      first.severity,
      first.rule,
      counted(count, 'finding'),
      counted(zones.size, 'zone'),
    ]),
    '  ',
    (cell, column, row) => (column === 0 ? coloured(page, sorted[row]!.first.severity, cell) : cell),
  )
  page.text('--all shows each finding; bramblefront check ZONE shows those of a zone.')
  page.line()
  yield page.taken()
}

/** "2 errors, 1 warning", or "nothing found". */
export function countsText(counts: Record<Severity, number>): string {
  const parts = [
    counts.error && counted(counts.error, 'error'),
    counts.warning && counted(counts.warning, 'warning'),
    counts.advice && `advice: ${counts.advice}`,
  ]
  return parts.filter(Boolean).join(', ') || 'nothing found'
}
