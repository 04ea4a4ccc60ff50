import type { Rule } from '../rule.ts'
import { textRules } from '../shared/text-rules.ts'
import { mtaStsExchangeNotListed } from './exchange-not-listed.ts'
import { mtaStsHostMissing } from './host-missing.ts'
import { STS_TEXTS } from './reading.ts'
import { mtaStsSeveral } from './several.ts'
import { mtaStsSyntax } from './syntax.ts'

/** The rules of the family `mta-sts/`. */
export const MTA_STS: readonly Rule[] = [
  ...textRules(STS_TEXTS, [mtaStsHostMissing, mtaStsSyntax]),
  mtaStsExchangeNotListed,
  mtaStsSeveral,
]
