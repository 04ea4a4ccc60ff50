import type { Rule } from '../rule.ts'
import { liveKeyMissing } from './key-missing.ts'
import { liveSpfMissing } from './spf-missing.ts'
import { liveTargetMissing } from './target-missing.ts'
import { liveTargetUnclaimed } from './target-unclaimed.ts'
import { liveTargetWithoutAddress } from './target-without-address.ts'

/** The rules of the family `live/`. */
export const LIVE: readonly Rule[] = [
  liveTargetUnclaimed,
  liveTargetMissing,
  liveTargetWithoutAddress,
  liveKeyMissing,
  liveSpfMissing,
]
