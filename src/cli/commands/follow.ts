/** Keeps the addresses of a name at an owner that cannot be an alias of it. */

import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Command } from 'commander'
import { type Addresses, following } from '../../core/change/follow.ts'
import { typedName } from '../../core/change/typed.ts'
import type { ServerEntry } from '../../core/confirm/vantage.ts'
import type { SetChange } from '../../core/file/edit/changes.ts'
import { findIntendedThenAsked } from '../../core/knowledge/find.ts'
import { setAt, type Zone, type Zones } from '../../core/model/zones.ts'
import { parseAddress } from '../../core/names/address.ts'
import { bare, foldName, isAtOrBelow, type Name, toName } from '../../core/names/name.ts'
import { TYPE } from '../../core/records/types.ts'
import { isRefused } from '../../core/result.ts'
import { findAt } from '../../net/lookup.ts'
import { OwnTtls } from '../../net/own-ttl.ts'
import { withFollow, withoutFollow } from '../../workspace/settings.ts'
import { orTrouble, Trouble } from '../../workspace/trouble.ts'
import { CONFIG_FILE, loadZones, zoneNamed } from '../../workspace/workspace.ts'
import { CLOCK } from '../clock.ts'
import type { FollowDocument } from '../documents/follow.ts'
import { AT_HELP, collect, includeOption, jsonOption, viewOption, workspaceOption } from '../options.ts'
import { canAsk } from '../output/ask.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { print } from '../output/terminal.ts'
import { change } from './change/apply.ts'
import { agreedAfterShowing, document, type Outcome, report } from './change/report.ts'
import { type ChangeOptions, targetOf, zoneFor } from './change/target.ts'
import { vantagesFor } from './live.ts'
import { limitOf } from './whom.ts'

export const define = (command: Command): Command =>
  command
    .argument('[owner]', 'the name that follows another one; without it, all that do are looked up anew')
    .argument('[target]', 'the name whose addresses it has')
    .option('--end', 'it follows no longer; its addresses stay')
    .option('--at <whom>', AT_HELP, collect)
    .option('--timeout <seconds>', 'how long to wait for an answer', '5')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .option('--dry-run', 'show what would change, but change nothing')
    .option('--force', 'write even if that adds an error')
    .option('--yes', 'write without asking')
    .addOption(jsonOption())
    .action(follow)

interface FollowOptions extends ChangeOptions {
  end?: boolean
  at?: string[]
  timeout: string
  yes?: boolean
}

/** Who follows whom, in which zone. */
interface Pair {
  owner: Name
  target: Name
  zone: Zone
}

/** A pair whose addresses could not be found out, and why. */
interface Unresolved extends Pick<Pair, 'owner' | 'target'> {
  why: string
}

async function follow(
  stated: string | undefined,
  target: string | undefined,
  options: FollowOptions,
  command: Command,
): Promise<void> {
  if (options.end ? stated === undefined || target !== undefined : (stated === undefined) !== (target === undefined))
    throw new Trouble(
      'call it as: bramblefront follow OWNER TARGET, bramblefront follow OWNER --end, or bramblefront follow',
    )
  const at = await targetOf(options)
  const loaded = loadZones(at.files, options.includeAnywhere)
  const config = join(at.folder, CONFIG_FILE)
  const before = readFileSync(config)
  const known = (at.around.follows ?? []).map((each) => ({
    owner: absolute(each.owner),
    target: absolute(each.target),
  }))
  const own = stated === undefined ? undefined : await ownerIn(stated, loaded, options)
  if (own && options.end && !known.some(({ owner }) => foldName(owner) === foldName(own.owner)))
    throw new Trouble(`${bare(own.owner)} follows no name by bramblefront.yaml`)
  const pairs = options.end
    ? []
    : own
      ? [{ ...own, target: targetName(target!, loaded, own.zone) }]
      : known.map((each) => ({ ...each, zone: zoneOfOwner(each.owner, loaded) }))
  for (const pair of own && !options.end ? pairs : []) mustBeFollowable(pair, target!, known)
  const { wishes, unresolved, unchanged } = await lookedUp(pairs, loaded, options, at.servers ?? [])
  const text = own
    ? options.end
      ? withoutFollow(before.toString(), own.owner)
      : unresolved.length > 0
        ? before.toString()
        : withFollow(before.toString(), { owner: bare(own.owner), target: bare(pairs[0]!.target) })
    : before.toString()
  const beside =
    text === before.toString() || (own && known.some((each) => isSamePair(each, pairs[0])))
      ? []
      : [{ path: config, content: text, before }]
  const isAsking = !options.json && !options.dryRun && canAsk()
  let outcome: Outcome | undefined
  if (wishes.length > 0 || beside.length > 0)
    await change(
      at,
      loaded,
      options,
      command,
      (zones) => ({
        parts: wishes.map(({ zone, sets, notes }) => ({ zone: zoneNamed(zones, zone.name), sets, notes })),
        beside,
      }),
      {
        agree: async (made) => options.yes === true || (isAsking && (await agreedAfterShowing(made, options, command))),
        tell: (made) => void (outcome = made),
      },
    )
  told({ outcome, unresolved, unchanged, wished: wishes.length, kept: beside.length > 0 }, options, command)
}

/** A name follows another one, and that not back to it. */
function mustBeFollowable(
  { owner, target }: Pick<Pair, 'owner' | 'target'>,
  stated: string,
  known: readonly Pick<Pair, 'owner' | 'target'>[],
): void {
  const follows = `${bare(owner)} cannot follow ${stated}`
  if (parseAddress(stated) !== undefined)
    throw new Trouble(`${follows}: that is an address. Write it: bramblefront write address ${bare(owner)} ${stated}`)
  const way = new Set([foldName(owner)])
  for (let next: Name | undefined = target; next !== undefined; ) {
    if (way.has(foldName(next)))
      throw new Trouble(
        `${follows}: ${way.size === 1 ? 'that is the same name' : 'by bramblefront.yaml, that leads in a circle'}`,
      )
    way.add(foldName(next))
    const at: Name = foldName(next)
    next = known.find((each) => foldName(each.owner) === at)?.target
  }
}

const isSamePair = (each: { owner: Name; target: Name }, pair: Pair | undefined): boolean =>
  pair !== undefined && foldName(each.owner) === foldName(pair.owner) && foldName(each.target) === foldName(pair.target)

const absolute = (name: string): Name => toName(name.endsWith('.') ? name : `${name}.`)!

async function ownerIn(stated: string, zones: Zones, options: FollowOptions): Promise<{ owner: Name; zone: Zone }> {
  const zone = await zoneFor(stated, zones, options)
  return { owner: orTrouble(typedName(stated, zone, [zone])), zone }
}

/** A target of several labels is in full; a single label is relative to the zone. */
const targetName = (stated: string, zones: Zones, zone: Zone): Name =>
  orTrouble(typedName(stated.includes('.') && !stated.endsWith('.') ? `${stated}.` : stated, zone, zones.zones))

function zoneOfOwner(owner: Name, zones: Zones): Zone {
  const [zone] = zones.zones
    .filter((each) => isAtOrBelow(owner, each.name))
    .sort((a, b) => b.name.length - a.name.length)
  if (!zone) throw new Trouble(`follows: in bramblefront.yaml has ${bare(owner)}, which is not in any of your zones`)
  return zone
}

/** Looks the targets up: what is to be written, by zone; what stays; and what could not be found out. */
async function lookedUp(pairs: readonly Pair[], zones: Zones, options: FollowOptions, table: readonly ServerEntry[]) {
  const wishes: { zone: Zone; sets: SetChange[]; notes: string[] }[] = []
  const unresolved: Unresolved[] = []
  let unchanged = 0
  if (pairs.length === 0) return { wishes, unresolved, unchanged }
  const vantages = await vantagesFor({ ...options, live: true })
  const live = vantages.length > 0 ? findAt(vantages, CLOCK, limitOf(options)) : undefined
  const find = findIntendedThenAsked(zones, live?.find)
  const ttls = new OwnTtls(zones, { vantages, table }, CLOCK, limitOf(options))
  try {
    for (const { owner, target, zone } of pairs) {
      const [a, aaaa] = await Promise.all([TYPE.A, TYPE.AAAA].map((type) => find(target, type)))
      const made = await withOwnTtls({ owner, target, zone }, { a: a!, aaaa: aaaa! }, zones, ttls)
      if (isRefused(made)) unresolved.push({ owner, target, why: made.refused })
      else if (made.changes.length === 0) unchanged++
      else {
        const wish = wishes.find((each) => each.zone === zone)
        if (wish) {
          wish.sets.push(...made.changes)
          wish.notes.push(...made.notes)
        } else wishes.push({ zone, sets: [...made.changes], notes: [...made.notes] })
      }
    }
  } finally {
    live?.close()
    ttls.close()
  }
  return { wishes, unresolved, unchanged }
}

/** What the owner's sets become. For one that is new, the TTL is that of the target's own servers: a resolver has only what is left of it. */
async function withOwnTtls(
  { owner, target, zone }: Pair,
  found: Addresses,
  zones: Zones,
  ttls: OwnTtls,
): Promise<ReturnType<typeof following>> {
  const made = following(zones, zone, owner, target, found)
  const isNew =
    !isRefused(made) && made.changes.some(({ type, data }) => data.length > 0 && !setAt(zones, zone, owner, type))
  if (!isNew) return made
  const [a, aaaa] = await Promise.all([ttls.of(found.a), ttls.of(found.aaaa)])
  const known = following(zones, zone, owner, target, { a: a.found, aaaa: aaaa.found })
  if (isRefused(known) || (a.own && aaaa.own)) return known
  return {
    ...known,
    notes: [
      ...known.notes,
      `The TTL of ${bare(target)} could not be read from its own servers: the remaining TTL at the resolver was used.`,
    ],
  }
}

/** Says what came of it, and sets the exit status. */
function told(
  came: {
    outcome: Outcome | undefined
    unresolved: readonly Unresolved[]
    unchanged: number
    wished: number
    kept: boolean
  },
  options: FollowOptions,
  command: Command,
): void {
  const { outcome, unresolved, unchanged } = came
  const zones = outcome?.preview.zones ?? []
  const isWritten = outcome?.committed !== undefined
  const isOpen = outcome !== undefined && !isWritten && !options.dryRun && (zones.length > 0 || came.kept)
  if (isOpen || outcome?.refused) process.exitCode = 1
  else if (unresolved.length > 0) process.exitCode = 3
  const written = isWritten ? zones.filter(({ files }) => files.length > 0).length : 0
  if (options.json) {
    const parts: FollowDocument = {
      format: 1,
      zones: zones.map((_, i) => document(outcome!, i, options)),
      unresolved: unresolved.map(({ owner, target, why }) => ({
        owner: foldName(owner),
        target: foldName(target),
        why,
      })),
      counts: { written, unchanged, unresolved: unresolved.length },
    }
    printJson(parts)
    return
  }
  const page = new Page(command)
  for (const { owner, why } of unresolved) page.text(`${bare(owner)} stays as it is: ${why}`)
  if (unchanged > 0)
    page.text(
      `${counted(unchanged, 'owner')} ${unchanged === 1 ? 'has' : 'have'} the addresses of what ${unchanged === 1 ? 'it follows' : 'they follow'} already.`,
    )
  if (came.kept && isWritten) page.text('bramblefront.yaml was changed.')
  if (unresolved.length === 0 && unchanged === 0 && !outcome)
    page.text('No owner follows another name (follows: in bramblefront.yaml).')
  page.print()
  if (outcome && zones.length > 0) report(outcome, options, command)
  if (isOpen && !outcome?.refused) print('Nothing was written. To write it without being asked: --yes\n')
}
