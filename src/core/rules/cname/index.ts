import type { Rule } from '../rule.ts'
import { cnameAtTop } from './at-apex.ts'
import { cnameChain } from './chain.ts'
import { cnameFrontForMail } from './front-for-mail.ts'
import { cnameLoop } from './loop.ts'
import { cnameOtherData } from './other-data.ts'
import { cnameSeveral } from './several.ts'
import { cnameTargetIsAddress } from './target-is-address.ts'
import { cnameTargetIsUrl } from './target-is-url.ts'
import { cnameTargetMissing } from './target-missing.ts'
import { cnameWildcard } from './wildcard.ts'

/** The rules of the family `cname/`. */
export const CNAME: readonly Rule[] = [
  cnameAtTop,
  cnameChain,
  cnameFrontForMail,
  cnameLoop,
  cnameOtherData,
  cnameSeveral,
  cnameTargetIsAddress,
  cnameTargetIsUrl,
  cnameTargetMissing,
  cnameWildcard,
]
