import { existsSync, mkdirSync, rmSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'
import type { Command } from 'commander'
import { bare, foldName } from '../../core/names/name.ts'
import { check } from '../../core/rules/engine.ts'
import { systemText, Trouble } from '../../workspace/trouble.ts'
import { bareFiles, findWorkspace, loadZones, openWorkspace, shownPath } from '../../workspace/workspace.ts'
import { createFile } from '../../workspace/write.ts'
import { includeOption, jsonOption, workspaceOption, zoneOption } from '../options.ts'
import { countsText } from '../output/findings.ts'
import { counted, Page, printJson } from '../output/page.ts'
import type { SourceOptions } from './source.ts'

export const define = (command: Command): Command =>
  command
    .requiredOption('--file <file>', 'a zone file; it is copied as it is')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(adopt)

/** Brings an existing zone file, and what it includes, into the workspace: copied as it is, to the last octet. */
async function adopt(options: SourceOptions & { file: string; json?: boolean }, command: Command): Promise<void> {
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (!folder) throw new Trouble('there is no workspace here (no bramblefront.yaml): make one with: bramblefront init')
  const kept = await openWorkspace(folder)
  const file = bareFiles([options.file], options.zone)[0]!
  const twin = kept.files.find((each) => foldName(each.zone) === foldName(file.zone))
  if (twin) throw new Trouble(`${bare(file.zone)} is kept already, in ${twin.file}; nothing was changed`)
  const zones = loadZones([file], options.includeAnywhere)
  const home = dirname(resolve(options.file))
  const copies = zones.sources.map(({ file: from }, i) => ({
    from,
    to: join(
      folder,
      'zones',
      i === 0 ? `${bare(foldName(file.zone)).replaceAll('/', '-')}.zone` : relative(home, resolve(from)),
    ),
  }))
  const outside = copies.find(({ to }) => relative(join(folder, 'zones'), to).startsWith('..'))
  if (outside)
    throw new Trouble(
      `${outside.from} lies outside the folder of ${options.file}, so it cannot be copied along; nothing was changed`,
    )
  const there = copies.find(({ to }) => existsSync(to))
  if (there) throw new Trouble(`${shownPath(there.to)} is there already; nothing was changed`)
  const made: string[] = []
  for (const [i, { to }] of copies.entries()) {
    try {
      mkdirSync(dirname(to), { recursive: true })
      createFile(to, zones.sources[i]!.octets)
      made.push(to)
    } catch (error) {
      for (const each of made) rmSync(each, { force: true })
      throw new Trouble(`cannot write ${shownPath(to)}: ${systemText(error)}; nothing was adopted`)
    }
  }
  const named = (await openWorkspace(folder)).files.some((each) => resolve(each.file) === resolve(copies[0]!.to))
  const { counts } = await check(zones)
  if (options.json) {
    printJson({
      format: 1,
      zone: foldName(file.zone),
      files: copies.map(({ to }) => shownPath(to)),
      records: zones.count,
      counts,
      kept: named,
    })
    return
  }
  const page = new Page(command)
  page.text(
    `${bare(file.zone)}: ${counted(zones.count, 'record')}, now in ${copies.map(({ to }) => shownPath(to)).join(', ')}. ${options.file} stays as it is.`,
  )
  if (!named)
    page.text(
      `bramblefront.yaml does not name that file: add “- zones/${bare(foldName(file.zone))}.zone” to its zones.`,
    )
  page.text(`A first look: ${countsText(counts)}. Next: bramblefront check, bramblefront show ${bare(file.zone)}`)
  page.print()
}
