import type { Rule } from '../rule.ts'
import { keptExceptionUnused } from './exception-unused.ts'

/** The rules of the family `config/`. */
export const CONFIG: readonly Rule[] = [keptExceptionUnused]
