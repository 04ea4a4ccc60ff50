import type { Rule } from '../rule.ts'
import { ptrForwardMissing } from './forward-missing.ts'
import { ptrOwnerForm } from './owner-form.ts'
import { ptrSeveral } from './several.ts'
import { ptrTargetIsAddress } from './target-is-address.ts'
import { ptrTargetIsAlias } from './target-is-alias.ts'
import { ptrTargetIsRoot } from './target-is-root.ts'

/** The rules of the family `ptr/`. */
export const PTR: readonly Rule[] = [
  ptrForwardMissing,
  ptrOwnerForm,
  ptrSeveral,
  ptrTargetIsAddress,
  ptrTargetIsAlias,
  ptrTargetIsRoot,
]
