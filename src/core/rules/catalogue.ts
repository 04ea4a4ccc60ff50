/** All rules, by family. A new rule is a file in families/ and its name here; its own examples are its test. */
import { cnameAtTop, cnameOtherData, cnameSeveral } from './families/cname-alone.ts'
import { cnameLoop, cnameTargetMissing } from './families/cname-chain.ts'
import { mxNullWithOthers } from './families/mx-null.ts'
import { nameDoubledZone, nameFinalDotMissing } from './families/name-written.ts'
import { dmarcSeveral, spfSeveral } from './families/policy-several.ts'
import { addressWithPort, addressWithPrefix, nameLabelTooLong, nameOutOfZone, txtStringTooLong } from './families/reader-found.ts'
import { setDuplicateRecord, setMixedTtl } from './families/set-alike.ts'
import { srvOwnerForm } from './families/srv-owner-form.ts'
import { cnameTargetIsAddress, cnameTargetIsUrl, mxTargetIsAddress, srvTargetIsAddress } from './families/target-form.ts'
import { mxTargetIsAlias, mxTargetWithoutAddress, srvTargetIsAlias, srvTargetWithoutAddress } from './families/target-host.ts'
import { nsMissing, nsSingle, soaMissing } from './families/zone-top.ts'
import type { Rule } from './rule.ts'

export const CATALOGUE: readonly Rule[] = [
  addressWithPort,
  addressWithPrefix,
  cnameAtTop,
  cnameLoop,
  cnameOtherData,
  cnameSeveral,
  cnameTargetIsAddress,
  cnameTargetIsUrl,
  cnameTargetMissing,
  dmarcSeveral,
  mxNullWithOthers,
  mxTargetIsAddress,
  mxTargetIsAlias,
  mxTargetWithoutAddress,
  nameDoubledZone,
  nameFinalDotMissing,
  nameLabelTooLong,
  nameOutOfZone,
  nsMissing,
  nsSingle,
  setDuplicateRecord,
  setMixedTtl,
  soaMissing,
  spfSeveral,
  srvOwnerForm,
  srvTargetIsAddress,
  srvTargetIsAlias,
  srvTargetWithoutAddress,
  txtStringTooLong,
]

/** The rule of a code, or undefined. */
export const ruleOf = (code: string): Rule | undefined => CATALOGUE.find((rule) => rule.code === code)
