/** What a confirmation is made of: who is asked, by what, for what; and what it came to. */
import type { How } from '../message/encode.ts'
import type { Zone, Zones } from '../model/zones.ts'
import type { Name } from '../names/name.ts'
import type { Memory } from './memory.ts'
import type { Nowhere } from './nowhere.ts'
import type { Observation } from './observation.ts'
import type { Earlier, Question } from './questions.ts'
import type { ConfirmedSet } from './status.ts'
import type { Role } from './verdict.ts'
import type { Remark, ZoneState } from './zone-state.ts'

/** One of those that are asked. Without a role, it is found out by asking. */
export interface Party {
  label: string
  role?: Role
  /** The name of the server, where it is known by one. */
  server?: Name
}
/** One whose part is known; of one that did not say anything of use, what came instead. */
export type PartyInRole = Party & { role: Role; trouble?: Observation }

/** The outside, as it is handed in. Times are seconds since 1970. */
export interface Asking {
  ask(party: string, name: Name, type: number, how: How): Promise<Observation>
  now(): number
  /** Waits; returns earlier when everything shall stop. */
  sleep(seconds: number): Promise<void>
  /** Called after each question for a set. */
  progress?(): void
}

export interface Plan {
  zones: Zones
  zone: Zone
  questions: readonly Question[]
  /** How the zone was before, newest first. */
  earlier: readonly Earlier[]
  /** Since when every state of the zone is among them, or in the memory; undefined where that is not known. */
  knownSince?: number
  parties: readonly Party[]
  /** The zone's servers, where none of them is among the parties: they are asked before any resolver is. */
  reserve?(): Promise<readonly Party[]>
  /** Servers of the parent zone, for its delegation. */
  parents: readonly Party[]
  memory: Memory
  /** The zone is kept at a host that numbers it: serials are compared between its servers only. */
  hosted?: boolean
  /** A label that cannot exist. */
  fresh: string
  /** How often each resolver is asked. */
  samples: number
  /** Ask resolvers for sets that not all authoritative servers have, too. */
  early: boolean
  /** Ask no resolver at all. */
  onlyAuthoritative?: boolean
}

export interface Confirmation {
  at: number
  /** When the servers of the zone were asked last. */
  lookedAt: number
  state: ZoneState
  remarks: Remark[]
  /** The zone's own SOA and NS records: whether its servers answer for it. */
  own: ConfirmedSet[]
  sets: ConfirmedSet[]
  /** Sets that are confirmed and lead nowhere. */
  nowhere: Nowhere[]
  /** Targets outside your zones of which nobody could say anything. */
  unknownTargets: Name[]
  /** Labels of those that were asked, with their roles. */
  parties: PartyInRole[]
}
