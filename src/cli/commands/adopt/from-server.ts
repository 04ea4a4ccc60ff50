/** A zone that a server hands over by zone transfer. */
import type { Vantage } from '../../../core/confirm/observation.ts'
import { parseVantage, serverPlace } from '../../../core/confirm/vantage.ts'
import type { Key } from '../../../core/message/key.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { fetchZone } from '../../../net/transfer.ts'
import type { Delivery } from '../../../workspace/config.ts'
import { statedZone } from '../../../workspace/files.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { CLOCK } from '../../clock.ts'
import { counter } from '../../output/progress.ts'
import { keyIn } from '../key-file.ts'
import { limitOf } from '../whom.ts'
import type { Arrived } from './arrived.ts'
import { Made, signedNotes } from './made.ts'

export interface FromOptions {
  from?: string
  key?: string
  tls?: string
  timeout?: string
}

/** Fetches a zone; nothing is kept of one that does not come whole. */
export async function fromServer(
  stated: string,
  options: FromOptions,
  deliveries: readonly Delivery[],
): Promise<Arrived> {
  const zone = foldName(statedZone(stated))
  const { vantage, key } = sourceOf(options, deliveries)
  const came = await transferred(zone, vantage, key, options.from!, options.timeout ?? '60')
  if (!('failed' in came)) return came
  throw new Trouble(
    `no zone transfer of ${bare(zone)} from ${options.from}: ${came.failed}; nothing was kept`,
    came.unreached ? 3 : 1,
  )
}

/** A zone as a server hands it over, within so many seconds; or why it does not. */
export async function transferred(
  zone: Name,
  vantage: Vantage,
  key: Key | undefined,
  given: string,
  timeout: string,
): Promise<Arrived | { failed: string; unreached?: boolean }> {
  const made = new Made(zone)
  const progress = await counter('records')
  try {
    const fetched = await fetchZone(vantage, zone, {
      clock: CLOCK,
      limitMs: limitOf({ timeout }),
      key,
      take: (records) => {
        made.take(records)
        progress?.increment(records.length)
      },
    })
    progress?.stop()
    if ('failed' in fetched) return fetched
    const { traits, notes } = signedNotes(made.signing)
    return { given, by: 'transfer', from: serverPlace(vantage), ...made.whole(), traits, complete: true, notes }
  } finally {
    progress?.stop()
    made.drop()
  }
}

/** The server that `--from` names: an address, or a delivery of bramblefront.yaml, whose key and transport go along. */
export function sourceOf(options: FromOptions, deliveries: readonly Delivery[]): { vantage: Vantage; key?: Key } {
  const delivery = deliveries.find(({ label }) => label === options.from)
  if (delivery?.by === 'file')
    throw new Trouble(`--from ${options.from}: this delivery is a folder; adopt the file in it, or name a server`)
  const file = options.key ?? delivery?.key
  return { vantage: delivery?.server ?? serverOf(options), key: file === undefined ? undefined : keyIn(file) }
}

function serverOf({ from, tls }: FromOptions): Vantage {
  const vantage = parseVantage(tls === undefined ? from! : `${from} tls ${bare(tls)}`)
  if (vantage && vantage.transport !== 'https' && !/\s/.test(from!))
    return { ...vantage, transport: tls === undefined ? 'tcp' : 'tls' }
  throw new Trouble(
    `--from ${from}: must be ADDRESS or ADDRESS:PORT, as in 192.0.2.53 or [2001:db8::53]:5300, or a delivery of bramblefront.yaml`,
  )
}
