import type { Rule } from '../rule.ts'
import { mxAllEqual } from './all-equal.ts'
import { mxHostWithoutReverse } from './host-without-reverse.ts'
import { mxImplicit } from './implicit.ts'
import { mxNullPreference } from './null-preference.ts'
import { mxNullWithOthers } from './null-with-others.ts'
import { mxNullYetSends } from './null-yet-sends.ts'
import { mxOnlyBelow } from './only-below.ts'
import { mxSameHostTwice } from './same-host-twice.ts'
import { mxSingle } from './single.ts'
import { mxTargetFollowsTop } from './target-follows-apex.ts'
import { mxTargetFronted } from './target-fronted.ts'
import { mxTargetIsAddress } from './target-is-address.ts'
import { mxTargetIsAlias } from './target-is-alias.ts'
import { mxTargetNotPublic } from './target-not-public.ts'
import { mxTargetWithoutAddress } from './target-without-address.ts'
import { mxV6Only } from './v6-only.ts'
import { mxWildcard } from './wildcard.ts'

/** The rules of the family `mx/`. */
export const MX: readonly Rule[] = [
  mxAllEqual,
  mxHostWithoutReverse,
  mxImplicit,
  mxNullPreference,
  mxNullWithOthers,
  mxNullYetSends,
  mxOnlyBelow,
  mxSameHostTwice,
  mxSingle,
  mxTargetFollowsTop,
  mxTargetFronted,
  mxTargetIsAddress,
  mxTargetIsAlias,
  mxTargetNotPublic,
  mxTargetWithoutAddress,
  mxV6Only,
  mxWildcard,
]
