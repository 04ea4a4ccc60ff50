import type { Command } from 'commander'
import { check as runRules, SEVERITIES } from '../../core/rules/engine.ts'
import { bareFiles, loadZones } from '../../workspace/workspace.ts'
import { countsText, findingJson, findings } from '../output/findings.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { needWorkspace, type SourceOptions } from './source.ts'

interface Options extends SourceOptions {
  json?: boolean
}

/** From so many files on, reading them is shown as it goes. */
const MANY = 500

/** Checks bare files, or the workspace; exit status 1 when an error stands. */
export async function check(files: string[], options: Options, command: Command): Promise<void> {
  const zoneFiles = files.length > 0 ? bareFiles(files, options.zone) : (await needWorkspace(options)).files
  const progress = zoneFiles.length < MANY ? undefined : await (await import('../output/progress.ts')).progressBar('reading', zoneFiles.length, MANY)
  const zones = loadZones(zoneFiles, options.includeAnywhere, progress && (() => progress.increment()))
  progress?.stop()
  const result = await runRules(zones)
  process.exitCode = result.counts.error > 0 ? 1 : 0
  if (options.json) {
    printJson({ format: 1, findings: result.findings.map(findingJson), counts: result.counts })
    return
  }
  const page = new Page(command)
  findings(
    page,
    result,
    zones.sources.map(({ file, zone }) => ({ file, zone: zones.zones[zone].name })),
  )
  const first = SEVERITIES.map((severity) => result.findings.find((each) => each.severity === severity)).find(Boolean)
  const what = `${counted(zones.count, 'record')} in ${zoneFiles.length === 1 ? zoneFiles[0].file : counted(zoneFiles.length, 'zone')}`
  page.text(`${what}: ${countsText(result.counts)}.${first ? ` More on a rule: bramblefront explain ${first.rule}` : ''}`)
  page.print()
}
