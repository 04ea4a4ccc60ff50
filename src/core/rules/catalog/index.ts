import type { Rule } from '../rule.ts'
import { catalogMember } from './member.ts'
import { catalogVersion } from './version.ts'

/** The rules of the family `catalog/`: catalog zones. */
export const CATALOG: readonly Rule[] = [catalogMember, catalogVersion]
