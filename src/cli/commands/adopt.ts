import { existsSync, readFileSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'
import type { Command } from 'commander'
import { type FileBeside, type SetPreview, setJson } from '../../core/change/change-set.ts'
import { differingSets } from '../../core/change/difference.ts'
import { zoneDigest } from '../../core/change/digest.ts'
import type { Zones } from '../../core/model/zones.ts'
import { bare, foldName } from '../../core/names/name.ts'
import { sameOctets } from '../../core/names/octets.ts'
import { typeText } from '../../core/records/types.ts'
import { check } from '../../core/rules/engine.ts'
import { setName } from '../../core/view/record-set.ts'
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
import { agreedTo, canAsk } from '../output/ask.ts'
import { countsText } from '../output/findings.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { printable } from '../output/printable.ts'
import { verbosity } from '../verbosity.ts'
import { sides } from './change/report.ts'
import { finished } from './change/target.ts'
import type { SourceOptions } from './source.ts'

export const define = (command: Command): Command =>
  command
    .argument('<files...>', 'zone files (- for standard input); each is copied as it is')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .option('--yes', 'replace zones that are there already, without asking')
    .addOption(jsonOption())
    .action(adopt)

/** A zone file that is taken over, and what it includes: where each goes. */
export interface Adopted {
  given: string
  file: ZoneFile
  zones: Zones
  copies: { to: string; octets: Uint8Array }[]
  /** It is in the workspace already, as it is here. */
  there: boolean
  /** The file of the workspace that it takes the place of, and what becomes another set by that. */
  replaced?: { file: ZoneFile; sets: SetPreview[] }
}

interface AdoptOptions extends SourceOptions {
  yes?: boolean
  json?: boolean
}

/** Brings existing zone files, and what they include, into the workspace: copied as they are, to the last octet; all of them, or none. */
async function adopt(files: string[], options: AdoptOptions, command: Command): Promise<void> {
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (!folder) throw new Trouble('no workspace here (no bramblefront.yaml): create one with: bramblefront init')
  await finished(folder, {})
  const kept = await openWorkspace(folder, { allViews: true })
  const adopted = files.map((each) => adoptedFrom(each, folder, kept, options))
  const twice = adopted.find(
    (each, i) => adopted.findIndex((one) => foldName(one.file.zone) === foldName(each.file.zone)) !== i,
  )
  if (twice) throw new Trouble(`${bare(twice.file.zone)} is given twice; nothing was changed`)
  if (!(await replacingAgreed(adopted, options, command))) {
    process.exitCode = 1
    return
  }
  const fresh = adopted.filter(({ there }) => !there)
  await bringIn(folder, fresh, options.view)
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
    const { given, there, replaced } = adopted[i]!
    page.text(
      replaced && !there
        ? `${bare(zone)}: ${counted(records, 'record')}, replaced in ${to.join(', ')}.`
        : there
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
  if (twin && !(there && resolve(twin.file) === resolve(copies[0]!.to))) {
    if (copies.length > 1)
      throw new Trouble(
        `${bare(file.zone)} is already in your workspace, as ${twin.file}, and an export with included files cannot replace it; nothing was changed`,
      )
    const present = loadZones([twin], options.includeAnywhere)
    const sets = differingSets(present, present.zones[0]!, zones, zones.zones[0]!)
    const same = sameOctets(twin.octets, file.octets)
    return {
      given,
      file,
      zones,
      copies: [{ ...copies[0]!, to: resolve(twin.file) }],
      there: same,
      replaced: { file: twin, sets },
    }
  }
  const taken = there ? undefined : copies.find(({ to }) => existsSync(to))
  if (taken) throw new Trouble(`${shownPath(taken.to)} already exists; nothing was changed`)
  return { given, file, zones, copies, there: there && twin !== undefined }
}

/** Shows what becomes another set in zones that are there already, and asks; without a terminal only with --yes. */
async function replacingAgreed(adopted: readonly Adopted[], options: AdoptOptions, command: Command): Promise<boolean> {
  const replacing = adopted.filter(({ replaced, there }) => replaced && !there)
  if (replacing.length === 0) return true
  const page = new Page(command)
  for (const { file, replaced } of replacing) {
    const { sets, file: present } = replaced!
    page.text(
      `${bare(file.zone)} is already in your workspace, as ${present.file}. ${sets.length === 0 ? 'The records are the same, the text of the file is not.' : `${counted(sets.length, 'record set')} would change:`}`,
    )
    page.line()
    for (const set of sets.slice(0, verbosity.verbose ? undefined : SHOWN)) {
      page.line(page.colour.bold(printable(setName(set.owner, set.type))))
      sides(page, set, 'after')
    }
    if (sets.length > SHOWN && !verbosity.verbose) page.text(`and ${sets.length - SHOWN} more (--verbose shows them)`)
    page.line()
  }
  if (!options.json) page.print()
  if (options.yes) return true
  if (!options.json && canAsk()) return agreedTo('Replace it? The present file is kept as a backup.')
  throw new Trouble(
    `${replacing.map(({ file }) => bare(file.zone)).join(', ')}: already in your workspace; nothing was changed. To replace it, use --yes`,
    1,
  )
}

/** So many sets are shown that would change. */
const SHOWN = 20

/** Puts the files into the workspace, and names in bramblefront.yaml what no pattern there matches. */
export async function bringIn(folder: string, adopted: readonly Adopted[], view: string | undefined): Promise<void> {
  if (adopted.length === 0) return
  const config = join(folder, CONFIG_FILE)
  const before = readFileSync(config)
  let text = before.toString()
  for (const { file, copies, replaced } of adopted) {
    if (replaced) continue
    const path = relative(folder, copies[0]!.to)
    if (view !== undefined) text = withZone(text, { zone: bare(foldName(file.zone)), file: path, view })
    else if (!(await isNamed(text, path))) text = withZone(text, path)
  }
  const beside: FileBeside[] = adopted.flatMap(({ copies, replaced }) =>
    (replaced ? [] : copies)
      .filter(({ to }) => !existsSync(to))
      .map(({ to, octets }) => ({ path: to, content: octets })),
  )
  if (text !== before.toString()) beside.push({ path: config, content: text, before })
  const zones = adopted.map(
    ({ file, zones, copies, replaced }): ZoneWrite => ({
      zone: file.zone,
      view,
      files: replaced ? [{ file: replaced.file.file, before: replaced.file.octets, octets: file.octets }] : [],
      entry: {
        what: 'adopted',
        ...(view === undefined ? {} : { view }),
        file: relative(folder, copies[0]!.to),
        serial: null,
        sets: (replaced?.sets ?? []).map(({ owner, type, before, after }) => ({
          owner: foldName(owner),
          type: typeText(type),
          before: setJson(before),
          after: setJson(after),
        })),
        findings: { added: [], gone: [] },
        digest: zoneDigest(zones, zones.zones[0]!),
      },
    }),
  )
  const newZones = adopted.filter(({ replaced }) => !replaced).map(({ copies }) => copies[0]!.to)
  const writes = { zones, beside, newZones, command: callText(), now: today() }
  await commit({ root: folder, backups: folder, logged: true }, writes, async () => {
    throw new Trouble('files of the workspace were changed in the meantime; nothing was adopted: try again')
  })
}
