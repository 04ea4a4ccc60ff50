import type { Rule } from '../rule.ts'
import { keptFollowDrift } from './follow-drift.ts'
import { keptSameNameTwoZones } from './same-name-two-zones.ts'
import { keptTargetMissing } from './target-missing.ts'
import { keptZoneTwice } from './zone-twice.ts'

/** The rules of the family `zones/`. */
export const ZONES: readonly Rule[] = [keptFollowDrift, keptSameNameTwoZones, keptTargetMissing, keptZoneTwice]
