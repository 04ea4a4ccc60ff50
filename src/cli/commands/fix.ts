import { dirname } from 'node:path'
import type { Command } from 'commander'
import { type NotRepaired, type Repaired, repaired } from '../../core/change/repair.ts'
import { beginsWithMark } from '../../core/file/byte-order-mark.ts'
import { inOnePiece } from '../../core/file/forms.ts'
import type { Zones } from '../../core/model/zones.ts'
import { bare } from '../../core/names/name.ts'
import { textOf } from '../../core/names/octets.ts'
import { printable } from '../../core/printable.ts'
import { countsOf } from '../../core/rules/engine.ts'
import type { Findings } from '../../core/rules/reports.ts'
import type { Finding } from '../../core/rules/rule.ts'
import { commit } from '../../workspace/commit.ts'
import { includer, readFileOrTrouble } from '../../workspace/files.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { loadZones, shownPath } from '../../workspace/workspace.ts'
import { callText } from '../call.ts'
import { today } from '../clock.ts'
import type { FixDocument } from '../documents/findings.ts'
import { agreedTo, canAsk } from '../output/ask.ts'
import { countsText, findingJson } from '../output/findings.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { placeOf, writesOf } from './change/apply.ts'
import { type Checked, type CheckOptions, runViews } from './checked.ts'

/** Shows what the repairs of `found` change (`all` is what there is, `select` what of that the call is about), asks, and writes: findings with exactly one right answer alone. Exit status 1 while an error stands. */
export async function fix(
  checked: Checked,
  zones: Zones,
  found: readonly Finding[],
  all: readonly Finding[],
  options: CheckOptions,
  command: Command,
  select: (findings: Findings) => Findings,
): Promise<void> {
  const now = today()
  const { done, left } = await proven(checked, zones, found, all, now, options)
  const page = new Page(command)
  if (!options.json) {
    for (const each of done)
      for (const { file, before, octets } of each.files) await difference(page, file, before, octets, each)
    notMade(page, left)
  }
  const count = done.reduce((sum, each) => sum + each.findings.length, 0)
  const write = count > 0 && (options.yes === true || (!options.json && (await agreed(page, count))))
  const kept = write ? await written(checked, done, now) : []
  // What is wrong now, by looking again: one fix may settle several findings, or bring another one to light.
  const standing = write ? [...select(await findingsNow(checked, options))] : found
  // Behind what was fixed, something else may be seen.
  const fresh = write ? standing.length - (found.length - count) : 0
  const isDone = left.length === 0 && (count === 0 || write)
  process.exitCode = !isDone || standing.some(({ severity }) => severity === 'error') ? 1 : 0
  if (options.json) {
    const document: FixDocument = {
      format: 1,
      written: write,
      fixed: done.flatMap((each) => each.findings).map(findingJson),
      left: left.map(({ finding, why }) => ({ ...findingJson(finding), why })),
      backups: kept.map(shownPath),
    }
    printJson(document)
    return
  }
  if (count === 0)
    page.text(
      found.length === 0
        ? 'No findings, so nothing to fix.'
        : 'None of the findings has an unambiguous fix: they are for you to decide.',
    )
  else if (write)
    page.text(
      `Written: ${counted(count, 'finding')} fixed in ${counted(done.length, 'zone')}${fresh > 0 ? `; ${counted(fresh, 'new finding')}` : ''}. Backup${kept.length === 1 ? '' : 's'}: ${kept.map(shownPath).join(', ')}`,
    )
  else page.text('Nothing was written.')
  if (standing.length > 0)
    page.text(`Left: ${leftText(standing)}. Details: bramblefront ${printable(detailsOf(callText()))}`)
  page.print()
}

/** What there is to say of the files as they are now. */
async function findingsNow(checked: Checked, options: CheckOptions): Promise<Findings> {
  const files = checked.files.map((file) => ({ ...file, octets: readFileOrTrouble(file.file) }))
  return (await runViews({ ...checked, files }, options)).result.findings
}

/** The same call, that only looks. */
const detailsOf = (call: string): string => call.replace(/ --(?:fix|yes)\b/g, '')

/** What is left, by number and zone. */
function leftText(standing: readonly Finding[]): string {
  const zones = new Map<string, Finding[]>()
  for (const each of standing) zones.set(each.zone, [...(zones.get(each.zone) ?? []), each])
  const parts = [...zones]
    .slice(0, 8)
    .map(([zone, of]) => `${countsText(countsOf(of))}${zone ? ` in ${bare(zone)}` : ''}`)
  return `${parts.join('; ')}${zones.size > 8 ? `; and in ${zones.size - 8} more zones` : ''}`
}

/** Writes the repairs: those of a workspace together, bare files one by one. Returns the backups. */
async function written(checked: Checked, done: readonly Repaired[], now: Date): Promise<string[]> {
  const commits = checked.folder === undefined ? done.map((each) => [each]) : [done]
  const kept: string[] = []
  for (const repairs of commits) {
    const files = repairs.map(({ zone }) => checked.files.find((one) => one.file === zone.file)!)
    const place = placeOf({
      folder: checked.folder ?? dirname(files[0]!.file),
      files,
      bareFile: checked.folder === undefined,
    })
    const findings = { added: [], standing: [], gone: repairs.flatMap((each) => each.findings) }
    const whole = new Map(
      repairs.map(({ zone }, i) => {
        const zones = loadZones([files[i]!])
        return [zone, inOnePiece(zones, zones.zones[0]!)]
      }),
    )
    const committed = await commit(
      place,
      writesOf(checked.folder, { zones: repairs, findings }, now, { whole }),
      async () => {
        throw new Trouble('a file was changed in the meantime; nothing was written: call again')
      },
    )
    kept.push(...committed!.backups.flatMap((each) => each ?? []))
  }
  return kept
}

/**
 * The repairs, each tried: the files as they would be are checked, and a repair at a name that gets an error which was not there is left out.
 * Trouble where an error comes up elsewhere: that must not happen.
 */
async function proven(
  checked: Checked,
  zones: Zones,
  found: readonly Finding[],
  all: readonly Finding[],
  now: Date,
  options: CheckOptions,
): Promise<ReturnType<typeof repaired>> {
  const sense = ({ rule, owner, type }: Finding): string => `${rule} ${owner} ${type}`
  const before = new Set(all.map(sense))
  const left: NotRepaired[] = []
  let candidates = found
  for (;;) {
    const tried = repaired(zones, candidates, now, includer(options.includeAnywhere === true))
    if (tried.done.length === 0) return { done: [], left: [...left, ...tried.left] }
    const after = checked.files.map((file) => ({
      ...file,
      octets: tried.done.find(({ zone }) => zone.file === file.file)?.files.at(-1)?.octets ?? file.octets,
    }))
    const instead = new Map(tried.done.flatMap(({ files }) => files.map(({ file, octets }) => [file, octets])))
    const { result } = await runViews({ ...checked, files: after }, options, instead)
    const fresh = [...result.findings].find((each) => each.severity === 'error' && !before.has(sense(each)))
    if (!fresh) return { done: tried.done, left: [...left, ...tried.left] }
    const there = tried.done.flatMap((each) => each.findings).filter(({ owner }) => owner === fresh.owner)
    const sameSet = there.filter(({ type }) => type === fresh.type)
    const culprits = sameSet.length > 0 ? sameSet : there
    if (culprits.length === 0)
      throw new Trouble(`the fixes would cause a new error (${fresh.rule}: ${fresh.message}); nothing was written`)
    left.push(...culprits.map((finding) => ({ finding, why: `it would cause ${fresh.rule}: ${fresh.message}` })))
    candidates = candidates.filter((each) => !culprits.includes(each))
  }
}

/** The lines that change, with their numbers before and after, and the rules that change them. */
async function difference(
  page: Page,
  file: string,
  before: Uint8Array,
  after: Uint8Array,
  repairs: Repaired,
): Promise<void> {
  const { structuredPatch } = await import('diff')
  const withoutReturns = (text: string): string => text.replaceAll('\r\n', '\n')
  const [then, now] = [textOf(before), textOf(after)]
  const returns = then.split('\r\n').length - now.split('\r\n').length
  const { hunks } = structuredPatch(file, file, withoutReturns(then), withoutReturns(now), undefined, undefined, {
    context: 0,
  })
  page.line(page.colour.bold(printable(file)))
  if (beginsWithMark(before) && !beginsWithMark(after))
    page.line(`  byte-order mark removed  ${page.colour.dim('file/byte-order-mark')}`)
  if (returns > 0)
    page.line(`  ${counted(returns, 'carriage return')} removed  ${page.colour.dim('file/carriage-return')}`)
  for (const { oldStart, oldLines, newStart, lines } of hunks) {
    let [from, to] = [oldStart, newStart]
    page.line(`  ${page.colour.dim(rulesOf(repairs, file, oldStart, oldLines, lines))}`)
    for (const line of lines) {
      if (line.startsWith('-'))
        page.line(page.colour.red(`  ${String(from++).padStart(5)} was  ${printable(line.slice(1))}`))
      else if (line.startsWith('+'))
        page.line(page.colour.green(`  ${String(to++).padStart(5)} now  ${printable(line.slice(1))}`))
    }
  }
  page.line()
}

/** Which rules change these lines: those of findings there; else those that change sets; the serial is advanced with any of them. */
function rulesOf(
  { findings, zone }: Repaired,
  file: string,
  start: number,
  count: number,
  lines: readonly string[],
): string {
  const here = findings.filter(
    (each) => each.file === file && each.line >= start && each.line < start + Math.max(1, count),
  )
  const sets = findings.filter(({ repair }) => repair && 'zone' in repair && repair.zone.name === zone.name)
  const isSerial =
    here.length === 0 &&
    lines.filter((line) => line.startsWith('-')).every((line) => /\d{1,10}/.test(line)) &&
    lines.length === 2 &&
    isSerialOnly(lines)
  if (isSerial) return 'the serial is advanced'
  return [...new Set((here.length > 0 ? here : sets).map(({ rule }) => rule))].join(', ')
}

/** Whether a line differs from the other in one number alone. */
function isSerialOnly(lines: readonly string[]): boolean {
  const [then = [], now = []] = lines.map((line): string[] => line.slice(1).match(/\d+|\D+/g) ?? [])
  return then.length === now.length && then.filter((part, i) => part !== now[i]).length === 1
}

function notMade(page: Page, left: readonly NotRepaired[]): void {
  if (left.length === 0) return
  for (const { finding, why } of left)
    page.text(`Not fixed: ${finding.rule} at ${bare(finding.owner)}, line ${finding.line}: ${why}`)
  page.line()
}

/** Asks on the terminal; without one, nothing is agreed to. */
async function agreed(page: Page, count: number): Promise<boolean> {
  page.print()
  if (!canAsk()) {
    page.text(`To apply ${count === 1 ? 'this fix' : `these ${count} fixes`}, call again with --yes.`)
    return false
  }
  return agreedTo(`Write ${count === 1 ? 'this fix' : `these ${count} fixes`}?`)
}
