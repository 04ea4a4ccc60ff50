import type { Rule } from '../rule.ts'
import { soaMailboxAtSign } from './mailbox-at-sign.ts'
import { soaMailboxClosed } from './mailbox-closed.ts'
import { soaMissing } from './missing.ts'
import { soaNotAtTop } from './not-at-apex.ts'
import { soaPrimaryUnknown } from './primary-unknown.ts'
import { soaSerialInFuture } from './serial-in-future.ts'
import { soaSerialNotAdvanced } from './serial-not-advanced.ts'
import { soaSeveral } from './several.ts'
import { soaTimers } from './timers.ts'

/** The rules of the family `soa/`. */
export const SOA: readonly Rule[] = [
  soaMailboxAtSign,
  soaMailboxClosed,
  soaMissing,
  soaNotAtTop,
  soaPrimaryUnknown,
  soaSerialInFuture,
  soaSerialNotAdvanced,
  soaSeveral,
  soaTimers,
]
