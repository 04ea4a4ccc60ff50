import { part } from './change.ts'
import { format, list, type Printed, shape, text, whole } from './kinds.ts'

/** `follow`: what came of each zone, as `write` has it; and of the owners that follow a name, how many were written. */
export const follow = shape({
  ...format,
  zones: list(part),
  unresolved: list(shape({ owner: text(), target: text(), why: text() })),
  counts: shape({ written: whole(), unchanged: whole(), unresolved: whole() }),
})
export type FollowDocument = Printed<typeof follow>
