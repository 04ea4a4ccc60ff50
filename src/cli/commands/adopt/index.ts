import type { Command } from 'commander'
import { DROPPED, type Zones } from '../../../core/model/zones.ts'
import { bare, foldName, labelsOf, type Name } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { check, countsOf } from '../../../core/rules/engine.ts'
import type { Severity } from '../../../core/rules/rule.ts'
import { setName } from '../../../core/view/record-set.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { findWorkspace, openWorkspace, shownPath, type Workspace } from '../../../workspace/workspace.ts'
import type { AdoptDocument, AdoptSeveralDocument } from '../../documents/workspace.ts'
import {
  collect,
  includeOption,
  jsonOption,
  RATE_HELP,
  viewOption,
  workspaceOption,
  zoneOption,
} from '../../options.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import { countsText } from '../../output/findings.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { verbosity } from '../../verbosity.ts'
import { sides } from '../change/report.ts'
import { finished } from '../change/target.ts'
import { serversStated } from '../new-zone.ts'
import { styleNamed } from '../sheet/styles.ts'
import { choose, type SourceOptions } from '../source.ts'
import type { Arrived } from './arrived.ts'
import { type Adopted, bringIn, placed } from './bring-in.ts'
import { type AskingOptions, byAsking } from './by-asking.ts'
import { byName, isZoneName } from './by-name.ts'
import { type ChoiceOptions, chosenOf } from './choose.ts'
import { fromFile } from './from-file.ts'
import { type FromOptions, fromServer } from './from-server.ts'

export const define = (command: Command): Command =>
  command
    .argument(
      '<what...>',
      'zone files or tables (- for standard input), or a zone, which comes from its name servers; with --from also ZONE NAME [TYPE]',
    )
    .addOption(zoneOption())
    .option('--ns <host>', 'a name server, for a table that states none (repeatable)', collect)
    .option(
      '--from <address>',
      'transfer the zone, or single record sets, from this server: ADDRESS[:PORT], or a delivery',
    )
    .option('--key <file>', 'with --from: sign the transfer with the key in this file (TSIG)')
    .option('--tls <name>', 'with --from: transfer over TLS, with a certificate for this name')
    .option('--by-asking', 'only ask the zone’s name servers for the names that zones usually have')
    .option('--at <whom>', 'a name server of the zone to ask, as ADDRESS[:PORT] (repeatable)', collect)
    .option('--names <file>', 'more names to ask a zone’s servers for, one a line')
    .option('--rate <number>', RATE_HELP)
    .option('--timeout <seconds>', 'how long to wait: for all of a transfer (default: 60), or for an answer (5)')
    .option('--sheet <style>', 'the zone is kept in a web form, in this style (see bramblefront sheet --help)')
    .option('--choose', 'choose at the terminal which record sets to keep')
    .option(
      '--keep <pattern>',
      'keep only record sets of this name, or “NAME TYPE”; * matches anything (repeatable)',
      collect,
    )
    .option('--leave <pattern>', 'leave out record sets of this name, or “NAME TYPE” (repeatable)', collect)
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .option('--dry-run', 'with NAME: show what would change, but change nothing')
    .option('--force', 'with NAME: write even if that adds an error')
    .option('--yes', 'replace zones or record sets that are there already, without asking')
    .addOption(jsonOption())
    .action(adopt)

interface AdoptOptions extends SourceOptions, FromOptions, AskingOptions, ChoiceOptions {
  ns?: string[]
  dryRun?: boolean
  force?: boolean
  yes?: boolean
  json?: boolean
  sheet?: string
}

/** Brings existing zones into the workspace, and what their files include; all of them, or none. */
async function adopt(what: string[], options: AdoptOptions, command: Command): Promise<void> {
  mustFit(what, options)
  if (options.from !== undefined && what.length > 1)
    return (await import('./sets.ts')).adoptSets(what as [string, string, string?], options, command)
  const folder = options.workspace ?? findWorkspace(process.cwd())
  if (!folder) throw new Trouble('no workspace here (no bramblefront.yaml): create one with: bramblefront init')
  await finished(folder, {})
  const kept = await openWorkspace(folder, { allViews: true })
  if (options.sheet !== undefined) styleNamed(options.sheet, kept.sheets)
  const adopted: Adopted[] = []
  for (const arrived of await arrivedFrom(what, options, kept))
    adopted.push(placed(withSheet(await chosenOf(arrived, options), options.sheet), folder, kept, options))
  const twice = adopted.find(
    (each, i) => adopted.findIndex((one) => foldName(one.file.zone) === foldName(each.file.zone)) !== i,
  )
  if (twice) throw new Trouble(`${bare(twice.file.zone)} is given twice; nothing was changed`)
  if (!(await replacingAgreed(adopted, options, command))) {
    process.exitCode = 1
    return
  }
  await bringIn(
    folder,
    adopted.filter(({ there }) => !there),
    options.view,
  )
  const counts = await countsOfEach(adopted, options)
  const documents = adopted.map((each) => documentOf(each, counts.get(foldName(each.file.zone))!))
  if (options.json) {
    const document: AdoptDocument | AdoptSeveralDocument =
      documents.length === 1 ? { format: 1, ...documents[0]! } : { format: 1, zones: documents }
    return printJson(document)
  }
  const page = new Page(command)
  for (const [i, each] of documents.entries()) told(page, adopted[i]!, each)
  page.print()
}

/** Options that belong to another way of bringing zones in are refused, not passed over. */
function mustFit(what: readonly string[], options: AdoptOptions): void {
  const { from } = options
  const isAsking = options.byAsking === true || isNameAlone(what, options)
  if (from !== undefined && options.byAsking) throw new Trouble('--from and --by-asking are two ways: give one of them')
  const needs = (option: string, isGiven: unknown, isRight: boolean): void => {
    if (isGiven !== undefined && !isRight) throw new Trouble(`${option} belongs to ${NEEDS[option]}`)
  }
  for (const [option, given] of Object.entries({ '--key': options.key, '--tls': options.tls }))
    needs(option, given, from !== undefined)
  for (const [option, given] of Object.entries({
    '--at': options.at,
    '--names': options.names,
    '--rate': options.rate,
  }))
    needs(option, given, isAsking)
  needs('--timeout', options.timeout, from !== undefined || isAsking)
  for (const [option, given] of Object.entries({ '--zone': options.zone, '--ns': options.ns }))
    needs(option, given, from === undefined && !isAsking)
  if (options.byAsking && what.length > 1) throw new Trouble('give one zone with --by-asking')
  if (from !== undefined && what.length > 3) throw new Trouble('give a zone with --from, or ZONE NAME [TYPE]')
  const isOfSets = from !== undefined && what.length > 1
  needs('--sheet', options.sheet, !isOfSets)
  for (const [option, given] of Object.entries({ '--dry-run': options.dryRun, '--force': options.force }))
    needs(option, given, isOfSets)
  for (const [option, given] of Object.entries({
    '--choose': options.choose,
    '--keep': options.keep,
    '--leave': options.leave,
  }))
    needs(option, given, !isOfSets)
}

/** Whether a call names a zone, and nothing else of where it comes from. */
const isNameAlone = ([zone, ...others]: readonly string[], { from, byAsking }: AdoptOptions): boolean =>
  from === undefined && !byAsking && others.length === 0 && isZoneName(zone!)

const NEEDS: Record<string, string> = {
  '--key': '--from',
  '--tls': '--from',
  '--at': 'a zone that is asked for',
  '--names': 'a zone that is asked for',
  '--rate': 'a zone that is asked for',
  '--timeout': 'a zone that servers are asked for',
  '--zone': 'files; with --from or --by-asking, the zone is given by itself',
  '--ns': 'tables',
  '--dry-run': 'ZONE NAME [TYPE] --from',
  '--force': 'ZONE NAME [TYPE] --from',
  '--choose': 'whole zones',
  '--sheet': 'whole zones',
  '--keep': 'whole zones',
  '--leave': 'whole zones',
}

/** A zone that is kept in a web form has no serial of its own, and is told so in bramblefront.yaml. */
const withSheet = (arrived: Arrived, sheet: string | undefined): Arrived =>
  sheet === undefined ? arrived : { ...arrived, traits: { ...arrived.traits, sheet } }

async function arrivedFrom(what: readonly string[], options: AdoptOptions, kept: Workspace): Promise<Arrived[]> {
  if (options.from !== undefined) return [await fromServer(what[0]!, options, kept.deliveries)]
  if (options.byAsking) return [await byAsking(what[0]!, options, kept)]
  if (isNameAlone(what, options)) return [await byName(what[0]!, options, kept)]
  const ns = options.ns && serversStated(options.ns)
  return what.map((each) => fromFile(each, { ...options, ns }))
}

function documentOf(each: Adopted, counts: Counts) {
  const { file, zones, copies, complete, by, asked, unknown, notes, backup } = each
  return {
    zone: foldName(file.zone),
    file: shownPath(copies[0]!.to),
    files: copies.map(({ to }) => shownPath(to)),
    records: recordCount(zones),
    complete,
    by,
    ...(asked === undefined ? {} : { asked }),
    ...(unknown === undefined ? {} : { unknown }),
    counts,
    backup: backup === undefined ? null : shownPath(backup),
    notes,
  }
}

type Counts = Record<Severity, number>

/** What the first check finds at and below each zone, with the other zones around it: as `check ZONE` has it. All are checked at once. */
async function countsOfEach(
  adopted: readonly Adopted[],
  { view, workspace, includeAnywhere }: AdoptOptions,
): Promise<ReadonlyMap<Name, Counts>> {
  const only = adopted.length === 1 ? adopted[0]!.file.zone : undefined
  const source = await choose(only, { view, workspace, includeAnywhere })
  const counts = new Map(adopted.map(({ file }): [Name, Counts] => [foldName(file.zone), countsOf([])]))
  for (const { owner, severity } of (await check(source.zones, source.workspace?.around)).findings) {
    const labels = owner === '' ? [] : labelsOf(owner)
    for (let i = 0; i < labels.length; i++) {
      const of = counts.get(`${labels.slice(i).join('.')}.`)
      if (of) of[severity]++
    }
  }
  return counts
}

/** Without those that were taken out of the file. */
function recordCount(zones: Zones): number {
  let count = 0
  for (let record = 0; record < zones.count; record++) if (!(zones.flags(record) & DROPPED)) count++
  return count
}

const CAME: Record<Arrived['by'], (each: Adopted) => string> = {
  file: ({ given }) => (given === '-' ? '' : ` ${given} stays as it is.`),
  table: ({ given }) => (given === '-' ? '' : ` ${given} stays as it is.`),
  transfer: ({ given }) => ` Transferred from ${given}.`,
  asking: ({ given, asked }) => ` Asked ${given} for ${counted(asked!, 'name')}.`,
}

function told(page: Page, adopted: Adopted, document: ReturnType<typeof documentOf>): void {
  const { zone, files: to, records, counts, notes, backup } = document
  const { there, replaced, by } = adopted
  const came = CAME[by](adopted)
  page.text(
    replaced && !there
      ? `${bare(zone)}: ${counted(records, 'record')}, replaced in ${to.join(', ')}.${by === 'file' ? '' : came}`
      : there
        ? `${bare(zone)}: ${counted(records, 'record')}, already in ${to.join(', ')}, unchanged.`
        : `${bare(zone)}: ${counted(records, 'record')}, now in ${to.join(', ')}.${came}`,
  )
  for (const note of notes) page.text(note)
  if (backup !== null) page.text(`All that came is kept in ${backup}.`)
  const isHosted = adopted.traits.sheet !== undefined
  page.text(`First check: ${countsText(counts)}. Next: bramblefront ${isHosted ? 'sheet' : 'show'} ${bare(zone)}`)
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
