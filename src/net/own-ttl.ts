/** The TTL that a record set has where it is kept: a resolver tells only what is left of it. */
import type { Clock } from '../core/clock.ts'
import type { Vantage } from '../core/confirm/observation.ts'
import type { ServerEntry } from '../core/confirm/vantage.ts'
import type { Knowledge } from '../core/knowledge/find.ts'
import type { Seconds, Zones } from '../core/model/zones.ts'
import { foldName, labelsOf, type Name } from '../core/names/name.ts'
import { TYPE } from '../core/records/types.ts'
import { Asker } from './ask.ts'
import { ServerFinder } from './authorities.ts'

/** So many servers of a zone are asked, and none of them for longer than this. */
const SERVERS = 2
const LIMIT_MS = 2000

export class OwnTtls {
  private readonly clock: Clock
  private readonly finder: ServerFinder
  private readonly limitMs: number
  private readonly askers = new Map<string, Asker>()
  private readonly resolvers: Asker[]

  /** `vantages` are asked for the servers of names; `table` says where servers really listen. */
  constructor(
    zones: Zones,
    { vantages, table }: { vantages: readonly Vantage[]; table: readonly ServerEntry[] },
    clock: Clock,
    limitMs: number,
  ) {
    this.clock = clock
    this.limitMs = Math.min(limitMs, LIMIT_MS)
    this.resolvers = vantages.map((vantage) => new Asker(vantage, clock, { limitMs }))
    this.finder = new ServerFinder(zones, table, this.resolvers)
  }

  /** What was found out at a vantage, with the TTLs that its servers have; `own` is false where one of them could not be asked. */
  async of(found: Knowledge): Promise<{ found: Knowledge; own: boolean }> {
    if (found.by === 'nobody' || !('vantage' in found.by)) return { found, own: true }
    let own = true
    const ttlOf = async (name: Name, type: number, shown: Seconds): Promise<Seconds> => {
      const ttl = await this.at(name, type)
      if (ttl === undefined) own = false
      return ttl ?? shown
    }
    const steps = await Promise.all(
      found.steps.map(async (step) =>
        step.zone === undefined && step.by === 'CNAME'
          ? { ...step, ttl: await ttlOf(step.owner, TYPE.CNAME, step.ttl) }
          : step,
      ),
    )
    const set = found.set && { ...found.set, ttl: await ttlOf(found.end, found.set.type, found.set.ttl) }
    return { found: { ...found, steps, ...(set ? { set } : {}) }, own }
  }

  /** The TTL of a set by a server of its zone: seconds; undefined where none says. */
  private async at(name: Name, type: number): Promise<Seconds | undefined> {
    const labels = labelsOf(foldName(name))
    // Where an alias stands, no zone begins.
    for (let i = type === TYPE.CNAME ? 1 : 0; i < labels.length; i++) {
      const servers = await this.finder.serversNamed(`${labels.slice(i).join('.')}.`)
      for (const server of servers.slice(0, SERVERS)) {
        const { message } = await this.askerOf(server).ask(name, type, { recursion: false })
        const here = message?.authoritative
          ? message.answers.filter((each) => each.type === type && foldName(each.owner) === foldName(name))
          : []
        if (here.length > 0) return Math.min(...here.map(({ ttl }) => ttl))
      }
      if (servers.length > 0) return undefined
    }
    return undefined
  }

  private askerOf(vantage: Vantage): Asker {
    let made = this.askers.get(vantage.label)
    if (!made) this.askers.set(vantage.label, (made = new Asker(vantage, this.clock, { limitMs: this.limitMs })))
    return made
  }

  close(): void {
    for (const each of [...this.resolvers, ...this.askers.values()]) each.close()
  }
}
