import type { Rule } from '../rule.ts'
import { nsChildDiffers } from './child-differs.ts'
import { nsDelegationMissing } from './delegation-missing.ts'
import { nsGlueMissing } from './glue-missing.ts'
import { nsMissing } from './missing.ts'
import { nsSameNetwork } from './same-network.ts'
import { nsSingle } from './single.ts'
import { nsTargetIsAddress } from './target-is-address.ts'
import { nsTargetIsAlias } from './target-is-alias.ts'
import { nsTargetIsRoot } from './target-is-root.ts'
import { nsTargetWithoutAddress } from './target-without-address.ts'
import { nsTtlDiffers } from './ttl-differs.ts'

/** The rules of the family `ns/`. */
export const NS: readonly Rule[] = [
  nsChildDiffers,
  nsDelegationMissing,
  nsGlueMissing,
  nsMissing,
  nsSameNetwork,
  nsSingle,
  nsTargetIsAddress,
  nsTargetIsAlias,
  nsTargetIsRoot,
  nsTargetWithoutAddress,
  nsTtlDiffers,
]
