/** What to type into the web form at which a zone is kept. */

import type { Command } from 'commander'
import { typedName } from '../../../core/change/typed.ts'
import { questionsFor } from '../../../core/confirm/questions.ts'
import type { RecordSet, Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { TYPE } from '../../../core/records/types.ts'
import { check, countsOf } from '../../../core/rules/engine.ts'
import { selected } from '../../../core/rules/select.ts'
import { everyRow } from '../../../core/sheet/changes.ts'
import { STYLES, type Style } from '../../../core/sheet/style.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { fileOf, type Workspace } from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import {
  AT_HELP,
  collect,
  includeOption,
  jsonOption,
  RATE_HELP,
  viewOption,
  workspaceOption,
  zoneOption,
} from '../../options.ts'
import { counted, printJson } from '../../output/page.ts'
import { print, printNote } from '../../output/terminal.ts'
import { WITH_HELP } from '../past.ts'
import { choose } from '../source.ts'
import { type SheetCall, type SheetOptions, sheetJson } from './call.ts'
import { changedIn } from './changed.ts'
import { show } from './shown.ts'
import { styleNamed } from './styles.ts'

export const define = (command: Command): Command =>
  command
    .argument('<zone>', 'a zone of the workspace, or a zone file')
    .argument('[names...]', 'only these names of it; @ is the apex')
    .option(
      '--style <label>',
      'how the form takes records: a label under sheets: in bramblefront.yaml, or a built-in style',
    )
    .option('--changes', 'only what differs from what the zone’s name servers answer')
    .option('--with <what>', `with --changes: ${WITH_HELP}`)
    .option('--tick', 'tick off row by row what the name servers answer as intended; at a terminal, while you type')
    .option('--page <file>', 'write the sheet as a page to print or to send, with boxes to tick and buttons to copy')
    .option('--at <whom>', AT_HELP, collect)
    .option('--rate <number>', RATE_HELP)
    .option('--timeout <seconds>', 'how long to wait for an answer', '5')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .addHelpText('after', `\nBuilt-in styles: ${STYLES.map(({ label }) => label).join(', ')}.`)
    .action(sheet)

async function sheet(stated: string, names: string[], options: SheetOptions, command: Command): Promise<void> {
  if (options.with !== undefined && !options.changes)
    throw new Trouble('--with says what --changes compares with: give both')
  if (options.tick && (options.changes || options.page !== undefined))
    throw new Trouble('--tick asks the name servers by itself: leave out --changes and --page')
  const source = await choose(stated, options)
  const zone = source.chosen[0]!
  const style = styleFor(zone, source.workspace, options.style)
  const wanted = [
    ...(source.name === undefined ? [] : [source.name]),
    ...names.map((name) => foldName(orTrouble(typedName(name, zone, [zone])))),
  ]
  // The host has the SOA record and the apex NS set of its own.
  const isWanted: SheetCall['isWanted'] = ({ owner, type }) =>
    !(type === TYPE.NS && foldName(owner) === foldName(zone.name)) &&
    (wanted.length === 0 || wanted.includes(foldName(owner)))
  const sets = typedSets(source.zones, zone)
  const missing = wanted.find((name) => !options.changes && !sets.some((set) => foldName(set.owner) === name))
  if (missing !== undefined) throw new Trouble(`${bare(missing)} has no record sets to type in, in ${bare(zone.name)}`)
  const call: SheetCall = { stated, source, zone, style, options, isWanted }
  const errors = await errorsOf(source, zone)
  if (errors > 0)
    printNote(
      `${bare(zone.name)} has ${counted(errors, 'error')}: correct ${errors === 1 ? 'it' : 'them'} before you type anything in. Details: bramblefront check ${callText([stated])}\n`,
    )
  if (options.tick) return (await import('./tick.ts')).tick(call, command)
  const asked = options.changes ? await changedIn(call) : undefined
  const rows = asked?.rows ?? everyRow(sets.filter(isWanted), zone, style)
  if (asked) process.exitCode = rows.length > 0 ? 1 : asked.unanswered > 0 ? 3 : 0
  if (errors > 0) process.exitCode = 1
  if (options.page !== undefined) (await import('./page.ts')).sheetToFile(options.page, call, rows, asked)
  if (options.json) printJson(sheetJson(zone, style, rows))
  else if (options.page === undefined) show(rows, zone, style, asked, command)
  else print(printable(`Page: ${options.page} (${counted(rows.length, 'row')})\n`))
}

/** How many errors a check of the zone finds: what is typed in from here would be wrong at the host, too. */
async function errorsOf({ zones, workspace }: SheetCall['source'], zone: Zone): Promise<number> {
  const { findings } = await check(zones, workspace?.around)
  return countsOf(selected(findings, { names: [zone.name] })).error
}

/** The style that the call states, else the zone’s own, else the one for most forms. */
const styleFor = (zone: Zone, workspace: Workspace | undefined, stated: string | undefined): Style =>
  styleNamed(stated ?? (workspace && fileOf(workspace, zone.name)?.sheet) ?? STYLES[0]!.label, workspace?.sheets)

/** All record sets but the SOA record and the apex NS set. */
const typedSets = (zones: Zones, zone: Zone): RecordSet[] =>
  questionsFor(zones, zone, 'x').questions.flatMap(({ intended, owner }) => (intended ? [{ ...intended, owner }] : []))
