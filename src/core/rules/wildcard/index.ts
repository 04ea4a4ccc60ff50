import type { Rule } from '../rule.ts'
import { wildcardAnswersForPolicy } from './answers-for-policy.ts'
import { wildcardDelegation } from './delegation.ts'
import { wildcardNotLeftmost } from './not-leftmost.ts'
import { wildcardShadowed } from './shadowed.ts'

/** The rules of the family `wildcard/`. */
export const WILDCARD: readonly Rule[] = [
  wildcardAnswersForPolicy,
  wildcardDelegation,
  wildcardNotLeftmost,
  wildcardShadowed,
]
