import type { Rule } from '../rule.ts'
import { liveTargetUnclaimed } from './target-unclaimed.ts'

/** The rules of the family `live/`. */
export const LIVE: readonly Rule[] = [liveTargetUnclaimed]
