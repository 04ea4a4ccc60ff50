/** Rules' own examples as zones: what the tests run and the reference shows. */

import { readZone } from '../file/reader.ts'
import { Zones } from '../model/zones.ts'
import { octetsOf } from '../names/octets.ts'
import { EXAMPLE_HEAD } from './example-head.ts'
import type { Example, Surroundings } from './rule.ts'

type Whole = Exclude<Example, string>

const whole = (example: Example): Whole =>
  typeof example === 'string' ? { zones: { 'hollowmere.example': example } } : example

/** The zone texts of an example, by zone name. */
export function exampleTexts(example: Example): Record<string, string> {
  const { zones, whole: bare } = whole(example)
  return Object.fromEntries(
    Object.entries(zones).map(([zone, text]) => [zone, (bare ? '' : EXAMPLE_HEAD) + text + '\n']),
  )
}

function read(texts: Record<string, string>, traits: Whole['traits'] = {}): Zones {
  const zones = new Zones()
  for (const [key, text] of Object.entries(texts)) {
    const name = key.trim()
    const file = `${key.replace(' ', '-again')}.zone`
    readZone(zones, zones.addSource(zones.addZone(`${name}.`, file, traits[name]), file, octetsOf(text)))
  }
  zones.seal()
  return zones
}

/** An example read and sealed, ready to be checked. */
export const exampleZones = (example: Example): Zones => read(exampleTexts(example), whole(example).traits)

/** What an example says is known beyond its zones. */
export function exampleAround(example: Example): Surroundings {
  const { published, around } = whole(example)
  return { ...around, published: published && read(published) }
}
