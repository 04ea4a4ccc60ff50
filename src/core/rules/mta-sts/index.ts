import type { Rule } from '../rule.ts'
import { mtaStsExchangeNotListed } from './exchange-not-listed.ts'
import { mtaStsHostMissing } from './host-missing.ts'
import { mtaStsSeveral } from './several.ts'
import { mtaStsSyntax } from './syntax.ts'

/** The rules of the family `mta-sts/`. */
export const MTA_STS: readonly Rule[] = [mtaStsExchangeNotListed, mtaStsHostMissing, mtaStsSeveral, mtaStsSyntax]
