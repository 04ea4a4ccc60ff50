import { existsSync, readFileSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'
import type { Command } from 'commander'
import type { FileBeside } from '../../core/change/change-set.ts'
import { zoneDigest } from '../../core/change/digest.ts'
import type { Zones } from '../../core/model/zones.ts'
import { bare, foldName } from '../../core/names/name.ts'
import { sameOctets } from '../../core/names/octets.ts'
import { check } from '../../core/rules/engine.ts'
import { commit, type ZoneWrite } from '../../workspace/commit.ts'
import { withZone } from '../../workspace/settings.ts'
import { Trouble } from '../../workspace/trouble.ts'
import {
  bareFiles,
  CONFIG_FILE,
  findWorkspace,
  isNamed,
  loadZones,
  openWorkspace,
  shownPath,
  type Workspace,
  type ZoneFile,
} from '../../workspace/workspace.ts'
import { callText } from '../call.ts'
import { today } from '../clock.ts'
import type { AdoptDocument, AdoptSeveralDocument } from '../documents/workspace.ts'
import { includeOption, jsonOption, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { countsText } from '../output/findings.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { finished } from './change/target.ts'
import type { SourceOptions } from './source.ts'

export const define = (command: Command): Command =>
  command
    .argument('<files...>', 'zone files (- for standard input); each is copied as it is')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(adopt)

/** A zone file that is taken over, and what it includes: where each goes. */
interface Adopted {
  given: string
  file: ZoneFile
  zones: Zones
  copies: { to: string; octets: Uint8Array }[]
  /** It is in the workspace already, as it is here. */
  there: boolean
}

/** Brings existing zone files, and what they include, into the workspace: copied as they are, to the last octet; all of them, or none. */
async function adopt(files: string[], options: SourceOptions & { json?: boolean }, command: Command): Promise<void> {
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (!folder) throw new Trouble('no workspace here (no bramblefront.yaml): create one with: bramblefront init')
  await finished(folder, {})
  const kept = await openWorkspace(folder, { allViews: true })
  const adopted = files.map((each) => adoptedFrom(each, folder, kept, options))
  const twice = adopted.find(
    (each, i) => adopted.findIndex((one) => foldName(one.file.zone) === foldName(each.file.zone)) !== i,
  )
  if (twice) throw new Trouble(`${bare(twice.file.zone)} is given twice; nothing was changed`)
  await write(
    folder,
    adopted.filter(({ there }) => !there),
    options.view,
  )
  const documents = await Promise.all(
    adopted.map(async ({ file, zones, copies }) => ({
      zone: foldName(file.zone),
      file: shownPath(copies[0]!.to),
      files: copies.map(({ to }) => shownPath(to)),
      records: zones.count,
      complete: true,
      by: 'file',
      counts: (await check(zones)).counts,
      notes: [],
    })),
  )
  if (options.json) {
    const document: AdoptDocument | AdoptSeveralDocument =
      documents.length === 1 ? { format: 1, ...documents[0]! } : { format: 1, zones: documents }
    return printJson(document)
  }
  const page = new Page(command)
  for (const [i, { zone, files: to, records, counts }] of documents.entries()) {
    const { given, there } = adopted[i]!
    page.text(
      there
        ? `${bare(zone)}: ${counted(records, 'record')}, already in ${to.join(', ')}, unchanged.`
        : `${bare(zone)}: ${counted(records, 'record')}, now in ${to.join(', ')}.${given === '-' ? '' : ` ${given} stays as it is.`}`,
    )
    page.text(`First check: ${countsText(counts)}. Next: bramblefront show ${bare(zone)}`)
  }
  page.print()
}

function adoptedFrom(given: string, folder: string, kept: Workspace, options: SourceOptions): Adopted {
  const file = bareFiles([given === '-' ? '/dev/stdin' : given], options.zone)[0]!
  const zones = loadZones([file], options.includeAnywhere)
  const home = dirname(resolve(file.file))
  const copies = zones.sources.map(({ file: from, octets }, i) => ({
    octets,
    to: join(
      folder,
      'zones',
      options.view?.replace(/[^\w.-]/g, '_') ?? '',
      i === 0 ? `${bare(foldName(file.zone)).replaceAll('/', '-')}.zone` : relative(home, resolve(from)),
    ),
  }))
  const outside = copies.findIndex(({ to }) => relative(join(folder, 'zones'), to).startsWith('..'))
  if (outside >= 0)
    throw new Trouble(
      `${zones.sources[outside]!.file} is outside the folder of ${given}, so it cannot be copied along; nothing was changed`,
    )
  const there = copies.every(({ to, octets }) => existsSync(to) && sameOctets(readFileSync(to), octets))
  const twin = kept.files.find((each) => foldName(each.zone) === foldName(file.zone) && each.view === options.view)
  if (twin && !(there && resolve(twin.file) === resolve(copies[0]!.to)))
    throw new Trouble(`${bare(file.zone)} is already in your workspace, as ${twin.file}; nothing was changed`)
  const taken = there ? undefined : copies.find(({ to }) => existsSync(to))
  if (taken) throw new Trouble(`${shownPath(taken.to)} already exists; nothing was changed`)
  return { given, file, zones, copies, there: there && twin !== undefined }
}

/** Puts the files into the workspace, and names in bramblefront.yaml what no pattern there matches. */
async function write(folder: string, adopted: readonly Adopted[], view: string | undefined): Promise<void> {
  if (adopted.length === 0) return
  const config = join(folder, CONFIG_FILE)
  const before = readFileSync(config)
  let text = before.toString()
  for (const { file, copies } of adopted) {
    const path = relative(folder, copies[0]!.to)
    if (view !== undefined) text = withZone(text, { zone: bare(foldName(file.zone)), file: path, view })
    else if (!(await isNamed(text, path))) text = withZone(text, path)
  }
  const beside: FileBeside[] = adopted.flatMap(({ copies }) =>
    copies.filter(({ to }) => !existsSync(to)).map(({ to, octets }) => ({ path: to, content: octets })),
  )
  if (text !== before.toString()) beside.push({ path: config, content: text, before })
  const zones = adopted.map(
    ({ file, zones, copies }): ZoneWrite => ({
      zone: file.zone,
      view,
      files: [],
      entry: {
        what: 'adopted',
        ...(view === undefined ? {} : { view }),
        file: relative(folder, copies[0]!.to),
        serial: null,
        sets: [],
        findings: { added: [], gone: [] },
        digest: zoneDigest(zones, zones.zones[0]!),
      },
    }),
  )
  const newZones = adopted.map(({ copies }) => copies[0]!.to)
  const writes = { zones, beside, newZones, command: callText(), now: today() }
  await commit({ root: folder, backups: folder, logged: true }, writes, async () => {
    throw new Trouble('files of the workspace were changed in the meantime; nothing was adopted: try again')
  })
}
