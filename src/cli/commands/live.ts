/** Names outside the kept zones, asked for where the call allows it. */

import type { Vantage } from '../../core/confirm/observation.ts'
import { locate, UNKNOWN } from '../../core/knowledge/answer.ts'
import { findIntendedThenAsked } from '../../core/knowledge/find.ts'
import { type KnownSpf, spfIn } from '../../core/mail/spf/budget.ts'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { foldName, type Name } from '../../core/names/name.ts'
import { NONE, ROOT } from '../../core/names/tree.ts'
import { rdataText } from '../../core/records/rdata.ts'
import { TYPE } from '../../core/records/types.ts'
import { intendedSpf } from '../../core/rules/shared/spf-text.ts'
import { type AskedSource, findAt } from '../../net/lookup.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { findWorkspace, openWorkspace } from '../../workspace/workspace.ts'
import { CLOCK } from '../clock.ts'
import type { SourceOptions } from './source.ts'
import { limitOf, whomToAsk } from './whom.ts'

export interface LiveOptions extends SourceOptions {
  live?: boolean
  at?: string[]
  timeout?: string
}

/** Those that are asked for names outside the kept zones: what `--at` names, else the workspace's vantages; this machine's resolvers where there are none and `--live` is said. */
export async function vantagesFor(options: LiveOptions): Promise<Vantage[]> {
  const folder = options.workspace ?? findWorkspace(process.cwd())
  const workspace = folder === undefined ? undefined : await openWorkspace(folder, { allViews: true })
  if (!options.at && !options.live && !workspace?.vantages.length) return []
  return whomToAsk(options.at, workspace).vantages
}

/** Asks at the vantages, where `--live` (or `--at`) allows it. */
export async function askedSource(options: LiveOptions): Promise<AskedSource | undefined> {
  if (!options.live && !options.at) return undefined
  const vantages = await vantagesFor(options)
  if (vantages.length === 0)
    throw new Trouble(
      'nobody to ask: this machine has no resolver. Name one with --at ADDRESS[:PORT], or under vantages: in bramblefront.yaml',
    )
  return findAt(vantages, CLOCK, limitOf(options))
}

/**
 * What is known of names’ SPF records: of kept zones, and of those that were asked for. `count` is run until it asks for no name that is not known yet; each round asks for
 * what the one before came upon.
 */
export async function knownSpf(
  zones: Zones,
  live: AskedSource | undefined,
  count: (recordAt: (name: Name) => KnownSpf) => void,
): Promise<(name: Name) => KnownSpf> {
  const asked = new Map<string, KnownSpf>()
  const find = findIntendedThenAsked(zones, live?.find)
  const recordAt = (name: Name): KnownSpf => {
    const intended = intendedSpf(zones, name)
    return intended === 'unknown' ? (asked.get(foldName(name)) ?? 'unknown') : intended
  }
  for (let round = 0; live && round < 15; round++) {
    const wanted = new Map<string, Name>()
    count((name) => {
      const known = recordAt(name)
      if (known === 'unknown' && !asked.has(foldName(name))) wanted.set(foldName(name), name)
      return known
    })
    if (wanted.size === 0) break
    await Promise.all([...wanted].map(async ([key, name]) => asked.set(key, spfIn(await find(name, TYPE.TXT)))))
  }
  return recordAt
}

/** What asking for them found of the targets outside your zones, by their names; nothing where nobody is asked. */
export async function addressesOutside(
  zones: Zones,
  chosen: readonly Zone[],
  live: AskedSource | undefined,
): Promise<Map<Name, string>> {
  if (!live) return new Map()
  const targets = new Map<Name, Name>()
  for (const zone of chosen)
    for (const record of zones.recordsIn(zone)) {
      const target = zones.target(record)
      if (target === NONE || target === ROOT || locate(zones, target) !== UNKNOWN) continue
      const name = zones.tree.text(target)
      if (targets.size < MOST_TARGETS) targets.set(foldName(name), name)
    }
  const found = await Promise.all(
    [...targets].map(async ([key, name]): Promise<[Name, string]> => {
      const answers = await Promise.all([TYPE.A, TYPE.AAAA].map((type) => live.find(name, type)))
      const texts = answers.flatMap((answer, i) =>
        answer.set ? answer.set.data.map((data) => rdataText(i === 0 ? TYPE.A : TYPE.AAAA, data)) : [],
      )
      if (texts.length > 0) return [key, texts.join(', ')]
      if (answers.some(({ outcome }) => outcome === 'no-name')) return [key, 'does not exist']
      return [key, answers.every(({ outcome }) => outcome === 'no-data') ? 'has no address' : 'no answer']
    }),
  )
  return new Map(found)
}

/** So many names outside are asked for. */
const MOST_TARGETS = 500
