import type { Command } from 'commander'
import { closest } from 'fastest-levenshtein'
import type { Zones } from '../../core/model/zones.ts'
import { bare } from '../../core/names/name.ts'
import { countsOf, INTERNAL_ERROR } from '../../core/rules/engine.ts'
import { type Findings, SEVERITIES } from '../../core/rules/reports.ts'
import type { Finding, Severity } from '../../core/rules/rule.ts'
import { codeWords, isCode, isSelected, type Selection, selected } from '../../core/rules/select.ts'
import type { Unanswered } from '../../net/lookup.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { formatOf, printFindings } from '../formats/index.ts'
import { collect, includeOption, jsonOption, liveOptions, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { countsText, findingsText } from '../output/findings.ts'
import { counted, Page } from '../output/page.ts'
import { stream } from '../output/stream.ts'
import { printNote } from '../output/terminal.ts'
import { type CheckOptions, checkedBy, runViews } from './checked.ts'

export const define = (command: Command): Command =>
  liveOptions(command)
    .argument('[what...]', 'zone files (default: the workspace), and names to check')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .option('--with-workspace', 'check the given files together with the other zones of the workspace')
    .addOption(includeOption())
    .option('--severity <least>', 'show error, warning or advice and above (default: advice)')
    .option('--only <codes>', 'only these rules or families, separated by commas', collect)
    .option('--except <codes>', 'all but these rules or families', collect)
    .option('--all', 'show every finding instead of folding similar ones')
    .option('--published <folder>', 'the zone files as last published, to check that serials were advanced')
    .option('--fix', 'apply the unambiguous fixes: shows the difference and asks first')
    .option('--yes', 'write without asking')
    .option('--fail-on <severity>', 'exit status 1 for error, warning or advice and above (default: error)')
    .option('--format <format>', 'text, json, csv, or sarif (SARIF 2.1.0)')
    .addOption(jsonOption())
    .action(check)

/** Checks bare files, or the workspace; exit status 1 when a finding of the severity of `--fail-on` stands. */
async function check(what: string[], options: CheckOptions, command: Command): Promise<void> {
  const least = severityOf(options.severity, '--severity', 'advice')
  const failOn = severityOf(options.failOn, '--fail-on', 'error')
  const format = formatOf(options, 'findings')
  const checked = await checkedBy(what, options)
  // Asking is loaded where it is asked for: most checks are done offline.
  const live = options.live || options.at ? await (await import('./live.ts')).askedSource(options) : undefined
  if (live) Object.assign(checked.around, { asked: live.find, askedOfEach: live.findAtEach })
  const { zones, result } = await runViews(checked, options).finally(() => live?.close())
  const selection: Selection = {
    least,
    only: codesOf(options.only),
    except: codesOf(options.except),
    names: checked.names,
    files: checked.asked,
  }
  const found = selected(result.findings, selection)
  const excepted = result.excepted.filter(({ finding }) => isSelected(finding, selection))
  const counts = countsOf(found)
  const failed = SEVERITIES.some((each) => counts[each] > 0 && SEVERITIES.indexOf(each) <= SEVERITIES.indexOf(failOn))
  const unanswered = live?.unanswered() ?? []
  if (live?.isSilent())
    printNote('bramblefront: nobody who was asked replied: what names outside your zones lead to was not checked\n')
  else if (unanswered.length > 0 && format !== 'text' && format !== 'json')
    printNote(`bramblefront: ${unknownText(unanswered)}\n`)
  process.exitCode =
    checked.partly || some(result.findings, ({ rule }) => rule === INTERNAL_ERROR)
      ? 2
      : failed
        ? 1
        : unanswered.length > 0
          ? 3
          : 0
  if (options.fix) {
    const { fix } = await import('./fix.ts')
    await fix(checked, zones, [...found], [...result.findings], options, command, (findings) =>
      selected(findings, selection),
    )
    return
  }
  if (format !== 'text') {
    const root = checked.folder ?? process.cwd()
    await printFindings(format, { findings: found, excepted, counts, unanswered, version: PROGRAM_VERSION, root })
    return
  }
  const page = new Page(command)
  await stream(findingsText(page, found, options.all === true))
  const files = checked.files.filter(({ file }) => !checked.asked || checked.asked.has(file))
  const about = files.length === 1 ? files[0]!.file : counted(files.length, 'zone')
  const where =
    checked.names.length > 0
      ? `${checked.names.map(bare).join(', ')} and below`
      : `${counted(recordsIn(zones, checked.asked), 'record')} in ${about}`
  if (unanswered.length > 0) page.text(unknownText(unanswered))
  const isNone = SEVERITIES.every((each) => counts[each] === 0)
  const said = isNone && unanswered.length > 0 ? 'no findings in what could be looked up' : countsText(counts)
  page.text(
    `${where}: ${said}${excepted.length > 0 ? `; ${excepted.length} excepted` : ''}${unanswered.length > 0 ? `; ${counted(namesOf(unanswered).length, 'name')} outside your zones could not be looked up` : ''}.`,
  )
  const first = worst(found)
  if (some(found, (each) => each.repair !== undefined))
    page.text(`Next: apply the unambiguous fixes (asks first): ${nextCall(what, options)}`)
  else if (first) page.text(`More about a rule: bramblefront explain ${first.rule}`)
  page.print()
}

const namesOf = (unanswered: readonly Unanswered[]): string[] =>
  [...new Set(unanswered.map(({ name }) => bare(name)))].sort()

/** Which names could not be looked up, and why. */
function unknownText(unanswered: readonly Unanswered[]): string {
  const names = namesOf(unanswered)
  const shown = names.slice(0, NAMED).join(', ') + (names.length > NAMED ? ` and ${names.length - NAMED} more` : '')
  const why = unanswered.every((each) => each.why === 'time-out') ? 'no reply' : 'the resolver failed'
  return `Could not be looked up (${why}), and not checked: ${shown}.`
}
const NAMED = 12

declare const BRAMBLEFRONT_VERSION: string
const PROGRAM_VERSION = typeof BRAMBLEFRONT_VERSION === 'string' ? BRAMBLEFRONT_VERSION : '0'

const nextCall = (what: readonly string[], options: CheckOptions): string =>
  [
    'bramblefront check',
    ...what,
    options.zone && `--zone ${options.zone}`,
    options.workspace && `--workspace ${options.workspace}`,
    options.withWorkspace && '--with-workspace',
    '--fix',
  ]
    .filter(Boolean)
    .join(' ')

function some(findings: Findings, is: (finding: Finding) => boolean): boolean {
  for (const each of findings) if (is(each)) return true
  return false
}

/** The first of the most severe. */
function worst(findings: Findings): Finding | undefined {
  let found: Finding | undefined
  for (const each of findings)
    if (!found || SEVERITIES.indexOf(each.severity) < SEVERITIES.indexOf(found.severity)) found = each
  return found
}

function recordsIn(zones: Zones, asked: ReadonlySet<string> | undefined): number {
  if (!asked) return zones.count
  return zones.sources
    .filter((source) => !source.includedBy && asked.has(source.file))
    .reduce((sum, { firstRecord, endRecord }) => sum + endRecord - firstRecord, 0)
}

function severityOf(word: string | undefined, option: string, standard: Severity): Severity {
  if (word === undefined) return standard
  const severity = SEVERITIES.find((each) => each === word)
  if (!severity) throw new Trouble(`${option} ${word}: must be ${SEVERITIES.join(', ')}`)
  return severity
}

function codesOf(words: string[] | undefined): string[] | undefined {
  const codes = words?.flatMap((word) => word.split(',')).map((word) => word.trim().toLowerCase())
  const unknown = codes?.find((code) => !isCode(code))
  if (unknown !== undefined) {
    throw new Trouble(
      `“${unknown}” is neither a rule nor a family of rules; did you mean ${closest(unknown, codeWords())}? All rules: bramblefront explain`,
    )
  }
  return codes
}
