/** Rules' own examples as zones: what the tests run and the reference shows. */
import { octetsOf } from '../names/octets.ts'
import { readZone } from '../zone/reader.ts'
import { Zones } from '../zone/zones.ts'
import type { Example } from './rule.ts'

const HEAD = `$TTL 3600
@ SOA ns1.upland-dns.example. hostmaster 2026112301 7200 900 1209600 3600
@ NS ns1.upland-dns.example.
@ NS ns2.upland-dns.example.
`

/** The zone texts of an example, by zone name. */
export function exampleTexts(example: Example): Record<string, string> {
  const { zones, whole } = typeof example === 'string' ? { zones: { 'hollowmere.example': example }, whole: false } : example
  return Object.fromEntries(Object.entries(zones).map(([zone, text]) => [zone, (whole ? '' : HEAD) + text + '\n']))
}

/** An example read and sealed, ready to be checked. */
export function exampleZones(example: Example): Zones {
  const zones = new Zones()
  for (const [name, text] of Object.entries(exampleTexts(example))) {
    const file = `${name}.zone`
    readZone(zones, zones.addSource(zones.addZone(`${name}.`, file), file, octetsOf(text)))
  }
  zones.seal()
  return zones
}
