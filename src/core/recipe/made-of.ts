/** Makes a recipe of record sets: what differs from domain to domain becomes a blank. */
import type { RecordSet } from '../model/zones.ts'
import { bare, foldName, type Name, nameInText, nameToWire, relativeName } from '../names/name.ts'
import { type Rdata, rdataText } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import { joined } from '../records/views.ts'
import { kindOf } from '../transcribe/kinds.ts'
import type { Blank, Recipe } from './recipe.ts'

/** Addresses, keys and verification texts become blanks; in texts, the zone’s own name does. Aliases and hosts of the zone are relative anyway. */
export function recipeOf(label: string, zone: Name, sets: readonly RecordSet[]): Recipe {
  const blanks = new Blanks()
  const origin = nameToWire(zone) as Uint8Array
  const records = sets.flatMap(({ owner, type, data }) =>
    data.map((each) => {
      // A dollar sign that is there must not begin a blank.
      const value = rdataText(type, each, origin).replaceAll('${', '\\036{')
      return `${relativeName(foldName(owner), foldName(zone))} ${typeText(type)} ${withBlanks({ type, owner, data: each }, value, zone, blanks)}`
    }),
  )
  return {
    label,
    title: `Record sets as in ${bare(zone)}`,
    blanks: blanks.all,
    records,
  }
}

function withBlanks(
  { type, owner, data }: { type: number; owner: Name; data: Rdata },
  value: string,
  zone: Name,
  blanks: Blanks,
): string {
  if (type === TYPE.A || type === TYPE.AAAA)
    return blanks.for('address', type === TYPE.A ? 'an IPv4 address' : 'an IPv6 address', 'address', value)
  if (type !== TYPE.TXT) return value
  const kind = kindOf(type, owner, joined(data))
  if (kind === 'proof') return `"${blanks.for('verification', 'the verification text', 'text', joined(data))}"`
  const own = nameInText(zone)
  const isOwn = own.test(value)
  const text = isOwn ? value.replace(own, blanks.for('domain', 'the domain itself', 'name', '@', '@')) : value
  // A long key is in several strings: its blank is one.
  const key = kind === 'dkim-key' ? /p=([A-Za-z0-9+/=]+)/.exec(joined(data))?.[1] : undefined
  if (key === undefined) return text
  return `"${joined(data).replace(key, blanks.for('key', 'the public key', 'key', undefined))}"`
}

/** Blanks so far; one for each value, numbered where there are several. */
class Blanks {
  readonly all: Blank[] = []
  private readonly byValue = new Map<string, string>()

  for(name: string, what: string, kind: Blank['kind'], example: string | undefined, stated?: string): string {
    const known = example === undefined ? undefined : this.byValue.get(`${name} ${example}`)
    if (known !== undefined) return known
    const count = this.all.filter((each) => each.name.replace(/(?<!\d)\d+$/, '') === name).length
    const own = count === 0 ? name : `${name}${count + 1}`
    this.all.push({
      name: own,
      what,
      kind,
      ...(stated === undefined ? {} : { default: stated }),
      ...(example === undefined || stated !== undefined ? {} : { example }),
    })
    const text = `\${${own}}`
    if (example !== undefined) this.byValue.set(`${name} ${example}`, text)
    return text
  }
}
