import { format, type Printed, shape, text, whole } from './kinds.ts'

/** What a call with --json prints that was stopped by a problem before it had anything else to say. */
export const problem = shape({ ...format, problem: text(), status: whole() })
export type ProblemDocument = Printed<typeof problem>
