/** What is carried through the reading of a source, from one entry to the next. */

import type { Source, Zone, Zones } from '../model/zones.ts'
import { type Name, nameToWire } from '../names/name.ts'
import { OctetSink } from '../names/octets.ts'
import { type NameId, NONE } from '../names/tree.ts'
import { type Problem, TokenCursor } from '../records/tokens.ts'
import { CLASS_IN } from '../records/types.ts'

/** What an `$INCLUDE` leads to: the file as it is to be named in messages, and its octets; or why it cannot be read. */
export type Included = { file: string; octets: Uint8Array } | { failed: string }

export interface ReadOptions {
  /** Reads a file named by `$INCLUDE` in the file `from`. Without it, an include is a problem: what it stands for is missing. */
  include?: (name: string, from: string) => Included
}

/** What a reader carries from one entry to the next. Times in seconds, NONE where there is none. */
export interface ReadingState {
  owner: Name | undefined
  origin: Uint8Array
  defaultTtl: number
  lastTtl: number
  lastClass: number
  minimum: number
}

/** How entries are read: a whole source, or its octets from an offset on. What stands in an entry is read by the same. */
export interface Readers {
  whole(reading: Reading): void
  from(reading: Reading, at: number): void
}

export class Reading {
  readonly scratch = new OctetSink(512)
  readonly cursor: TokenCursor
  originId: NameId
  owner: NameId = NONE
  ownerOutside = false
  /** Of the present entry: its beginning; its TTL, class and type, NONE where they are not stated; the token of the type. */
  entryStart = 0
  ttl = NONE
  klass = NONE
  type = NONE
  typeToken = 0
  /** The present entry is a record, and no directive. */
  inRecord = false
  defaultTtl = NONE
  lastTtl = NONE
  lastClass = CLASS_IN
  minimum = NONE
  toldNoTtl = false
  depth = 0
  /** How many files were included, by this one and those around it. */
  includes = { count: 0 }
  /** For what `$GENERATE` makes: the place of that line, which all its records have. */
  generatedAt = NONE
  readonly zones: Zones
  readonly zone: Zone
  readonly sourceIndex: number
  readonly octets: Uint8Array
  readonly problems: Problem[]
  readonly options: ReadOptions
  readonly readers: Readers

  constructor(
    zones: Zones,
    sourceIndex: number,
    readers: Readers,
    options: ReadOptions,
    octets: Uint8Array = zones.sources[sourceIndex]!.octets,
    problems: Problem[] = zones.sources[sourceIndex]!.problems,
  ) {
    this.zones = zones
    this.zone = zones.zones[zones.sources[sourceIndex]!.zone]!
    this.sourceIndex = sourceIndex
    this.octets = octets
    this.problems = problems
    this.options = options
    this.readers = readers
    this.cursor = new TokenCursor(octets)
    this.cursor.origin = this.zone.wire
    this.originId = this.zone.apex
  }

  get source(): Source {
    return this.zones.sources[this.sourceIndex]!
  }

  /** Remembers what is in force from the next record on. */
  noteContext(): void {
    if (this.generatedAt !== NONE) return
    this.source.contexts.push({
      record: this.zones.count,
      origin: this.cursor.origin,
      defaultTtl: this.defaultTtl,
    })
  }

  private readonly labelStarts = new Int32Array(128)
  /** The name that the labels from `from` up to `to` make below `base`. */
  intern(base: NameId, octets: Uint8Array, from: number, to: number): NameId {
    const { labelStarts } = this
    const { tree } = this.zones
    let labels = 0
    for (let at = from; at < to; at += octets[at]! + 1) labelStarts[labels++] = at
    let id = base
    while (labels > 0) {
      const at = labelStarts[--labels]!
      id = tree.child(id, octets, at + 1, at + 1 + octets[at]!)
    }
    return id
  }

  /** A reading inside this entry begins with what is in force here. */
  takeStateFrom(outer: Reading): void {
    this.owner = outer.owner
    this.ownerOutside = outer.ownerOutside
    this.defaultTtl = outer.defaultTtl
    this.lastTtl = outer.lastTtl
    this.lastClass = outer.lastClass
    this.minimum = outer.minimum
    this.toldNoTtl = outer.toldNoTtl
  }

  /** Goes on in a state that was given back by `state`. */
  enter(state: ReadingState): void {
    const { tree } = this.zones
    this.cursor.origin = state.origin
    this.originId = tree.internWire(state.origin)
    this.owner = state.owner === undefined ? NONE : tree.internWire(nameToWire(state.owner) as Uint8Array)
    this.ownerOutside = this.owner !== NONE && !tree.isAtOrBelow(this.owner, this.zone.apex)
    this.defaultTtl = state.defaultTtl
    this.lastTtl = state.lastTtl
    this.lastClass = state.lastClass
    this.minimum = state.minimum
  }

  state(): ReadingState {
    return {
      owner: this.owner === NONE ? undefined : this.zones.tree.text(this.owner),
      origin: this.cursor.origin,
      defaultTtl: this.defaultTtl,
      lastTtl: this.lastTtl,
      lastClass: this.lastClass,
      minimum: this.minimum,
    }
  }
}
