/** Putting findings right that have exactly one right answer: from their repairs to the files' new octets. */
import type { SetChange } from '../file/edit/changes.ts'
import { applySplices } from '../file/edit/splices.ts'
import { readZone } from '../file/reader.ts'
import type { ReadOptions } from '../file/reading.ts'
import { serialOf } from '../file/serial.ts'
import { type Source, type Zone, Zones } from '../model/zones.ts'
import type { Finding, Repair } from '../rules/rule.ts'
import type { ZonePreview } from './change-set.ts'
import { differingSets } from './difference.ts'
import { zoneDigest } from './digest.ts'
import { editKept } from './edit.ts'

/** A zone as it becomes, and the findings that are put right in it. */
export interface Repaired extends ZonePreview {
  findings: Finding[]
}

export interface NotRepaired {
  finding: Finding
  why: string
}

type Rewriting = Extract<Repair, { text: string }>

/**
 * What the files become. Zones are as they were read; nothing in them is changed. `include` reads included files (as they are now).
 * Files that several zones include are left alone, as are repairs that touch the same octets as another, and findings that were made of other zones than these.
 */
export function repaired(
  zones: Zones,
  findings: readonly Finding[],
  now: Date,
  include?: ReadOptions['include'],
): { done: Repaired[]; left: NotRepaired[] } {
  const done: Repaired[] = []
  const left: NotRepaired[] = []
  const byZone = new Map<Zone, Finding[]>()
  for (const finding of findings) {
    const { repair } = finding
    if (!repair) continue
    const zone =
      'zone' in repair
        ? repair.zone
        : zones.sources.includes(repair.at.source)
          ? zones.zones[repair.at.source.zone]
          : undefined
    if (!zone || !zones.zones.includes(zone)) {
      left.push({ finding, why: 'it is in another view: use --view, or check that file alone' })
      continue
    }
    const group = byZone.get(zone)
    if (group) group.push(finding)
    else byZone.set(zone, [finding])
  }
  for (const [zone, group] of byZone) {
    const one = repairedZone(zones, zone, group, now, include)
    left.push(...one.left)
    if (one.done) done.push(one.done)
  }
  return { done, left }
}

function repairedZone(
  zones: Zones,
  zone: Zone,
  findings: Finding[],
  now: Date,
  include: ReadOptions['include'],
): { done?: Repaired; left: NotRepaired[] } {
  const sources = zones.sources.filter((source) => source.zone === zone.index)
  const { rewritings, changes, taken, left } = sorted(zones, findings)
  if (taken.length === 0) return { left }
  const renewed = new Map(
    sources.map((source) => {
      const here = rewritings.get(source)
      return [
        source.file,
        here
          ? applySplices(
              source.octets,
              here.map(({ at, text }) => ({ from: at.start, to: at.end, text })),
            )
          : source.octets,
      ]
    }),
  )
  const root = sources[0]!
  const fresh = new Zones(Math.ceil(root.octets.length / 32))
  const again = fresh.addZone(zone.name, zone.file, zone)
  const reading: ReadOptions['include'] = (name, from) => {
    const found = include ? include(name, from) : { failed: 'an included file is not read here' }
    const octets = 'failed' in found ? undefined : renewed.get(found.file)
    return 'failed' in found || !octets ? found : { ...found, octets }
  }
  readZone(fresh, fresh.addSource(again, root.file, renewed.get(root.file)!), { include: reading })
  fresh.seal()
  const edited = editKept(fresh, again, changes, {
    now: zone.hosted || taken.some(({ rule }) => rule === 'soa/serial-not-advanced') ? undefined : now,
    always: true,
  })
  if ('refused' in edited) return { left: [...left, ...taken.map((finding) => ({ finding, why: edited.refused }))] }
  const included = sources
    .slice(1)
    .map(({ file, octets }) => ({
      file,
      before: octets,
      octets: edited.included.find((each) => each.file === file)?.octets ?? renewed.get(file)!,
    }))
    .filter((each) => each.before !== each.octets)
  const files = [...included, { file: root.file, before: root.octets, octets: edited.octets }]
  const [serial, next] = [serialOf(zones, zone), serialOf(fresh, again)]
  return {
    done: {
      zone,
      sets: differingSets(zones, zone, fresh, again),
      files,
      serial: serial === undefined || next === undefined ? undefined : { before: serial, after: next },
      was: zoneDigest(zones, zone),
      digest: zoneDigest(fresh, again),
      notes: [],
      findings: taken,
    },
    left,
  }
}

/** Repairs by what they change: octets of a source, or sets; and those that cannot be made beside the others. */
function sorted(
  zones: Zones,
  findings: readonly Finding[],
): { rewritings: Map<Source, Rewriting[]>; changes: SetChange[]; taken: Finding[]; left: NotRepaired[] } {
  const left: NotRepaired[] = []
  const rewritings = new Map<Source, Rewriting[]>()
  const changes: SetChange[] = []
  const taken: Finding[] = []
  for (const finding of findings) {
    const repair = finding.repair!
    if ('zone' in repair) {
      const before = changes.find((each) => each.owner === repair.change.owner && each.type === repair.change.type)
      // Two hosts with one address: each adds its name.
      if (before) before.data = [...before.data, ...repair.change.data]
      else changes.push({ ...repair.change })
      taken.push(finding)
      continue
    }
    const { source, start, end } = repair.at
    const here = rewritings.get(source) ?? []
    const why = zones.sources.some((each) => each !== source && each.file === source.file)
      ? `${source.file} is included more than once`
      : here.some(({ at }) => at.start === start || (at.start < end && start < at.end))
        ? 'another fix changes the same place: call again afterwards'
        : undefined
    if (why) left.push({ finding, why })
    else {
      const { text, also = [] } = repair
      here.push(repair)
      for (const stretch of also) here.push({ at: { source, ...stretch }, text })
      rewritings.set(source, here)
      taken.push(finding)
    }
  }
  return { rewritings, changes, taken, left }
}
