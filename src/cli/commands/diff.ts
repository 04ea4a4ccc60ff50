/** Where the intended data differ from what somebody else has: servers, a file, an earlier state. */
import type { Command } from 'commander'
import { type SetPreview, setJson } from '../../core/change/change-set.ts'
import { differenceIn, differences, setsOf } from '../../core/change/difference.ts'
import { parseVantage, serverPlace } from '../../core/confirm/vantage.ts'
import { serialOf } from '../../core/file/serial.ts'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { bothWays } from '../../core/names/idna.ts'
import { bare, foldName } from '../../core/names/name.ts'
import { printable } from '../../core/printable.ts'
import { typeText } from '../../core/records/types.ts'
import { setName } from '../../core/view/record-set.ts'
import { deliveriesFor } from '../../workspace/deliveries.ts'
import { Trouble } from '../../workspace/trouble.ts'
import type { Workspace } from '../../workspace/workspace.ts'
import { viewText } from '../call.ts'
import type { DiffPart, DiffSeveral } from '../documents/diff.ts'
import { includeOption, jsonOption, RATE_HELP, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { stream } from '../output/stream.ts'
import { sides } from './change/report.ts'
import { keyIn } from './key-file.ts'
import { type Other, otherOf, otherState, WITH_HELP } from './past.ts'
import { type AtServers, type KeyOf, serverStates } from './servers.ts'
import { type Chosen, choose, type SourceOptions } from './source.ts'

export const define = (command: Command): Command =>
  command
    .argument('[what]', 'a zone of the workspace, or a zone file (default: all zones)')
    .option('--with <what>', WITH_HELP)
    .option('--rate <number>', RATE_HELP)
    .option('--timeout <seconds>', 'how long to wait for an answer', '5')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(diff)

export interface DiffOptions extends SourceOptions {
  with?: string
  rate?: string
  timeout: string
  json?: boolean
}

/** What one zone was compared with. */
interface Compared {
  zone: Zone
  /** In words. */
  with: string
  serial?: number
  /** From what the other has to what is intended; with the server, where servers differ. */
  sets: (SetPreview & { server?: string })[]
  /** The option of restore that brings it back, where it is a former state. */
  back?: string
  /** Servers that could not be asked. */
  unreached: string[]
  /** Of servers that hand no zone over, only what is known here was asked for: so many record sets of so many servers. */
  partial?: { servers: string[]; compared: number }
}

async function diff(what: string | undefined, options: DiffOptions, command: Command): Promise<void> {
  const source = await choose(what, options)
  if (source.name !== undefined)
    throw new Trouble(
      `${bare(source.name)} is not a zone; compare the zone that it is in: bramblefront diff ${bare(source.chosen[0]!.name)}`,
    )
  const all: Compared[] = []
  const other = otherOf(options.with ?? 'servers', source)
  if (other === 'servers') all.push(...(await withServers(what, source, options)))
  else for (const zone of source.chosen) all.push(withState(source, zone, other, options))
  const isDifferent = all.some(({ sets }) => sets.length > 0)
  process.exitCode = isDifferent ? 1 : all.some(({ unreached }) => unreached.length > 0) ? 3 : 0
  if (options.json) {
    const parts = all.map((each) => partOf(source.zones, each))
    const several: DiffSeveral = { format: 1, zones: parts }
    return printJson(what === undefined && options.zone === undefined ? several : parts[0]!)
  }
  await stream(told(all, source, command))
}

function withState(source: Chosen, zone: Zone, other: Exclude<Other, 'servers'>, options: DiffOptions): Compared {
  const { said, sets, serial } = otherState(source, zone, other, options)
  const back =
    other.kind === 'time' ? `--as-of ${other.text}` : other.kind === 'entry' ? `--from ${other.text}` : undefined
  return { zone, with: said, serial, sets: differences(sets, setsOf(source.zones, zone)), unreached: [], back }
}

async function withServers(what: string | undefined, source: Chosen, options: DiffOptions): Promise<Compared[]> {
  const one = options.with === undefined || options.with === 'servers' ? undefined : options.with
  const { workspace } = source
  const delivered = (workspace?.deliveries ?? []).flatMap((each) => (each.by === 'update' ? [each] : []))
  const named = delivered.find(({ label }) => label === one)
  // A delivery is asked as it is delivered to.
  const within = named
    ? { ...source, workspace: { ...workspace!, vantages: [...workspace!.vantages, named.server] } }
    : source
  const keyOf: KeyOf = (vantage, zone) => {
    const own = deliveriesFor(zone, delivered).find(
      (each) => each.by === 'update' && serverPlace(each.server) === serverPlace(vantage),
    )
    return own?.by === 'update' && own.key !== undefined ? keyIn(own.key) : undefined
  }
  const found = await serverStates(what, within, { ...options, at: one === undefined ? undefined : [one], keyOf })
  return found.map(({ zone, servers, unreached, serial }) => {
    const asked = servers.filter(({ whole }) => !whole)
    const compared = Math.max(0, ...asked.map(({ seen }) => seen.size))
    return {
      zone,
      with: one ?? 'servers',
      serial,
      sets: merged(servers),
      unreached,
      ...(asked.length > 0 ? { partial: { servers: asked.map(({ server }) => server), compared } } : {}),
    }
  })
}

/** The differences of all servers: once where all have the same, else each with its server. */
function merged(servers: readonly AtServers[]): Compared['sets'] {
  const found: Compared['sets'] = []
  const keyOf = (set: SetPreview): string =>
    `${foldName(set.owner)} ${set.type} ${JSON.stringify([setJson(set.before), setJson(set.after)])}`
  const counts = new Map<string, number>()
  for (const { sets } of servers) for (const set of sets) counts.set(keyOf(set), (counts.get(keyOf(set)) ?? 0) + 1)
  const told = new Set<string>()
  for (const { server, sets } of servers)
    for (const set of sets) {
      const key = keyOf(set)
      if (counts.get(key)! < servers.length) found.push({ ...set, server })
      else if (!told.has(key)) found.push(set)
      told.add(key)
    }
  return found
}

function partOf(zones: Zones, { zone, with: other, serial, sets, unreached, partial }: Compared): DiffPart {
  const all = sets.map((set) => ({
    owner: foldName(set.owner),
    type: typeText(set.type),
    ...differenceIn(set),
    before: setJson(set.before),
    after: setJson(set.after),
    ...(set.server === undefined ? {} : { server: set.server }),
  }))
  return {
    format: 1,
    zone: foldName(zone.name),
    with: other,
    serial: { intended: serialOf(zones, zone) ?? null, other: serial ?? null },
    sets: all,
    counts: countsOf(sets),
    unreached,
    whole: partial === undefined,
    notWhole: partial?.servers ?? [],
  }
}

function countsOf(sets: readonly SetPreview[]): Record<'added' | 'removed' | 'changed' | 'ttl', number> {
  const counts = { added: 0, removed: 0, changed: 0, ttl: 0 }
  for (const set of sets) counts[differenceIn(set).change]++
  return counts
}

const CHANGES = {
  added: 'missing there',
  removed: 'extra there',
  changed: 'different',
  ttl: 'another TTL',
}

function* told(all: readonly Compared[], { zones, workspace }: Chosen, command: Command): Generator<string> {
  const page = new Page(command)
  const { colour } = page
  const several = all.length > 1
  const shown = several ? all.filter(({ sets, unreached }) => sets.length > 0 || unreached.length > 0) : all
  for (const each of shown) {
    const { zone, with: other, serial, sets, unreached, partial } = each
    const own = serialOf(zones, zone)
    page.line(
      `${colour.bold(printable(bothWays(bare(zone.name))))}  ${colour.dim(printable(`compared with ${other}; serial ${own ?? '(none)'} here, ${serial ?? 'unknown'} there`))}`,
    )
    for (const set of sets) {
      page.line()
      const { change } = differenceIn(set)
      page.line(
        `${colour.bold(printable(setName(bothWays(set.owner), set.type)))}  ${CHANGES[change]}${set.server === undefined ? '' : colour.dim(printable(` (at ${set.server})`))}`,
      )
      sides(page, set, 'here', 'there')
      yield page.taken()
    }
    page.line()
    const counts = Object.entries(countsOf(sets)).filter(([, count]) => count > 0)
    if (sets.length > 0)
      page.text(
        counts.every(([word]) => word === 'changed')
          ? `${counted(sets.length, 'difference')}.`
          : `${counted(sets.length, 'difference')}: ${counts.map(([word, count]) => `${count} ${CHANGES[word as 'ttl']}`).join(', ')}.`,
      )
    else if (unreached.length === 0) page.text(partial ? `No differences in what was compared.` : 'No differences.')
    if (partial) page.text(partialText(partial))
    if (sets.length > 0 && own !== undefined && own === serial && !zone.hosted)
      page.text(`Both sides have the serial ${own}, though they differ: name servers take them for the same version.`)
    for (const what of unreached) page.text(`Could not be compared: ${what}`)
    if (several) page.line()
    yield page.taken()
  }
  const different = all.filter(({ sets }) => sets.length > 0)
  if (several)
    page.text(
      different.length === 0
        ? `No differences in ${counted(all.length, 'zone')}${shown.length > 0 || all.some(({ partial }) => partial) ? ' as far as they could be compared' : ''}.`
        : `${different.length} of ${counted(all.length, 'zone')} differ.`,
    )
  const [first] = different
  if (first) for (const each of nextSteps(first, workspace)) page.text(each)
  yield page.taken()
}

/** What follows, in a line. */
function nextSteps({ zone, back, with: other, sets }: Compared, workspace: Workspace | undefined): string[] {
  const name = `${bare(zone.name)}${viewText(zone.view)}`
  if (!workspace) return ['Next: decide which side is right, and write that: bramblefront write --help']
  if (back !== undefined) return [`To bring the former state back: bramblefront restore ${name} ${back}`]
  if (zone.hosted) return [`Next: bramblefront sheet ${name} --changes`]
  const deliveries = deliveriesFor(zone, workspace.deliveries)
  const from = deliveries.find(({ by, label }) => by === 'update' && (other === 'servers' || other === label))?.label
  const address = from ?? (parseVantage(other) ? other : undefined)
  const [{ owner, type }] = sets as [SetPreview]
  return [
    deliveries.length > 0
      ? `To put in place what is here: bramblefront publish ${name}`
      : `To put in place what is here, load it on your name server, then: bramblefront confirm ${name}`,
    ...(address === undefined
      ? []
      : [
          `To take over what is there: bramblefront adopt ${bare(zone.name)} ${bare(owner)}. ${typeText(type)} --from ${address}${viewText(zone.view)}`,
        ]),
  ]
}

const partialText = ({ servers, compared }: NonNullable<Compared['partial']>): string =>
  `${servers.join(', ')}: no zone transfer, so only the ${counted(compared, 'record set')} known here were compared; whatever else is there was not looked at.`
