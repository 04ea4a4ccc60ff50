import type { Rule } from '../rule.ts'
import { digestLength } from './length.ts'

/** The rules of the family `digest/`. */
export const DIGEST: readonly Rule[] = [digestLength]
