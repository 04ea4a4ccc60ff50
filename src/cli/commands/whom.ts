/** Whom a call asks: what `--at` names, else what the workspace does, else the zone's own servers and this machine's resolvers. */
import type { Vantage } from '../../core/confirm/observation.ts'
import { parseVantage } from '../../core/confirm/vantage.ts'
import { systemVantages } from '../../net/system.ts'
import type { BuiltIn } from '../../workspace/config-schema.ts'
import { Trouble } from '../../workspace/trouble.ts'
import type { Workspace } from '../../workspace/workspace.ts'

export interface Whom {
  /** The servers of each zone. */
  authoritative: boolean
  vantages: Vantage[]
}

/** Reads `--at` words against the workspace's labels. */
export function whomToAsk(at: readonly string[] | undefined, workspace: Pick<Workspace, 'vantages'> | undefined): Whom {
  const stated = at?.map((text) => named(text, workspace?.vantages ?? [])) ?? workspace?.vantages ?? []
  const whom = stated.length > 0 ? stated : (['authoritative', 'system'] as const)
  const vantages = whom.flatMap((each) =>
    each === 'authoritative' ? [] : each === 'system' ? systemVantages() : [each],
  )
  return {
    authoritative: whom.includes('authoritative'),
    vantages: vantages.filter(({ label }, i) => vantages.findIndex((each) => each.label === label) === i),
  }
}

function named(text: string, known: readonly (BuiltIn | Vantage)[]): BuiltIn | Vantage {
  if (text === 'authoritative' || text === 'system') return text
  const found = known.find((each) => typeof each !== 'string' && each.label === text) ?? parseVantage(text)
  if (found) return found
  const labels = known.flatMap((each) => (typeof each === 'string' ? [] : [each.label]))
  throw new Trouble(
    `--at ${text}: must be authoritative, system, ${labels.length > 0 ? `a label of bramblefront.yaml (${labels.join(', ')}), ` : ''}an address (192.0.2.1, 192.0.2.1:5300, [2001:db8::1]:5300), ` +
      'an address with a transport (“198.51.100.7 tls dns.example.net”), or an https:// URL',
  )
}

/** Questions a second: a number, or `none` for no limit; undefined where the call says nothing. */
export function rateOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined
  const rate = text === 'none' ? 0 : Number(text)
  if (text === 'none' || (rate > 0 && rate <= 1_000_000)) return rate
  throw new Trouble(`--rate ${text} must be a number of queries per second, or none`)
}

/** Milliseconds for one answer. */
export function limitOf(options: { timeout?: string }): number {
  const limit = Number(options.timeout ?? 5)
  if (!(limit > 0 && limit <= 600))
    throw new Trouble(`--timeout ${options.timeout} must be a number of seconds above 0 and up to 600`)
  return limit * 1000
}
