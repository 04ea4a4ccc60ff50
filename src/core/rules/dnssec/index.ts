import type { Rule } from '../rule.ts'
import { dnssecAlgorithm } from './algorithm.ts'
import { dnssecDsUnmatched } from './ds-unmatched.ts'
import { dnssecDsWithoutNs } from './ds-without-ns.ts'
import { dnssecNsec3Cost } from './nsec3-cost.ts'
import { dnssecSignaturesStale } from './signatures-stale.ts'
import { dnssecUnknownKey } from './unknown-key.ts'

/** The rules of the family `dnssec/`. */
export const DNSSEC: readonly Rule[] = [
  dnssecAlgorithm,
  dnssecDsUnmatched,
  dnssecDsWithoutNs,
  dnssecNsec3Cost,
  dnssecSignaturesStale,
  dnssecUnknownKey,
]
