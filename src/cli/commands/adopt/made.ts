/** Zones whose records come without a file: they are put together in a temporary one, record by record, and kept as a tidy one. */
import type { MessageRecord } from '../../../core/message/message.ts'
import type { Zones } from '../../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../../core/names/name.ts'
import { rdataText } from '../../../core/records/rdata.ts'
import { TYPES_OF_SIGNING, typeText } from '../../../core/records/types.ts'
import { readFileOrTrouble } from '../../../workspace/files.ts'
import { Scratch } from '../../../workspace/scratch.ts'
import { loadZones, type ZoneFile } from '../../../workspace/workspace.ts'
import { tidied } from './arrived.ts'

/** Takes records as they come, in pieces of any size; nothing of them is held. */
export class Made {
  /** Records that signing makes, which were left out. */
  signing = 0
  private readonly scratch = new Scratch()
  private readonly zone: Name

  constructor(zone: Name) {
    this.zone = zone
  }

  take(records: readonly MessageRecord[]): void {
    const lines = records.flatMap(({ owner, type, ttl, data }) => {
      if (TYPES_OF_SIGNING.has(type)) {
        this.signing++
        return []
      }
      return [`${owner} ${ttl} IN ${typeText(type)} ${rdataText(type, data)}\n`]
    })
    this.scratch.append('records', lines.join(''))
  }

  /** The zone as a tidy file. Of one name, an SOA record stands once. */
  whole(): { file: ZoneFile; zones: Zones } {
    const path = this.scratch.path('records')
    const zones = loadZones([{ zone: this.zone, file: path, octets: readFileOrTrouble(path) }])
    return tidied(zones, this.zone, `${bare(foldName(this.zone))}.zone`)
  }

  drop(): void {
    this.scratch.drop()
  }
}

/** What a signed zone means for its file. */
export function signedNotes(signing: number): { traits: Record<string, string>; notes: string[] } {
  if (signing === 0) return { traits: {}, notes: [] }
  return {
    traits: { signed: 'server' },
    notes: [
      `The zone is signed. ${signing} records that signing makes (RRSIG, NSEC, DNSKEY and the like) were left out: the server that signs makes them anew.`,
    ],
  }
}
