/** Changes TTLs alone: lowers those of several names before a move, and puts them back after it. */
import type { Command } from 'commander'
import { loweredSets } from '../../../core/change/lowered.ts'
import { typedName } from '../../../core/change/typed.ts'
import type { SetChange } from '../../../core/file/edit/changes.ts'
import { setAt, type Zone, type Zones } from '../../../core/model/zones.ts'
import { foldName, type Name } from '../../../core/names/name.ts'
import { NONE } from '../../../core/names/tree.ts'
import { notAType } from '../../../core/records/host-types.ts'
import { parseType, TYPE, typeText } from '../../../core/records/types.ts'
import { named } from '../../../core/rules/look.ts'
import { readLog } from '../../../workspace/log.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones, zoneNamed } from '../../../workspace/workspace.ts'
import { changeOptions } from '../../options.ts'
import { change } from '../change/apply.ts'
import { type ChangeOptions, targetNamed, targetOf, zoneFor } from '../change/target.ts'
import { exampleOf, ttlOf } from './place.ts'

interface TtlOptions extends ChangeOptions {
  type?: string
  restore?: boolean
}

export const define = (command: Command): Command =>
  changeOptions(command.argument('<names...>', 'owners, and behind them the TTL, unless --restore'))
    .option('--type <type>', 'only the sets of this type')
    .option('--restore', 'put back the TTLs that were lowered, as the log has them')
    .addHelpText('after', exampleOf(command, 'www.example.com mail.example.com 300'))
    .action((words: string[], options: TtlOptions) => writeTtl(words, options, command))

async function writeTtl(words: string[], options: TtlOptions, command: Command): Promise<void> {
  const owners = options.restore ? words : words.slice(0, -1)
  const ttl = options.restore ? undefined : ttlOf({ ttl: words.at(-1)! })
  if (owners.length === 0)
    throw new Trouble('give the names and then the TTL, as in: bramblefront write ttl www.example.com 300')
  const type = options.type === undefined ? undefined : parseType(options.type)
  if (options.type !== undefined && type === undefined) throw new Trouble(notAType(options.type))
  const target = await (owners.length > 0 ? targetNamed(options) : targetOf(options))
  const loaded = loadZones(target.files, options.includeAnywhere)
  if (options.restore && target.bareFile)
    throw new Trouble('--restore needs a workspace, whose log has the earlier TTLs: give the TTL instead')
  const before = new Map(
    (options.restore ? loweredSets(readLog(target.folder)) : [])
      .filter(({ view }) => view === options.view)
      .map(({ owner, type: of, from }) => [`${owner} ${of}`, from]),
  )
  const places: { owner: string; zone: Name }[] = []
  for (const owner of owners) places.push({ owner, zone: (await zoneFor(owner, loaded, options, target.known)).name })
  await change(target, loaded, options, command, (zones) => {
    const byZone = new Map<Zone, SetChange[]>()
    for (const { owner, zone: name } of places) {
      const zone = zoneNamed(zones, name)
      const changes = changesAt(
        zones,
        zone,
        orTrouble(typedName(owner, zone, zones.zones)),
        type,
        (key) => ttl ?? before.get(key),
      )
      byZone.set(zone, [...(byZone.get(zone) ?? []), ...changes])
    }
    return { parts: [...byZone].map(([zone, sets]) => ({ zone, sets })) }
  })
}

/** The sets at a name with the TTL that `ttlOf` says; what it says nothing of stays. */
function changesAt(
  zones: Zones,
  zone: Zone,
  owner: Name,
  only: number | undefined,
  ttlFor: (key: string) => number | undefined,
): SetChange[] {
  const node = named(zones, owner)
  const types = new Set<number>()
  for (let record = node === NONE ? NONE : zones.first(node); record !== NONE; record = zones.next(record))
    if (zones.zoneOfRecord(record) === zone) types.add(zones.type(record))
  const wanted = [...types].filter((type) => (only === undefined ? type !== TYPE.SOA : type === only))
  if (wanted.length === 0)
    throw new Trouble(
      `${owner} has no ${only === undefined ? 'record set' : typeText(only)} whose TTL could be changed`,
    )
  const changes = wanted.flatMap((type) => {
    const ttl = ttlFor(`${foldName(owner)} ${typeText(type)}`)
    return ttl === undefined ? [] : [{ owner, type, ttl, data: setAt(zones, zone, owner, type)!.data }]
  })
  if (changes.length === 0) throw new Trouble(`the log knows of no lowered TTL at ${owner}: give the TTL instead`)
  return changes
}
