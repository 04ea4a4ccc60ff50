/** Names outside the kept zones, asked for where the call allows it. */
import type { Lookup } from '../../core/mail/lookup.ts'
import type { KnownSpf } from '../../core/mail/spf/budget.ts'
import { isSpf } from '../../core/mail/spf/record.ts'
import { foldName, type Name } from '../../core/names/name.ts'
import { keptSpf } from '../../core/rules/families/spf-record.ts'
import type { Zones } from '../../core/zone/zones.ts'
import { type Lookups, lookupsAt } from '../../net/lookup.ts'
import type { Vantage } from '../../core/verdicts/observation.ts'
import { parseVantage } from '../../net/vantage.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { findWorkspace, openWorkspace } from '../../workspace/workspace.ts'
import type { SourceOptions } from './source.ts'

export interface LiveOptions extends SourceOptions {
  live?: boolean
  at?: string[]
  limit?: string
}

/** The vantages that `--at` names, else those of the workspace; none where there are none. */
export async function vantagesFor(options: LiveOptions): Promise<Vantage[]> {
  if (options.at)
    return options.at.map((text) => {
      const vantage = parseVantage(text)
      if (!vantage) throw new Trouble(`--at ${text} must be an address, or an address and a port, as in 192.0.2.1, 192.0.2.1:5300 or [2001:db8::1]:5300`)
      return vantage
    })
  const folder = options.workspace ?? findWorkspace(process.cwd())
  return folder ? (await openWorkspace(folder)).vantages : []
}

/** Milliseconds for one answer. */
export function limitOf(options: { limit?: string }): number {
  const limit = Number(options.limit ?? 5)
  if (!(limit > 0 && limit <= 600)) throw new Trouble(`--limit ${options.limit} must be a number of seconds from 0 to 600`)
  return limit * 1000
}

/** Asks at the vantages, where `--live` (or `--at`) allows it. */
export async function liveLookups(options: LiveOptions): Promise<Lookups | undefined> {
  if (!options.live && !options.at) return undefined
  const vantages = await vantagesFor(options)
  if (vantages.length === 0) throw new Trouble('nobody to ask: state one with --at ADDRESS[:PORT], or name vantages in bramblefront.yaml')
  return lookupsAt(vantages, limitOf(options))
}

/**
 * What is known of names’ SPF records: of kept zones, and of those that were asked for. `count` is run until it asks for no name that is not known yet; each round asks for
 * what the one before came upon.
 */
export async function knownSpf(
  zones: Zones,
  live: Lookups | undefined,
  count: (recordAt: (name: Name) => KnownSpf) => void,
): Promise<(name: Name) => KnownSpf> {
  const asked = new Map<string, KnownSpf>()
  const recordAt = (name: Name): KnownSpf => {
    const kept = keptSpf(zones, name)
    return kept === 'unknown' ? (asked.get(foldName(name)) ?? 'unknown') : kept
  }
  for (let round = 0; live && round < 15; round++) {
    const wanted = new Map<string, Name>()
    count((name) => {
      const known = recordAt(name)
      if (known === 'unknown' && !asked.has(foldName(name))) wanted.set(foldName(name), name)
      return known
    })
    if (wanted.size === 0) break
    await Promise.all([...wanted].map(async ([key, name]) => asked.set(key, await askFor(live.lookup, name))))
  }
  return recordAt
}

async function askFor(lookup: Lookup, name: Name): Promise<KnownSpf> {
  const found = await lookup(name, 'TXT')
  if ('trouble' in found) return found.trouble === 'no-name' || found.trouble === 'no-data' ? 'none' : 'unknown'
  const texts = [...new Set(found.data.filter(isSpf))]
  return texts.length === 0 ? 'none' : texts.length > 1 ? 'several' : { text: texts[0] }
}
