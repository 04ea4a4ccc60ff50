import type { Rule } from '../rule.ts'
import { hostWwwMissing } from './www-missing.ts'

/** The rules of the family `host/`. */
export const HOST: readonly Rule[] = [hostWwwMissing]
