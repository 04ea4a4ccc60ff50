import { type RecordId, type Source, TTL_STATED, type Zone, Zones } from '../../model/zones.ts'
import { foldName } from '../../names/name.ts'
import { sameOctets } from '../../names/octets.ts'
import { NONE } from '../../names/tree.ts'
import { rdataText } from '../../records/rdata.ts'
import type { Problem } from '../../records/tokens.ts'
import { CLASS_IN, typeText } from '../../records/types.ts'
import { soa as soaView } from '../../records/views.ts'
import type { Refused } from '../../result.ts'
import { shortened } from '../../shortened.ts'
import { LineIndex } from '../places.ts'
import { readStretch, readZone } from '../reader.ts'
import type { Included, ReadingState } from '../reading.ts'
import type { Plan, Planned } from './plan.ts'
import { mover } from './splices.ts'

/** What is not as intended; or why nothing can be said of it. */
type Difference = string | Refused

const UNCLOSED = new Set<Problem['kind']>(['parenthesis', 'bad-quote', 'entry-too-long'])

/** The problems of entries that could not be read; in others, servers read something else, or nothing is wrong. */
const unreadOf = ({ problems }: Source): Problem[] => problems.filter(({ read }) => !read)

/** A record that was read back: as it is to be in the zones. */
export interface Settled {
  record: RecordId
  scratch: Zones
  from: RecordId
  planned?: Planned
  source: number
}

/** Reads what a plan makes of the sources, and compares it with what is intended. */
export class ReadBack {
  /** What was read back of each stretch. */
  readonly settled: Settled[] = []
  private readonly plan: Plan
  private readonly zones: Zones
  private readonly zone: Zone
  private readonly unread: { source: Source; problem: Problem }[]

  constructor(plan: Plan) {
    this.plan = plan
    this.zones = plan.zones
    this.zone = plan.zone
    this.unread = plan.zones.sources
      .filter((source) => source.zone === plan.zone.index)
      .flatMap((source) => unreadOf(source).map((problem) => ({ source, problem })))
  }

  /** Says what of the changed sources is not as intended; where some entry cannot be read, with its line. */
  run(edited: ReadonlyMap<number, Uint8Array>): Difference | undefined {
    const differs = this.wholeTrouble(edited) ?? this.stretchTrouble(edited)
    // One that is not closed may reach any line below it.
    const first = this.unread.find(({ problem }) => UNCLOSED.has(problem.kind)) ?? this.unread[0]
    if (!differs || !first) return differs
    const { file, octets } = first.source
    const { line } = new LineIndex(octets).place(first.problem.start)
    return {
      refused: `${file ? `${file}, ` : ''}line ${line}: ${first.problem.message}; fix that first: with this change the file would not be read as intended (${differs}); nothing was written`,
    }
  }

  /** Reads every touched stretch again, with a record before it and one behind it. */
  private stretchTrouble(edited: ReadonlyMap<number, Uint8Array>): string | undefined {
    for (const [source, octets] of edited) {
      const touched = [...this.plan.touched]
        .filter((record) => (record === NONE ? this.plan.root : this.zones.sourceIndex(record)) === source)
        .sort((a, b) => a - b)
      for (let i = 0; i < touched.length; ) {
        const from = this.before(touched[i]!, source)
        let to = this.behind(touched[i]!, source)
        for (i++; i < touched.length && (to === NONE || this.before(touched[i]!, source) <= to); i++)
          to = this.behind(touched[i]!, source)
        const trouble = this.readStretchBack(source, octets, from, to, edited)
        if (trouble) return trouble
      }
    }
    return undefined
  }

  /**
   * What is in force behind an entry that cannot be read is unknown, so that reading stretches proves nothing there: such a zone is read again as a whole,
   * with all that it includes.
   */
  private wholeTrouble(edited: ReadonlyMap<number, Uint8Array>): string | undefined {
    const { zones, zone, plan } = this
    if (this.unread.length === 0) return undefined
    const root = zones.sources[plan.root]!
    const scratch = new Zones()
    const index = scratch.addSource(
      scratch.addZone(zone.name, root.file, zone),
      root.file,
      edited.get(plan.root) ?? root.octets,
    )
    readZone(scratch, index, { include: this.overlay(edited) })
    const unreadAfter = scratch.sources.flatMap(unreadOf).length
    return (
      this.compare(scratch, plan.first, plan.end - 1, true) ??
      (unreadAfter === this.unread.length ? undefined : 'what cannot be read of it would change')
    )
  }

  /** The record before one in the same source, or NONE. */
  private before(record: RecordId, source: number): RecordId {
    for (let each = record - 1; record !== NONE && each >= this.zones.sources[source]!.firstRecord; each--)
      if (this.zones.sourceIndex(each) === source && !this.plan.isGenerated(each)) return each
    return NONE
  }

  /** The record behind one in the same source that stays, or NONE where the source ends first. */
  private behind(record: RecordId, source: number): RecordId {
    for (let each = record + 1; record !== NONE && each < this.zones.sources[source]!.endRecord; each++)
      if (this.zones.sourceIndex(each) === source && !this.plan.isGenerated(each) && !this.plan.gone.has(each))
        return each
    return NONE
  }

  private readStretchBack(
    source: number,
    octets: Uint8Array,
    from: RecordId,
    to: RecordId,
    edited: ReadonlyMap<number, Uint8Array>,
  ): string | undefined {
    const { zones, zone } = this
    const own = zones.sources[source]!
    const oldStart = from === NONE ? 0 : zones.start(from)
    const oldEnd = to === NONE ? own.octets.length : this.plan.parts(to).end
    const moved = mover(this.plan.splices.filter((splice) => splice.source === source))
    const scratch = new Zones()
    const index = scratch.addSource(scratch.addZone(zone.name, own.file, zone), own.file, octets)
    const end = readStretch(
      scratch,
      index,
      from === NONE ? 0 : moved(oldStart),
      to === NONE ? octets.length : moved(oldEnd),
      this.stateAt(from, source),
      {
        include: this.overlay(edited),
      },
    )
    const first = from === NONE ? own.firstRecord : from
    const last = to === NONE ? own.endRecord - 1 : to
    const differs = this.compare(scratch, first, last, first === own.firstRecord, (got, record, planned) => {
      if (scratch.sourceIndex(got) === index) this.settled.push({ record, scratch, from: got, planned, source })
    })
    if (differs) return differs
    if (this.unread.length === 0 && scratch.sources.some((each) => unreadOf(each).length > 0))
      return 'some of it could not be read'
    return this.stateTrouble(end, to, source)
  }

  /** Compares what was read with what is to be there of the records from one to another, in their order; hands over each that is as intended. */
  private compare(
    scratch: Zones,
    first: RecordId,
    last: RecordId,
    atBeginning: boolean,
    take: (got: RecordId, record: RecordId, planned?: Planned) => void = () => {},
  ): string | undefined {
    const { zones } = this
    let at = 0
    const next = (wanted: Planned, record: RecordId, planned?: Planned): string | undefined => {
      const got = at++
      if (got >= scratch.count) return `${this.describe(wanted)} would be lost`
      const same =
        foldName(scratch.tree.text(scratch.owner(got))) === foldName(zones.tree.text(wanted.owner)) &&
        scratch.type(got) === wanted.type &&
        scratch.ttl(got) === wanted.ttl &&
        scratch.classOf(got) === (planned ? CLASS_IN : zones.classOf(record)) &&
        sameOctets(scratch.rdata(got), wanted.data)
      if (!same)
        return `${this.describe(wanted)} would become ${recordText(scratch.tree.text(scratch.owner(got)), scratch.ttl(got), scratch.type(got), scratch.rdataText(got))}`
      take(got, record, planned)
      return undefined
    }
    for (const planned of (atBeginning && this.plan.added.get(NONE)) || []) {
      const trouble = next(planned, NONE, planned)
      if (trouble) return trouble
    }
    for (let record = first; record <= last; record++) {
      const wanted = {
        owner: zones.owner(record),
        type: zones.type(record),
        ttl: this.plan.retimed.get(record) ?? zones.ttl(record),
        ttlStated: false,
        data: this.plan.renewed.get(record) ?? zones.rdata(record),
      }
      const trouble =
        (this.plan.gone.has(record) ? undefined : next(wanted, record)) ??
        (this.plan.added.get(record) ?? []).map((planned) => next(planned, NONE, planned)).find(Boolean)
      if (trouble) return trouble
    }
    return at < scratch.count
      ? `${scratch.tree.text(scratch.owner(at))} ${typeText(scratch.type(at))} ${scratch.rdataText(at)} would be new`
      : undefined
  }

  /** Whatever is included is read as it was, or as it becomes. */
  private overlay(edited: ReadonlyMap<number, Uint8Array>): (name: string, from: string) => Included {
    return (name, from) => {
      const at = this.included().get(`${from}\n${name}`)
      return at === undefined
        ? { failed: 'it was not read before' }
        : { file: this.zones.sources[at]!.file, octets: edited.get(at) ?? this.zones.sources[at]!.octets }
    }
  }

  private includedAt: Map<string, number> | undefined

  /** The zone's included sources, by the file that includes them and the name that it has for them. */
  private included(): ReadonlyMap<string, number> {
    const { zones, zone } = this
    this.includedAt ??= new Map(
      zones.sources.flatMap(({ includedBy, zone: of }, i): [string, number][] =>
        includedBy && of === zone.index ? [[`${zones.sources[includedBy.source]!.file}\n${includedBy.name}`, i]] : [],
      ),
    )
    return this.includedAt
  }

  /** What is in force where the entry of a record begins; NONE stands for the beginning of the source. */
  private stateAt(record: RecordId, source: number): ReadingState {
    const { zones } = this
    const minimum = this.zone.soa === NONE ? NONE : soaView(zones.rdata(this.zone.soa)).minimum
    if (record === NONE) {
      const { contexts, firstRecord, includedBy } = zones.sources[source]!
      const outer = includedBy ? this.plan.stateBefore(firstRecord) : { owner: NONE, ttl: NONE }
      return {
        owner: outer.owner === NONE ? undefined : zones.tree.text(outer.owner),
        ...contexts[0]!,
        lastTtl: outer.ttl,
        lastClass: 1,
        minimum: includedBy ? minimum : NONE,
      }
    }
    const { origin, defaultTtl } = this.plan.context(record)
    // With no TTL of its own, and no $TTL, the record shows what was stated last; unless that was nothing, and the SOA record's minimum stands in.
    const { ttl } = this.plan.stateBefore(record)
    return {
      owner: zones.tree.text(zones.owner(record)),
      origin,
      defaultTtl,
      lastTtl: Math.max(ttl, NONE),
      lastClass: zones.classOf(record),
      minimum,
    }
  }

  /** What is in force behind a stretch must be what was; otherwise the rest of the file would read differently. */
  private stateTrouble(end: ReadingState, last: RecordId, source: number): string | undefined {
    const { zones } = this
    if (last === NONE) {
      let following = zones.sources[source]!.endRecord
      while (following < this.plan.end && (this.plan.gone.has(following) || this.plan.isGenerated(following)))
        following++
      if (
        zones.sources[source]!.includedBy === undefined ||
        following >= this.plan.end ||
        this.plan.retimed.has(following) ||
        zones.flags(following) & TTL_STATED
      )
        return undefined
      return this.plan.context(following).defaultTtl === NONE &&
        end.lastTtl !== zones.ttl(following) &&
        end.lastTtl !== NONE
        ? 'a TTL after the included file would change'
        : undefined
    }
    const { origin, defaultTtl } = this.plan.context(last)
    const ttl = this.plan.retimed.get(last) ?? zones.ttl(last)
    const ttlKept = defaultTtl !== NONE || end.lastTtl === ttl || (end.lastTtl === NONE && end.minimum === ttl)
    const same =
      end.owner !== undefined &&
      foldName(end.owner) === foldName(zones.tree.text(zones.owner(last))) &&
      sameOctets(end.origin, origin) &&
      end.defaultTtl === defaultTtl &&
      ttlKept &&
      end.lastClass === zones.classOf(last)
    return same ? undefined : 'the owner, origin or TTL in effect after the change would differ'
  }

  private describe({ owner, type, ttl, data }: Planned): string {
    return recordText(this.zones.tree.text(owner), ttl, type, rdataText(type, data))
  }
}

const recordText = (owner: string, ttl: number, type: number, data: string): string =>
  `${owner} ${ttl} ${typeText(type)} ${shortened(data)}`
