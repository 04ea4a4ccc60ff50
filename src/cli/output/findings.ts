/** Findings as people read them: the line with the place marked, what is wrong, what comes of it, what to write. */

import { bothWays } from '../../core/names/idna.ts'
import { SEVERITIES } from '../../core/rules/engine.ts'
import type { Finding, Severity } from '../../core/rules/rule.ts'
import { alike } from '../../core/rules/select.ts'
import type { FindingDocument } from '../documents/findings.ts'
import { counted, type Page } from './page.ts'
import { printable } from './printable.ts'

/** The fields of a finding that its JSON has. */
export function findingJson({ text: _, length: __, repair, ...fields }: Finding): FindingDocument {
  return { ...fields, fixable: repair !== undefined }
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

/** One finding in full. */
export function finding(page: Page, each: Finding, others: readonly Finding[] = []): void {
  page.line(
    `${coloured(page, each.severity, each.severity.padEnd(8))}${page.colour.bold(each.rule)}  ${page.colour.dim(printable(`line ${each.line}, column ${each.column}`))}`,
  )
  if (each.text !== '') excerpt(page, each)
  page.text(each.message, '  ')
  if (others.length > 0) {
    const names = [...new Set(others.map(({ owner }) => owner))].filter((owner) => owner !== each.owner)
    const what =
      names.length > 0
        ? `and ${counted(names.length, 'more name')}: ${names.slice(0, 4).join(', ')}${names.length > 4 ? ' …' : ''}`
        : `and ${others.length} more times at this name`
    page.text(`${what} (--all shows each)`, '  ')
  }
  page.text(each.effect, '         ', `  ${page.colour.dim('Then:')}  `)
  each.fix.forEach((fix, i) => {
    // A record is to be copied: it stays in one piece.
    const isRecord = /^\S+\. (\d+ )?[A-Z]/.test(fix)
    const lead = i === 0 ? `  ${page.colour.dim(isRecord ? 'Write:' : 'Do:   ')} ` : '         '
    if (isRecord) page.line(lead + printable(fix))
    else page.text(fix, '         ', lead)
  })
  page.line(`  ${page.colour.dim(`By:    ${each.source}`)}`)
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

function grouped<K>(items: readonly Finding[][], keyOf: (first: Finding) => K): Map<K, Finding[][]> {
  const groups = new Map<K, Finding[][]>()
  for (const item of items) {
    const key = keyOf(item[0]!)
    const group = groups.get(key)
    if (group) group.push(item)
    else groups.set(key, [item])
  }
  return groups
}

/**
 * All findings: zone by zone, in it name by name (that with the worst first), at a name the most severe first. Findings that say the same of several names are
 * folded into the first, unless `unfolded`.
 */
export function findings(page: Page, found: readonly Finding[], unfolded: boolean): void {
  const groups = unfolded ? found.map((each) => [each]) : alike(found)
  for (const [file, ofFile] of grouped(groups, (first) => first.file)) {
    const { zone } = ofFile[0]![0]!
    page.line(`${page.colour.bold(printable(zone || file))}  ${page.colour.dim(printable(zone ? file : ''))}`.trimEnd())
    page.line()
    const names = [...grouped(ofFile, (first) => first.owner)].map(([owner, group]) => ({
      owner,
      group: group.sort((a, b) => rank(a[0]!) - rank(b[0]!)),
    }))
    names.sort((a, b) => rank(a.group[0]![0]!) - rank(b.group[0]![0]!))
    for (const { owner, group } of names) {
      page.line(page.colour.underline(printable(owner === '' ? file : bothWays(inLetters(owner)))))
      for (const same of group) finding(page, same[0]!, same.slice(1))
      // What was told need not be held.
      page.print()
    }
  }
}

/** "2 errors, 1 warning", or "nothing found". */
export function countsText(counts: Record<Severity, number>): string {
  const parts = [
    counts.error && counted(counts.error, 'error'),
    counts.warning && counted(counts.warning, 'warning'),
    counts.advice && counted(counts.advice, 'piece of advice', 'pieces of advice'),
  ]
  return parts.filter(Boolean).join(', ') || 'nothing found'
}
