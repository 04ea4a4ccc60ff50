import type { Seconds, Zones } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import type { Rdata } from '../../records/rdata.ts'

/** What a set shall be: all its data, none for a set that shall not be there. Without `ttl` it keeps its TTL, or takes the file's default. */
export interface SetChange {
  owner: Name
  type: number
  ttl?: Seconds
  data: Rdata[]
  /** A comment for a line of its own in front of what is new. */
  note?: string
}

export interface Edited {
  /** The zone's own file as it becomes. */
  octets: Uint8Array
  /** Included files that change too: each as messages name it, as it was read, and as it becomes. */
  included: { file: string; before: Uint8Array; octets: Uint8Array }[]
  /** The zone as it reads afterwards, sealed. */
  zones: Zones
  /** The SOA serial before and after, where it was advanced. */
  serial?: { before: number; after: number }
}
