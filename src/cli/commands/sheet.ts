/** What to type into the web form at which a zone is kept. */
import type { Command } from 'commander'
import { typedName } from '../../core/change/typed.ts'
import { Memory } from '../../core/confirm/memory.ts'
import { questionsFor } from '../../core/confirm/questions.ts'
import { confirmAll } from '../../core/confirm/round.ts'
import type { RecordSet, Zone, Zones } from '../../core/model/zones.ts'
import { bare, foldName, relativeName } from '../../core/names/name.ts'
import { TYPE, typeText } from '../../core/records/types.ts'
import { type ActionRow, changedRows, everyRow } from '../../core/sheet/changes.ts'
import { labelIn } from '../../core/sheet/rows.ts'
import { STYLES, type Style } from '../../core/sheet/style.ts'
import { grouped, linesOf, tableOf } from '../../core/sheet/table.ts'
import { readLog } from '../../workspace/log.ts'
import { nearest } from '../../workspace/nearest.ts'
import { orTrouble, Trouble } from '../../workspace/trouble.ts'
import { fileOf, type Workspace } from '../../workspace/workspace.ts'
import type { SheetDocument } from '../documents/sheet.ts'
import {
  AT_HELP,
  collect,
  includeOption,
  jsonOption,
  RATE_HELP,
  viewOption,
  workspaceOption,
  zoneOption,
} from '../options.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { printable } from '../output/printable.ts'
import { Askers } from './confirm/askers.ts'
import { type ConfirmOptions, plan } from './confirm/plans.ts'
import { type Chosen, choose, type SourceOptions } from './source.ts'
import { limitOf, rateOf } from './whom.ts'

export const define = (command: Command): Command =>
  command
    .argument('<zone>', 'a zone of the workspace, or a zone file')
    .argument('[names...]', 'only these names of it; @ is the apex')
    .option(
      '--style <label>',
      'how the form takes records: a label under sheets: in bramblefront.yaml, or one that comes along',
    )
    .option('--changes', 'only what differs from what the zone’s name servers answer')
    .option('--at <whom>', AT_HELP, collect)
    .option('--rate <number>', RATE_HELP)
    .option('--timeout <seconds>', 'how long to wait for an answer', '5')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .addHelpText('after', `\nStyles that come along: ${STYLES.map(({ label }) => label).join(', ')}.`)
    .action(sheet)

interface SheetOptions extends SourceOptions {
  style?: string
  changes?: boolean
  at?: string[]
  rate?: string
  timeout: string
  json?: boolean
}

async function sheet(stated: string, names: string[], options: SheetOptions, command: Command): Promise<void> {
  const source = await choose(stated, options)
  const [zone] = source.chosen
  const style = styleFor(zone!, source.workspace, options.style)
  const wanted = [
    ...(source.name === undefined ? [] : [source.name]),
    ...names.map((name) => foldName(orTrouble(typedName(name, zone!, [zone!])))),
  ]
  const isWanted = ({ owner }: { owner: string }): boolean => wanted.length === 0 || wanted.includes(foldName(owner))
  const sets = setsOf(source.zones, zone!)
  const missing = wanted.find((name) => !options.changes && !sets.some((set) => foldName(set.owner) === name))
  if (missing !== undefined) throw new Trouble(`${bare(missing)} has no record sets to type in, in ${bare(zone!.name)}`)
  const asked = options.changes ? await askedRows(stated, source, zone!, style, options, isWanted) : undefined
  const rows = asked?.rows ?? everyRow(sets.filter(isWanted), zone!, style)
  if (asked) process.exitCode = rows.length > 0 ? 1 : asked.unreached > 0 ? 3 : 0
  if (options.json) {
    const document: SheetDocument = {
      format: 1,
      zone: foldName(zone!.name),
      style: style.label,
      rows: rows.map(({ action, owner, type, fields, before }) => ({
        action,
        owner,
        type: typeText(type),
        fields: fields.map(({ label, value }) => ({ label, value })),
        before,
      })),
    }
    return printJson(document)
  }
  show(rows, zone!, style, asked, command)
}

/** The style that the call states, else the zone’s own, else the one for most forms. */
function styleFor(zone: Zone, workspace: Workspace | undefined, stated: string | undefined): Style {
  const label = stated ?? (workspace && fileOf(workspace, zone.name)?.sheet) ?? STYLES[0]!.label
  const styles = [...(workspace?.sheets ?? []), ...STYLES]
  const style = styles.find((each) => each.label === label)
  if (style) return style
  const known = styles.map((each) => each.label)
  throw new Trouble(`there is no style ${label} of web forms; ${nearest(label, known, 'styles')}`)
}

/** All record sets but the SOA record and the apex NS set, which the host has of its own. */
function setsOf(zones: Zones, zone: Zone): RecordSet[] {
  return questionsFor(zones, zone, 'x').questions.flatMap(({ intended, owner }) =>
    intended && !(intended.type === TYPE.NS && owner === zone.name) ? [{ ...intended, owner }] : [],
  )
}

async function askedRows(
  stated: string,
  source: Chosen,
  zone: Zone,
  style: Style,
  options: SheetOptions,
  isWanted: (set: { owner: string }) => boolean,
) {
  const folder = source.workspace?.folder
  const memory = new Memory(folder === undefined ? [] : readLog(folder), options.view)
  const askers = new Askers({ limitMs: limitOf(options), rate: rateOf(options.rate) })
  const confirmed = { plans: [], confirmations: [], vantages: askers.vantages, samples: 1 }
  try {
    const how: ConfirmOptions = { ...options, onlyAuthoritative: true }
    await plan(stated, how, { ...source, name: undefined }, memory, askers, confirmed)
    const confirmations = await confirmAll(confirmed.plans, askers.asking(new AbortController().signal))
    const sets = confirmations.flatMap((each) => each.sets).filter(({ question }) => isWanted(question))
    return changedRows(sets, zone, style)
  } finally {
    askers.close()
  }
}

function show(
  rows: readonly ActionRow[],
  zone: Zone,
  style: Style,
  asked: { unreached: number } | undefined,
  command: Command,
): void {
  const page = new Page(command)
  const { colour } = page
  if (asked && rows.length === 0)
    page.text(
      asked.unreached > 0
        ? `Nobody could be asked about ${counted(asked.unreached, 'record set')} of ${bare(zone.name)}; in all others, nothing is left to do.`
        : `Nothing to do: the name servers of ${bare(zone.name)} answer everything as intended.`,
    )
  else {
    page.text(`${bare(zone.name)}, in the style ${style.label}: ${counted(rows.length, 'row')}`, '', '', colour.bold)
    page.line()
    const shown = asked
      ? rows.map((row) => ({
          ...row,
          fields: [{ name: 'action' as const, label: labelIn(style, 'action'), value: row.action }, ...row.fields],
        }))
      : rows
    for (const group of grouped(shown, asked !== undefined)) {
      const { heading, rows: lines } = linesOf(tableOf(group))
      page.line(colour.dim(printable(heading)))
      for (const [i, row] of lines.entries()) {
        for (const line of row) page.line(printable(line))
        const { action, before } = group[i]!
        if (action === 'change' && before && before !== group[i - 1]?.before)
          page.line(colour.dim(printable(`  now there: ${before.join(', ')}`)))
      }
      page.line()
    }
    const hints = new Map<string, string[]>()
    for (const { owner, hints: all } of rows)
      for (const hint of all) {
        const names = hints.get(hint) ?? []
        names.push(relativeName(owner, zone.name))
        hints.set(hint, names)
      }
    for (const [hint, names] of hints) {
      const all = [...new Set(names)]
      page.text(
        `${hint} (${all.slice(0, 4).join(', ')}${all.length > 4 ? `, and ${all.length - 4} more` : ''})`,
        '  ',
        '· ',
      )
    }
    if (asked && asked.unreached > 0) page.text(`${counted(asked.unreached, 'record set')} could not be asked for.`)
  }
  page.print()
}
