import type { Command } from 'commander'
import { typedData, typedName } from '../../core/change/typed.ts'
import type { SetChange } from '../../core/file/edit.ts'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { parseAddress } from '../../core/names/address.ts'
import { isAtOrBelow, type Name, nameToWire } from '../../core/names/name.ts'
import { octetsOf } from '../../core/names/octets.ts'
import { type Rdata, rdataKey, rdataText } from '../../core/records/rdata.ts'
import { MAX_TTL, parseTtl } from '../../core/records/ttl.ts'
import { parseType, TYPE, typeText } from '../../core/records/types.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { loadZones } from '../../workspace/workspace.ts'
import { type ChangeOptions, change, orTrouble, targetOf, zoneFor } from './change.ts'

/** The options of those that state values, too. */
export interface WriteOptions extends ChangeOptions {
  ttl?: string
  add?: boolean
  remove?: string[]
  replace?: boolean
}

const KIND_TYPES: Record<string, number> = { mx: TYPE.MX, cname: TYPE.CNAME, srv: TYPE.SRV, txt: TYPE.TXT }

/** Writes one record set (for addresses, one for each family). */
export async function write(
  kind: string,
  owner: string,
  values: string[],
  options: WriteOptions,
  command: Command,
): Promise<void> {
  const target = await targetOf(options)
  const zones = loadZones(target.files, options.includeAnywhere)
  const zone = zoneFor(owner, zones, options)
  await change(target, zones, zone, options, command, (model, at) =>
    changesFor(kind, owner, values, options, model, at),
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
  let type = KIND_TYPES[kind]
  if (kind === 'record') {
    const [word, ...rest] = values
    const parsed = word === undefined ? undefined : parseType(word)
    if (parsed === undefined)
      throw new Trouble(
        `${word ?? '(nothing)'} is no record type; write record takes the type first, as in: write record ${owner} NS ns1.upland-dns.example.`,
      )
    type = parsed
    values = rest
  }
  const removed = options.remove ?? []
  if (values.length === 0 && removed.length === 0)
    throw new Trouble(`no value: state what ${name} shall have, or --remove VALUE`)
  const read = (ofType: number, text: string): Rdata =>
    orTrouble(typedData(ofType, text, zone, zones, options.force === true))
  if (kind !== 'address')
    return [
      changeOf(
        zones,
        name,
        type,
        ttl,
        values.map((value) => read(type, value)),
        removed.map((value) => read(type, value)),
        options,
        kind === 'txt',
      ),
    ]
  const families = (texts: string[]) =>
    texts.map((text) => ({
      text,
      type: text.includes(':') && !/^\d+\.\d+\.\d+\.\d+:\d+$/.test(text) ? TYPE.AAAA : TYPE.A,
    }))
  for (const { text } of families([...values, ...removed]))
    if (!parseAddress(text)) throw new Trouble(addressTrouble(text))
  return [TYPE.A, TYPE.AAAA].flatMap((family) => {
    const data = families(values).filter((each) => each.type === family)
    const gone = families(removed).filter((each) => each.type === family)
    if (data.length === 0 && gone.length === 0) return []
    return [
      changeOf(
        zones,
        name,
        family,
        ttl,
        data.map((each) => read(family, each.text)),
        gone.map((each) => read(family, each.text)),
        options,
        false,
      ),
    ]
  })
}

function addressTrouble(text: string): string {
  const port = /^(\d+\.\d+\.\d+\.\d+|\[[0-9a-f:.]+\]):(\d+)$/i.exec(text)
  if (port)
    return `${text} is an address with a port; an address record holds the address alone: ${port[1].replace(/[[\]]/g, '')}. To publish the port, use: write srv`
  return `${text} is no address; right would be one as in 192.0.2.25 or 2001:db8::25`
}

/** `--ttl` in seconds. */
export function ttlOf(options: { ttl?: string }): number | undefined {
  if (options.ttl === undefined) return undefined
  const octets = octetsOf(options.ttl)
  const ttl = parseTtl(octets, 0, octets.length)
  if (ttl < 0 || ttl > MAX_TTL)
    throw new Trouble(`--ttl ${options.ttl} must be a time in seconds up to ${MAX_TTL}, or with units as in 1h30m`)
  return ttl
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
    .sort((a, b) => b.wire.length - a.wire.length)[0]
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
