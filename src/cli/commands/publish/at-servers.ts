/** What the servers of deliveries said in one call: their serials, each asked for once, all zones side by side; and which of them are silent. */
import type { Vantage } from '../../../core/confirm/observation.ts'
import { endpoint } from '../../../core/confirm/vantage.ts'
import { foldName, type Name } from '../../../core/names/name.ts'
import { TYPE } from '../../../core/records/types.ts'
import { soa } from '../../../core/records/views.ts'
import { Asker } from '../../../net/ask.ts'
import { CLOCK } from '../../clock.ts'

export class Servers {
  private readonly askers = new Map<string, Asker>()
  private readonly serials = new Map<string, Promise<number | undefined>>()
  private readonly silent = new Map<string, string>()
  private readonly limitMs: number

  constructor(limitMs: number) {
    this.limitMs = limitMs
  }

  /** The serial that a server has of a zone now; undefined where it does not say. */
  serialOf(server: Vantage, zone: Name): Promise<number | undefined> {
    const key = `${endpoint(server)} ${foldName(zone)}`
    let serial = this.serials.get(key)
    if (!serial) this.serials.set(key, (serial = this.ask(server, zone)))
    return serial
  }

  private async ask(server: Vantage, zone: Name): Promise<number | undefined> {
    const place = endpoint(server)
    let asker = this.askers.get(place)
    if (!asker) {
      asker = new Asker({ ...server, label: place }, CLOCK, { limitMs: this.limitMs, rate: 0 })
      this.askers.set(place, asker)
    }
    const { message } = await asker.ask(foldName(zone), TYPE.SOA, { recursion: false })
    const found = message?.authoritative
      ? message.answers.find(({ type, owner }) => type === TYPE.SOA && foldName(owner) === foldName(zone))
      : undefined
    return found && soa(found.data).serial
  }

  /** Why nothing more is to be expected of a server in this call. */
  silenceOf(server: Vantage): string | undefined {
    return this.silent.get(endpoint(server))
  }

  isSilent(server: Vantage, why: string): void {
    this.silent.set(endpoint(server), why)
  }

  close(): void {
    for (const each of this.askers.values()) each.close()
  }
}
