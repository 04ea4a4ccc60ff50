/** Findings as people read them: the line with the place marked, what is wrong, what comes of it, what to write. */
import type { CheckResult } from '../../core/rules/engine.ts'
import { SEVERITIES } from '../../core/rules/engine.ts'
import type { Finding, Severity } from '../../core/rules/rule.ts'
import { counted, type Page } from './page.ts'
import { printable } from './printable.ts'

/** The fields of a finding that its JSON has. */
export function findingJson({ rule, severity, owner, type, file, line, column, message, consequence, fix, source }: Finding): object {
  return { rule, severity, owner, type, file, line, column, message, consequence, fix, source }
}

function coloured(page: Page, severity: Severity, text: string): string {
  const { colour } = page
  return severity === 'error' ? colour.bold(colour.red(text)) : severity === 'warning' ? colour.bold(colour.yellow(text)) : colour.cyan(text)
}

/** The line of the file, cut to the width around the place, with a row of marks below it. */
function excerpt(page: Page, finding: Finding): void {
  const gutter = `  ${String(finding.line).padStart(5)} » `
  const room = page.width - gutter.length
  const text = printable(finding.text)
  const before = printable([...finding.text].slice(0, finding.column - 1).join(''))
  const from = before.length + Math.min(finding.length, room / 2) > room ? Math.max(0, before.length - Math.floor(room / 3)) : 0
  const shown = (from > 0 ? '…' : '') + text.slice(from > 0 ? from + 1 : 0, from + room - 1) + (text.length > from + room - 1 ? '…' : '')
  page.line(page.colour.dim(gutter) + shown)
  const marks = Math.max(1, Math.min(finding.length, room - (before.length - from) - 1))
  page.line(' '.repeat(gutter.length + before.length - from) + coloured(page, finding.severity, '‾'.repeat(marks)))
}

/** One finding in full. */
export function finding(page: Page, each: Finding): void {
  page.line(
    `${coloured(page, each.severity, each.severity.padEnd(8))}${page.colour.bold(each.rule)}  ${page.colour.dim(printable(`line ${each.line}, column ${each.column}`))}`,
  )
  if (each.text !== '') excerpt(page, each)
  page.text(each.message, '  ')
  page.text(each.consequence, '         ', `  ${page.colour.dim('Then:')}  `)
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

/** All findings, file by file, the most severe first, and a last line with the counts. */
export function findings(page: Page, result: CheckResult, files: { file: string; zone: string }[]): void {
  const byFile = new Map<string, Finding[]>()
  for (const each of result.findings) {
    const here = byFile.get(each.file)
    if (here) here.push(each)
    else byFile.set(each.file, [each])
  }
  for (const { file, zone } of files) {
    const here = byFile.get(file)
    if (!here) continue
    // A file that several zones include is shown once.
    byFile.delete(file)
    page.line(`${page.colour.bold(printable(zone))}  ${page.colour.dim(printable(file))}`)
    page.line()
    for (const severity of SEVERITIES) for (const each of here.filter((f) => f.severity === severity)) finding(page, each)
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
