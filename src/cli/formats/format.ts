/** What formats render, and how: in pieces, so that what is large need not be held whole. */
import type { Zone, Zones } from '../../core/model/zones.ts'
import type { Examined } from '../../core/rules/engine.ts'
import type { Unanswered } from '../../net/lookup.ts'

export interface FindingsView extends Examined {
  /** Names outside that nobody could say anything of. */
  unanswered: readonly Unanswered[]
  /** Of the program. */
  version: string
  /** The folder that files are seen from. */
  root: string
}

export interface SetsView {
  zones: Zones
  chosen: readonly Zone[]
}

/** A format renders some of these. */
export interface Format {
  findings?(view: FindingsView): Iterable<string>
  sets?(view: SetsView): Iterable<string>
}
