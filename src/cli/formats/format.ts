/** What formats render, and how: in pieces, so that what is large need not be held whole. */
import type { Zone, Zones } from '../../core/model/zones.ts'
import type { CheckResult } from '../../core/rules/engine.ts'
import type { Finding } from '../../core/rules/rule.ts'

export interface FindingsView extends Pick<CheckResult, 'excepted' | 'counts'> {
  findings: readonly Finding[]
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
