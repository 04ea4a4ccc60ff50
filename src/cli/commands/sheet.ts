/** What to type into the web form at which a zone is kept. */
import type { Command } from 'commander'
import type { SetPreview } from '../../core/change/change-set.ts'
import { differences, setKey, setsOf } from '../../core/change/difference.ts'
import { typedName } from '../../core/change/typed.ts'
import { questionsFor } from '../../core/confirm/questions.ts'
import type { RecordSet, Zone, Zones } from '../../core/model/zones.ts'
import { bare, foldName, relativeName } from '../../core/names/name.ts'
import { TYPE, typeText } from '../../core/records/types.ts'
import { type ActionRow, changedRows, everyRow } from '../../core/sheet/changes.ts'
import { labelIn } from '../../core/sheet/rows.ts'
import { STYLES, type Style } from '../../core/sheet/style.ts'
import { grouped, linesOf, tableOf } from '../../core/sheet/table.ts'
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
import { otherOf, otherState, pastOf, statePublished, WITH_HELP } from './past.ts'
import { serverStates } from './servers.ts'
import { type Chosen, choose, type SourceOptions } from './source.ts'

export const define = (command: Command): Command =>
  command
    .argument('<zone>', 'a zone of the workspace, or a zone file')
    .argument('[names...]', 'only these names of it; @ is the apex')
    .option(
      '--style <label>',
      'how the form takes records: a label under sheets: in bramblefront.yaml, or one that comes along',
    )
    .option('--changes', 'only what differs from what the zone’s name servers answer')
    .option('--with <what>', `with --changes: ${WITH_HELP}`)
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

/** What is still to be done. */
interface Changed {
  rows: ActionRow[]
  /** Sets that nobody answered for. */
  unanswered: number
  /** Nobody answered; it was compared with what was last published. */
  by?: 'published'
}

interface SheetOptions extends SourceOptions {
  style?: string
  changes?: boolean
  with?: string
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
  const sets = typedSets(source.zones, zone!)
  const missing = wanted.find((name) => !options.changes && !sets.some((set) => foldName(set.owner) === name))
  if (missing !== undefined) throw new Trouble(`${bare(missing)} has no record sets to type in, in ${bare(zone!.name)}`)
  const asked = options.changes ? await changedIn(stated, source, zone!, style, options, isWanted) : undefined
  const rows = asked?.rows ?? everyRow(sets.filter(isWanted), zone!, style)
  if (asked) process.exitCode = rows.length > 0 ? 1 : asked.unanswered > 0 ? 3 : 0
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
function typedSets(zones: Zones, zone: Zone): RecordSet[] {
  return questionsFor(zones, zone, 'x').questions.flatMap(({ intended, owner }) =>
    intended && !(intended.type === TYPE.NS && owner === zone.name) ? [{ ...intended, owner }] : [],
  )
}

/** What differs from what is published: from what `--with` names, else from what the zone’s servers answer, else from what was last published. */
async function changedIn(
  stated: string,
  source: Chosen,
  zone: Zone,
  style: Style,
  options: SheetOptions,
  isWanted: (set: { owner: string }) => boolean,
): Promise<Changed> {
  const rowsOf = (sets: readonly SetPreview[]): ActionRow[] =>
    changedRows(sets.filter(isWanted).filter(isTyped(zone)), zone, style)
  const other = otherOf(options.with ?? 'servers', source)
  if (other !== 'servers') {
    const { sets } = otherState(source, zone, other, options)
    return { rows: rowsOf(differences(sets, setsOf(source.zones, zone))), unanswered: 0 }
  }
  const at = options.with === undefined || options.with === 'servers' ? options.at : [options.with]
  const [found] = await serverStates(stated, { ...source, name: undefined }, { ...options, at, noTransfer: true })
  const { servers, unanswered } = found!
  if (servers.length === 0 && options.with === undefined && source.workspace) {
    const past = pastOf(source.workspace.folder, fileOf(source.workspace, zone.name)!, source.zones, zone)
    const published = statePublished(past, options.includeAnywhere)
    if (published)
      return { rows: rowsOf(differences(published.sets, setsOf(source.zones, zone))), unanswered, by: 'published' }
  }
  const told = new Map<string, SetPreview>()
  for (const { sets } of servers) for (const set of sets) if (!told.has(setKey(set))) told.set(setKey(set), set)
  return { rows: rowsOf([...told.values()]), unanswered }
}

/** The host has the SOA record and the apex NS set of its own. */
const isTyped =
  (zone: Zone) =>
  ({ owner, type }: { owner: string; type: number }): boolean =>
    !(type === TYPE.NS && foldName(owner) === foldName(zone.name))

function show(
  rows: readonly ActionRow[],
  zone: Zone,
  style: Style,
  asked: Changed | undefined,
  command: Command,
): void {
  const page = new Page(command)
  const { colour } = page
  if (asked && rows.length === 0)
    page.text(
      asked.unanswered > 0
        ? `Nobody could be asked about ${counted(asked.unanswered, 'record set')} of ${bare(zone.name)}; in all others, nothing is left to do.`
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
    if (asked && asked.unanswered > 0) page.text(`${counted(asked.unanswered, 'record set')} could not be asked for.`)
  }
  page.print()
}
