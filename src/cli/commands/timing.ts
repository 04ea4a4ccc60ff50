import type { Command } from 'commander'
import { zoneDigest } from '../../core/change/digest.ts'
import { typedName } from '../../core/change/typed.ts'
import { Memory } from '../../core/confirm/memory.ts'
import { LONGEST } from '../../core/confirm/status.ts'
import { spanText, statedSpan, timeText } from '../../core/confirm/time-text.ts'
import { type SetTiming, type Timing, timingOf } from '../../core/confirm/timing.ts'
import { setAt, type Zone } from '../../core/model/zones.ts'
import { bare, foldName } from '../../core/names/name.ts'
import { notAType } from '../../core/records/host-types.ts'
import { parseType, TYPE, typeText } from '../../core/records/types.ts'
import { setName } from '../../core/view/record-set.ts'
import { readLog } from '../../workspace/log.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { now } from '../clock.ts'
import type { TimingDocument } from '../documents/timing.ts'
import { includeOption, jsonOption, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { table } from '../output/table.ts'
import { statesBefore } from './before.ts'
import { choose, type SourceOptions } from './source.ts'

interface Options extends SourceOptions {
  lowerTo: string
  json?: boolean
}

export const define = (command: Command): Command =>
  command
    .argument('<zone>', 'a zone file, or a zone of the workspace')
    .argument('[name]', 'the owner; @ for the zone apex')
    .argument('[type]', 'the type of the record set')
    .option('--lower-to <time>', 'the TTL to use before a change', '5m')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(timing)

/** Says when to lower a TTL before a change, and when a change that was made is through. */
async function timing(
  what: string,
  name: string | undefined,
  type: string | undefined,
  options: Options,
  command: Command,
): Promise<void> {
  const to = statedSpan(options.lowerTo)
  if (to === undefined) throw new Trouble(`--lower-to ${options.lowerTo} must be a time, as in 300 or 5m`)
  if (name !== undefined && type === undefined)
    throw new Trouble('give the type as well, as in: bramblefront timing ZONE www CNAME')
  const source = await choose(what, options)
  if (source.chosen.length !== 1 || source.name !== undefined)
    throw new Trouble(
      source.name === undefined
        ? `${what} is not a zone: give the zone first, then the name and type`
        : `${what} is a name in ${bare(source.chosen[0]!.name)}: bramblefront timing ${bare(source.chosen[0]!.name)} ${bare(source.name)}. TYPE`,
    )
  const { zones, workspace } = source
  const zone = source.chosen[0]!
  const number = type === undefined ? undefined : parseType(type)
  if (type !== undefined && number === undefined) throw new Trouble(notAType(type))
  const owner = name === undefined ? undefined : typedName(name, zone, zones.zones)
  if (owner !== undefined && typeof owner !== 'string') throw new Trouble(owner.refused)
  // Who asks for an alias gets its CNAME record, and then what that leads to.
  const isAlias =
    owner !== undefined &&
    number !== TYPE.CNAME &&
    !setAt(zones, zone, owner, number!) &&
    setAt(zones, zone, owner, TYPE.CNAME) !== undefined
  const at = now()
  const memory = new Memory(workspace ? readLog(workspace.folder) : [], options.view, at)
  const knownSince = workspace && memory.knownSince(zone.name, zoneDigest(zones, zone))
  const result = timingOf({
    zones,
    zone,
    earlier: statesBefore(what, options, source, zone).states,
    memory,
    now: at,
    to,
    only: owner === undefined ? undefined : { owner, type: isAlias ? TYPE.CNAME : number! },
  })
  if (options.json) {
    const iso = (seconds: number): string => new Date(seconds * 1000).toISOString()
    const isoOrNull = (seconds: number | null): string | null => (seconds === null ? null : iso(seconds))
    const document: TimingDocument = {
      format: 1,
      zone: foldName(zone.name),
      at: iso(at),
      knownSince: isoOrNull(knownSince ?? null),
      transfer: result.transfer,
      sets: result.sets.map(({ owner: of, type: number, ttl, held, lower, changeAt, throughBy, under }) => ({
        owner: foldName(of),
        type: typeText(number),
        ttl,
        held,
        changeAt: iso(changeAt),
        throughBy: iso(throughBy),
        lower: lower ? { to: lower.to, changeAt: iso(lower.changeAt), throughBy: iso(lower.throughBy) } : null,
        underWay: under
          ? {
              ...under,
              publishedAt: isoOrNull(under.publishedAt),
              until: isoOrNull(under.until),
              notBefore: isoOrNull(under.notBefore),
            }
          : null,
      })),
    }
    printJson(document)
    return
  }
  const page = new Page(command)
  page.line(`${page.colour.bold(zone.name)}  ${page.colour.dim(timeText(at, at))}`)
  if (isAlias)
    page.text(
      `${bare(owner)} has no ${typeText(number!)} records: it is an alias (CNAME), and this is about that record. What it leads to has a TTL of its own.`,
    )
  if (owner !== undefined) one(page, result.sets[0]!, result, zone, at)
  else all(page, result, at)
  if (workspace && (knownSince === undefined || at - knownSince < LONGEST))
    page.text(
      `The zone’s data before ${knownSince === undefined ? 'now' : timeText(knownSince, at)} is not recorded here: caches may hold earlier answers for longer.`,
    )
  page.print()
}

const setText = ({ owner, type }: SetTiming): string => setName(owner, type)

function one(page: Page, set: SetTiming, { transfer }: Timing, zone: Zone, at: number): void {
  const { ttl, held, lower, throughBy, under } = set
  page.line()
  if (under) underWay(page, set, at)
  page.text(
    ttl === null
      ? `${setText(set)} does not exist. Resolvers that are asked for it cache the negative answer for ${spanText(held)}: do not ask for it before all servers have it.`
      : `${setText(set)} has TTL ${ttl}: caches keep it for up to ${spanText(held)}.`,
  )
  page.line()
  if (lower) {
    page.text('Before a change:')
    table(
      page,
      [
        ['1', 'now', `lower its TTL to ${spanText(lower.to)}, publish, and confirm`],
        [
          '2',
          `wait until ${timeText(lower.changeAt, at)}`,
          'by then no cache has the old TTL, if all servers have the low TTL now',
        ],
        [
          '3',
          `change it at ${timeText(lower.changeAt, at)} or later`,
          `everyone has it ${spanText(lower.to)} after the change: by ${timeText(lower.throughBy, at)} at the earliest`,
        ],
        ['4', 'then', `set the TTL back to ${ttl}`],
      ],
      '  ',
    )
    const call = `bramblefront write ttl ${bare(foldName(set.owner))}`
    const type = `--type ${typeText(set.type)}`
    page.text(`Step 1: ${call} ${lower.to} ${type}`)
    page.text(`Step 4: ${call} --restore ${type}`)
    page.text(`A change made now, without this, would reach everyone by ${timeText(throughBy, at)}.`)
  } else page.text(whenLow(set, at))
  if (transfer > 0) page.text(`A server that misses the notify transfers the zone up to ${spanText(transfer)} later.`)
  if (typeText(set.type) === 'NS' && foldName(set.owner) === foldName(zone.name))
    page.text(
      set.held > (ttl ?? 0)
        ? `That is the TTL of the parent zone’s NS records, as a confirmation last saw them: keep the old servers running that long.`
        : 'The parent zone’s NS records count as well, with their own TTL (often one or two days): keep the old servers running that long.',
    )
}

/** Of a set whose TTL is low: whether caches have heard of that by now. */
function whenLow({ ttl, held, throughBy, changeAt, under }: SetTiming, at: number): string {
  if (ttl === null) return `A change made now reaches everyone by ${timeText(throughBy, at)} at the latest.`
  if (changeAt <= at) return `A change made now reaches everyone by ${timeText(throughBy, at)}: the TTL is already low.`
  const published = under?.publishedAt === null ? 'If all servers have the low TTL now, wait' : 'Wait'
  return `${published} until ${timeText(changeAt, at)}, then change it: everyone has it ${spanText(held)} after the change.`
}

function underWay(page: Page, set: SetTiming, at: number): void {
  const { publishedAt, until, held, notBefore, removed } = set.under!
  const what = removed ? 'It was removed' : 'It was changed'
  const earliest = notBefore === null ? '' : `, and the one with the earlier TTL until ${timeText(notBefore, at)}`
  page.text(
    publishedAt === null
      ? `${what}; no confirmation has seen it at all servers yet. From then on, caches may keep the earlier answer for ${spanText(held)}${earliest}. Next: bramblefront confirm`
      : `${what}, and all servers have it since ${timeText(publishedAt, at)}. The last cache expires by ${timeText(until!, at)}, in ${spanText(until! - at)}.`,
  )
  page.line()
}

function all(page: Page, { sets, transfer }: Timing, at: number): void {
  const under = sets.filter((set) => set.under)
  page.line()
  if (under.length > 0) {
    page.text('In progress:')
    table(
      page,
      under.map((set) => {
        const { publishedAt, until, held, notBefore } = set.under!
        return [
          setText(set),
          publishedAt === null ? 'not yet at all servers' : `at all servers since ${timeText(publishedAt, at)}`,
          until === null
            ? `then ${spanText(held)}${notBefore === null ? '' : `, and not before ${timeText(notBefore, at)}`}`
            : `the last cache expires by ${timeText(until, at)}`,
        ]
      }),
      '  ',
    )
    page.line()
  }
  page.text('A change made now would reach everyone by:')
  const bySpan = new Map<number, SetTiming[]>()
  for (const set of sets.filter(({ ttl }) => ttl !== null)) {
    const span = Math.round(set.throughBy - at)
    const group = bySpan.get(span)
    if (group) group.push(set)
    else bySpan.set(span, [set])
  }
  table(
    page,
    [...bySpan]
      .sort(([a], [b]) => b - a)
      .map(([span, group]) => [
        timeText(at + span, at),
        spanText(span),
        counted(group.length, 'set'),
        group.slice(0, 6).map(setText).join(', ') + (group.length > 6 ? ' …' : ''),
      ]),
    '  ',
  )
  if (transfer > 0) page.text(`A server that misses the notify transfers the zone up to ${spanText(transfer)} later.`)
  page.line()
  page.text('For one record set (what to lower, and when): bramblefront timing ZONE NAME TYPE')
}
