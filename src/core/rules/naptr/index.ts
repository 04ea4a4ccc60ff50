import type { Rule } from '../rule.ts'
import { naptrReplacementMissing } from './replacement-missing.ts'

/** The rules of the family `naptr/`. */
export const NAPTR: readonly Rule[] = [naptrReplacementMissing]
