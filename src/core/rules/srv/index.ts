import type { Rule } from '../rule.ts'
import { srvMailClientPairs } from './mail-client-pairs.ts'
import { srvNoneWithOthers } from './none-with-others.ts'
import { srvOwnerForm } from './owner-form.ts'
import { srvPortUnusual } from './port-unusual.ts'
import { srvPortZero } from './port-zero.ts'
import { srvServiceName } from './service-name.ts'
import { srvServiceUnregistered } from './service-unregistered.ts'
import { srvTargetElsewhere } from './target-elsewhere.ts'
import { srvTargetFronted } from './target-fronted.ts'
import { srvTargetIsAddress } from './target-is-address.ts'
import { srvTargetIsAlias } from './target-is-alias.ts'
import { srvTargetNotPublic } from './target-not-public.ts'
import { srvTargetWithoutAddress } from './target-without-address.ts'
import { srvWeights } from './weights.ts'

/** The rules of the family `srv/`. */
export const SRV: readonly Rule[] = [
  srvMailClientPairs,
  srvNoneWithOthers,
  srvOwnerForm,
  srvPortUnusual,
  srvPortZero,
  srvServiceName,
  srvServiceUnregistered,
  srvTargetElsewhere,
  srvTargetFronted,
  srvTargetIsAddress,
  srvTargetIsAlias,
  srvTargetNotPublic,
  srvTargetWithoutAddress,
  srvWeights,
]
