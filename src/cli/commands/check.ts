import type { Command } from 'commander'
import { check as runRules, SEVERITIES } from '../../core/rules/engine.ts'
import { bareFiles, loadZones } from '../../workspace/workspace.ts'
import { countsText, findingJson, findings } from '../output/findings.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { needWorkspace, type SourceOptions } from './source.ts'

interface Options extends SourceOptions {
  json?: boolean
}

/** Checks bare files, or the workspace; exit status 1 when an error stands. */
export async function check(files: string[], options: Options, command: Command): Promise<void> {
  const zoneFiles = files.length > 0 ? bareFiles(files, options.zone) : (await needWorkspace(options)).files
  const zones = loadZones(zoneFiles, options.includeAnywhere)
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
