import type { Rule } from '../rule.ts'
import { caaFlags } from './flags.ts'
import { caaTag } from './tag.ts'
import { caaValue } from './value.ts'

/** The rules of the family `caa/`. */
export const CAA: readonly Rule[] = [caaFlags, caaTag, caaValue]
