import type { Command } from 'commander'
import { withoutReverse } from '../../core/change/reverse.ts'
import { typedData, typedName } from '../../core/change/typed.ts'
import type { SetChange } from '../../core/file/edit/changes.ts'
import { setAt, typesAt, type Zone, type Zones } from '../../core/model/zones.ts'
import { printable } from '../../core/printable.ts'
import { notAType } from '../../core/records/host-types.ts'
import { rdataKey, rdataText } from '../../core/records/rdata.ts'
import { parseType, TYPE, typeText } from '../../core/records/types.ts'
import { orTrouble, Trouble } from '../../workspace/trouble.ts'
import { loadZones } from '../../workspace/workspace.ts'
import { changeOptions } from '../options.ts'
import { agreedTo, canAsk } from '../output/ask.ts'
import { change, ofZone } from './change/apply.ts'
import { type ChangeOptions, targetNamed, zoneFor } from './change/target.ts'

export const define = (command: Command): Command =>
  changeOptions(
    command
      .argument('<name>', 'the owner; @ for the zone apex; an address for its reverse name')
      .argument('[type]', 'the type of the record set')
      .argument('[values...]', 'remove only these values'),
  )
    .option('--all', 'remove everything at the name')
    .option('--ptr', 'remove the PTR records that lead here from removed addresses, too')
    .action(remove)

/** Removes a set, single records of it, or (with --all) everything at a name. */
async function remove(
  owner: string,
  type: string | undefined,
  values: string[],
  options: ChangeOptions & { all?: boolean; ptr?: boolean },
  command: Command,
): Promise<void> {
  if ((type === undefined) !== (options.all === true))
    throw new Trouble(
      type === undefined
        ? `give a type, or --all to remove everything at ${owner}`
        : '--all removes every type: leave out the type',
    )
  const target = await targetNamed(options)
  const loaded = loadZones(target.files, options.includeAnywhere)
  const zone = await zoneFor(owner, loaded, options, target.known)
  const leading = withoutReverse(loaded, zone, removals(loaded, zone, owner, type, values))
  const isAsking = leading.parts.length > 0 && !options.ptr && !options.json && !options.dryRun && canAsk()
  const withPtr =
    options.ptr === true || (isAsking && (await agreedTo(printable(`${leading.notes.join(' ')} Remove it, too?`))))
  await change(
    target,
    loaded,
    options,
    command,
    ofZone(
      zone,
      (zones, at) => removals(zones, at, owner, type, values),
      (zones, at, changes) => {
        const found = withoutReverse(zones, at, changes)
        if (found.parts.length === 0 || withPtr) return withPtr ? { ...found, notes: [] } : found
        return { parts: [], notes: [...found.notes, 'To remove it, too: the same call with --ptr.'] }
      },
    ),
  )
}

function removals(
  zones: Zones,
  zone: Zone,
  owner: string,
  typeWord: string | undefined,
  values: string[],
): SetChange[] {
  const name = orTrouble(typedName(owner, zone, zones.zones))
  const types = typesAt(zones, zone, name)
  const there = types.size === 0 ? 'nothing' : [...types].map(typeText).join(', ')
  if (typeWord === undefined) {
    if (types.size === 0) throw new Trouble(`${name} has nothing to remove`)
    // The zone needs its SOA record whatever happens to its top.
    return [...types].filter((each) => each !== TYPE.SOA).map((each) => ({ owner: name, type: each, data: [] }))
  }
  const type = parseType(typeWord)
  if (type === undefined) throw new Trouble(notAType(typeWord))
  if (!types.has(type)) throw new Trouble(`${name} has no ${typeText(type)} to remove; it has: ${there}`)
  if (values.length === 0) return [{ owner: name, type, data: [] }]
  const { data } = setAt(zones, zone, name, type)!
  const gone = new Set<string>()
  for (const value of values) {
    const key = rdataKey(type, orTrouble(typedData(type, value, zone, zones, true)))
    if (!data.some((each) => rdataKey(type, each) === key))
      throw new Trouble(
        `${name} has no ${typeText(type)} ${value} to remove; it has: ${data.map((each) => rdataText(type, each)).join(', ')}`,
      )
    gone.add(key)
  }
  return [{ owner: name, type, data: data.filter((each) => !gone.has(rdataKey(type, each))) }]
}
