/** What the server of a delivery has of a zone. */
import { setKey, setsOf } from '../../../core/change/difference.ts'
import type { Vantage } from '../../../core/confirm/observation.ts'
import { endpoint } from '../../../core/confirm/vantage.ts'
import type { Key } from '../../../core/message/key.ts'
import type { RecordSet } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import type { Present } from '../../../core/publish/base.ts'
import { TYPE } from '../../../core/records/types.ts'
import { soa } from '../../../core/records/views.ts'
import { serverStates, soaAt, transferOf } from '../servers.ts'
import { limitOf } from '../whom.ts'
import type { Job, Outcome } from './job.ts'

export interface There extends Present {
  serial?: number
  /** Whether it is all of the zone, and not just what was asked for. */
  whole: boolean
}

export const presentIn = (
  { sets, soa }: There,
  { owner, type }: { owner: Name; type: number },
): RecordSet | undefined => (type === TYPE.SOA ? soa : sets.get(setKey({ owner, type })))

/** Why it is not known: nobody answered, or the server said this. */
export interface Unread {
  unread: string
  rcode?: string
}

/** The same as a part of an outcome. */
export const because = ({ unread, rcode }: Unread): Pick<Outcome, 'unreached' | 'refused'> =>
  rcode === undefined ? { unreached: unread } : { refused: { rcode, why: unread } }

/** All of the zone where the server hands it over, else what is intended, was, or may be there. A server that is silent is not asked twice. */
export async function read(
  { source, past, options, stored }: Job,
  server: Vantage,
  key: Key | undefined,
): Promise<There | Unread> {
  const zone = foldName(past.zone.name)
  const transfer = await transferOf(server, zone, limitOf(options), key)
  if (!('failed' in transfer)) return { sets: transfer.sets, serial: transfer.serial, soa: transfer.soa, whole: true }
  if (transfer.silent) return { unread: transfer.failed }
  const asked = { ...server, label: endpoint(server) }
  const chosen = {
    ...source,
    chosen: [past.zone],
    name: undefined,
    workspace: { ...source.workspace!, vantages: [asked] },
  }
  const how = { ...options, at: [asked.label], noTransfer: true, earlier: stored ? [stored.earlier] : [] }
  const [found] = await serverStates(past.zone.name, chosen, how)
  const [state] = found!.servers
  if (!state) {
    if (transfer.unreached) return { unread: transfer.failed }
    const unread = `${asked.label} does not appear to serve ${bare(past.zone.name)}: the zone transfer failed (${transfer.failed}), and no query got a usable answer`
    return { unread, rcode: transfer.rcode }
  }
  const sets = new Map(setsOf(past.zones, past.zone))
  for (const { owner, type, before } of state.sets)
    if (before) sets.set(setKey({ owner, type }), { ...before, owner })
    else sets.delete(setKey({ owner, type }))
  const unseen = new Set(state.unseen)
  for (const each of stored?.base.sets.keys() ?? []) if (!state.seen.has(each)) unseen.add(each)
  for (const each of unseen) sets.delete(each)
  const own = await soaAt(server, zone, limitOf(options))
  return { sets, serial: own && soa(own.data[0]!).serial, soa: own, whole: false, unseen }
}
