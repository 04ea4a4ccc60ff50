/** Writes one record set by its values. */

import type { Command } from 'commander'
import { typedData, typedName } from '../../../core/change/typed.ts'
import type { SetChange } from '../../../core/file/edit/changes.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { parseAddress } from '../../../core/names/address.ts'
import { isAtOrBelow, type Name, nameToWire } from '../../../core/names/name.ts'
import { type Rdata, rdataKey, rdataText } from '../../../core/records/rdata.ts'
import { parseType, TYPE, typeText } from '../../../core/records/types.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones } from '../../../workspace/workspace.ts'
import { writeOptions } from '../../options.ts'
import { change, ofZone } from '../change/apply.ts'
import { type ChangeOptions, targetOf, zoneFor } from '../change/target.ts'
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
  record: {
    values: 'TYPE, then the values in presentation form',
    example: 'example.com NS ns1.example.net. ns2.example.net.',
  },
}

export function define(command: Command): Command {
  const kind = command.name()
  const { values, example } = KINDS[kind]!
  writeOptions(command.argument('<name>', 'the owner; @ for the zone apex').argument('[values...]', values))
  if (kind === 'txt') command.option('--replace', 'replace all TXT records at the name')
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
}

/** Writes one record set (for addresses, one for each family). */
async function write(
  kind: string,
  owner: string,
  values: string[],
  options: WriteOptions,
  command: Command,
): Promise<void> {
  const target = await targetOf(options)
  const zones = loadZones(target.files, options.includeAnywhere)
  const zone = zoneFor(owner, zones, options)
  await change(
    target,
    zones,
    options,
    command,
    ofZone(zone, (model, at) => changesFor(kind, owner, values, options, model, at)),
  )
}

function changesFor(
  kind: string,
  owner: string,
  values: string[],
  options: WriteOptions,
  zones: Zones,
  zone: Zone,
): SetChange[] {
  const name = orTrouble(typedName(owner, zone, zones.zones))
  if (!isAtOrBelow(name, zone.name)) throw new Trouble(`${name} is not in the zone ${zone.name}`)
  const ttl = ttlOf(options)
  const { type, values: texts } = kind === 'record' ? withType(values, owner) : { type: KINDS[kind]!.type, values }
  const removed = options.remove ?? []
  if (texts.length === 0 && removed.length === 0)
    throw new Trouble(`no value: give the value for ${name}, or --remove VALUE`)
  const setOf = (ofType: number, values: string[], gone: string[]): SetChange => {
    const read = (text: string): Rdata => orTrouble(typedData(ofType, text, zone, zones, options.force === true))
    return changeOf(zones, name, ofType, ttl, values.map(read), gone.map(read), options, kind === 'txt')
  }
  if (type !== undefined) return [setOf(type, texts, removed)]
  for (const text of [...texts, ...removed]) if (!parseAddress(text)) throw new Trouble(addressTrouble(text))
  return [TYPE.A, TYPE.AAAA].flatMap((family) => {
    const ofFamily = (text: string) => text.includes(':') === (family === TYPE.AAAA)
    const [data, gone] = [texts.filter(ofFamily), removed.filter(ofFamily)]
    return data.length === 0 && gone.length === 0 ? [] : [setOf(family, data, gone)]
  })
}

/** The values of `write record`: a type, then values of it. */
function withType([word, ...values]: string[], owner: string): { type: number; values: string[] } {
  const type = word === undefined ? undefined : parseType(word)
  if (type === undefined)
    throw new Trouble(
      `“${word ?? ''}” is not a record type; the type comes first: bramblefront write record ${owner} TYPE VALUE`,
    )
  return { type, values }
}

function addressTrouble(text: string): string {
  const port = /^(\d+\.\d+\.\d+\.\d+|\[[0-9a-f:.]+\]):(\d+)$/i.exec(text)
  if (port)
    return `${text} is an address with a port; an address record holds only the address: ${port[1]!.replace(/[[\]]/g, '')}. To publish the port: bramblefront write srv`
  return `“${text}” is not a valid IP address (expected e.g. 192.0.2.25 or 2001:db8::25)`
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
