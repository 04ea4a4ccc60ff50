import type { Vantage } from '../../../core/confirm/observation.ts'
import type { Confirmation, Plan } from '../../../core/confirm/plan.ts'
import type { Asked } from '../../../core/confirm/questions.ts'
import type { Unread } from '../../../core/confirm/unread.ts'
import type { Ended } from '../../../core/confirm/watch.ts'

/** What is confirmed of one zone: how it is asked, and what cannot be asked. */
export interface ZonePlan extends Plan {
  left: Asked['left']
  /** Servers of the zone that no address was found for. */
  unfound: string[]
  /** All servers of the zone are among those that are asked. */
  whole: boolean
  /** Entries of its file that could not be read. */
  unread: Unread[]
  /** `publish` knows how it gets to its servers. */
  delivered?: boolean
  /** Of its data; undefined for a bare file, of which nothing is remembered. */
  digest?: string
}

/** Everything that a confirmation came to, for showing it. */
export interface Confirmed {
  plans: ZonePlan[]
  confirmations: Confirmation[]
  vantages: Map<string, Vantage>
  about?: string
  samples: number
  /** Whether it is watched. */
  watching?: boolean
  /** Of a watch: why it ended before all was confirmed. */
  ended?: Ended
}
