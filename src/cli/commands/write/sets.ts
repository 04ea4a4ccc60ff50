/** Writes one record set by its values. */

import type { Command } from 'commander'
import { addressFault, valuesAsTyped } from '../../../core/change/as-typed.ts'
import { withReverse } from '../../../core/change/reverse.ts'
import { typedData, typedName } from '../../../core/change/typed.ts'
import type { SetChange } from '../../../core/file/edit/changes.ts'
import { setAt, type Zone, type Zones } from '../../../core/model/zones.ts'
import { parseAddress } from '../../../core/names/address.ts'
import { isAtOrBelow, type Name, nameToWire } from '../../../core/names/name.ts'
import { atHosts } from '../../../core/records/host-types.ts'
import { type Rdata, rdataKey, rdataText } from '../../../core/records/rdata.ts'
import { parseType, TYPE, typeText } from '../../../core/records/types.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones } from '../../../workspace/workspace.ts'
import { writeOptions } from '../../options.ts'
import { change, ofZone, type ZoneWish } from '../change/apply.ts'
import { agreedToReplace, withExcluded } from '../change/replacing.ts'
import { type ChangeOptions, targetNamed, zoneFor } from '../change/target.ts'
import { exampleOf, ttlOf } from './place.ts'

/** What a kind of record set is called with: its values, and an example. */
const KINDS: Record<string, { type?: number; values: string; example: string }> = {
  mx: {
    type: TYPE.MX,
    values: 'PREFERENCE HOST',
    example: 'example.com 10 mail 20 mx.example.net.',
  },
  cname: { type: TYPE.CNAME, values: 'the target', example: 'www.example.com site.example.net.' },
  srv: {
    type: TYPE.SRV,
    values: 'PRIORITY WEIGHT PORT TARGET',
    example: '_imaps._tcp.example.com 0 1 993 mail',
  },
  address: { values: 'IPv4 and IPv6 addresses', example: 'mail.example.com 192.0.2.25 2001:db8::25' },
  txt: { type: TYPE.TXT, values: 'texts, each as one argument', example: 'example.com "verification=41c2"' },
  ptr: { type: TYPE.PTR, values: 'the host’s name', example: '192.0.2.25 mail.example.com.' },
  record: {
    values: 'TYPE, then the values in presentation form',
    example: 'example.com NS ns1.example.net. ns2.example.net.',
  },
}

export function define(command: Command): Command {
  const kind = command.name()
  const { values, example } = KINDS[kind]!
  writeOptions(
    command
      .argument('<name>', 'the owner; @ for the zone apex; an address for its reverse name')
      .argument('[values...]', values),
  )
  if (kind === 'address') command.option('--ptr', 'write the PTR records in your reverse zones, too')
  command.option(
    '--replace',
    kind === 'txt'
      ? 'replace all TXT records at the name, and an alias (CNAME) there'
      : 'remove what cannot exist next to it: an alias (CNAME), or the records next to one',
  )
  return command
    .addHelpText('after', exampleOf(command, example))
    .action((owner, typed, options) => write(kind, owner, typed, options, command))
}

/** The options of those that state values, too. */
interface WriteOptions extends ChangeOptions {
  ttl?: string
  add?: boolean
  remove?: string[]
  replace?: boolean
  ptr?: boolean
}

/** Writes one record set (for addresses, one for each family). */
async function write(
  kind: string,
  owner: string,
  values: string[],
  options: WriteOptions,
  command: Command,
): Promise<void> {
  const target = await targetNamed(options)
  const zones = loadZones(target.files, options.includeAnywhere)
  const zone = await zoneFor(owner, zones, options, target.known)
  const first = changesFor(kind, owner, values, options, zones, zone)
  const isReplacing = options.replace || (await agreedToReplace(zones, zone, first.changes, options))
  await change(
    target,
    zones,
    options,
    command,
    ofZone(
      zone,
      (model, at) => {
        const wish = changesFor(kind, owner, values, options, model, at)
        const { changes, notes } = withExcluded(model, at, wish.changes, isReplacing)
        return { ...wish, changes, notes: [...(wish.notes ?? []), ...notes] }
      },
      options.ptr ? (model, _, changes) => orTrouble(withReverse(model, changes)) : undefined,
    ),
  )
}

/** How it is called up to the values. */
const call = (kind: string, owner: string, type: number): string =>
  `bramblefront write ${kind === 'record' ? `record ${owner} ${typeText(type)}` : `${kind} ${owner}`}`

function changesFor(
  kind: string,
  owner: string,
  values: string[],
  options: WriteOptions,
  zones: Zones,
  zone: Zone,
): ZoneWish {
  const name = orTrouble(typedName(owner, zone, zones.zones))
  if (!isAtOrBelow(name, zone.name)) throw new Trouble(`${name} is not in the zone ${zone.name}`)
  const ttl = ttlOf(options)
  const { type, values: typed } = kind === 'record' ? withType(values, owner) : { type: KINDS[kind]!.type, values }
  const removed = options.remove ?? []
  const types = type === undefined ? [TYPE.A, TYPE.AAAA] : [type]
  if (typed.length === 0 && removed.length === 0) {
    if (ttl !== undefined) return { changes: withTtl(zones, zone, name, types, ttl) }
    throw new Trouble(`no value: give the value for ${name}, or --remove VALUE, or --ttl TIME to change the TTL alone`)
  }
  const read = (ofType: number, text: string): Rdata =>
    orTrouble(typedData(ofType, text, zone, zones, options.force === true))
  const setOf = (ofType: number, texts: string[], gone: string[]): SetChange => {
    const [data, less] = [texts, gone].map((each) => each.map((text) => read(ofType, text))) as [Rdata[], Rdata[]]
    return changeOf(zones, name, ofType, ttl, data, less, options, kind === 'txt')
  }
  if (type !== undefined) {
    const { values: texts, notes } = orTrouble(valuesAsTyped(type, typed, call(kind, owner, type)))
    return { changes: [setOf(type, texts, removed)], notes }
  }
  for (const text of [...typed, ...removed]) if (!parseAddress(text)) throw new Trouble(addressTrouble(text))
  const changes = types.flatMap((family) => {
    const ofFamily = (text: string) => text.includes(':') === (family === TYPE.AAAA)
    const [data, gone] = [typed.filter(ofFamily), removed.filter(ofFamily)]
    return data.length === 0 && gone.length === 0 ? [] : [setOf(family, data, gone)]
  })
  return { changes }
}

/** The sets that are there, with another TTL. */
function withTtl(zones: Zones, zone: Zone, owner: Name, types: readonly number[], ttl: number): SetChange[] {
  const changes = types.flatMap((type) => {
    const set = setAt(zones, zone, owner, type)
    return set ? [{ owner, type, ttl, data: set.data }] : []
  })
  if (changes.length > 0) return changes
  throw new Trouble(`${owner} has no ${types.map(typeText).join(' or ')}: to write it, give its value`)
}

/** The values of `write record`: a type, then values of it. */
function withType([word, ...values]: string[], owner: string): { type: number; values: string[] } {
  const type = word === undefined ? undefined : parseType(word)
  if (type === undefined)
    throw new Trouble(
      atHosts(word ?? '') ??
        `“${word ?? ''}” is not a record type; the type comes first: bramblefront write record ${owner} TYPE VALUE`,
    )
  return { type, values }
}

function addressTrouble(text: string): string {
  const fault = addressFault(text)
  const port = /\]?:\d+$/.test(text) ? '. To publish the port: bramblefront write srv' : ''
  return `“${text}” is not a valid IP address${fault ? `: ${fault}${port}` : ' (expected e.g. 192.0.2.25 or 2001:db8::25)'}`
}

function changeOf(
  zones: Zones,
  owner: Name,
  type: number,
  ttl: number | undefined,
  data: Rdata[],
  removed: Rdata[],
  options: WriteOptions,
  addsByItself: boolean,
): SetChange {
  const id = zones.tree.findWire(nameToWire(owner) as Uint8Array)
  const zone = zones.zones
    .filter((each) => isAtOrBelow(owner, each.name))
    .sort((a, b) => b.wire.length - a.wire.length)[0]!
  const present = id < 0 ? [] : (zones.set(id, type, zone.index)?.data ?? [])
  const keep = options.add || removed.length > 0 || (addsByItself && !options.replace)
  const gone = new Set(removed.map((each) => rdataKey(type, each)))
  for (const each of removed)
    if (!present.some((one) => rdataKey(type, one) === rdataKey(type, each)))
      throw new Trouble(
        `${owner} has no ${typeText(type)} ${rdataText(type, each)} to remove; it has: ${present.map((one) => rdataText(type, one)).join(', ') || 'none'}`,
      )
  const all = new Map([...(keep ? present : []), ...data].map((each) => [rdataKey(type, each), each]))
  for (const key of gone) all.delete(key)
  return { owner, type, ttl, data: [...all.values()] }
}
