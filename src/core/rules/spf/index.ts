import type { Rule } from '../rule.ts'
import { SPF_TEXTS } from '../shared/spf-text.ts'
import { textRules } from '../shared/text-rules.ts'
import { spfAfterAll } from './after-all.ts'
import { spfAllowsEveryone } from './allows-everyone.ts'
import { spfCopiedRanges } from './copied-ranges-differ.ts'
import { spfCoveredTerm } from './covered-term.ts'
import { spfDuplicateTerm } from './duplicate-term.ts'
import { spfExchangeNotAllowed } from './exchange-not-allowed.ts'
import { spfExplanationMissing } from './explanation-missing.ts'
import { spfHostBits } from './host-bits.ts'
import { spfHostWithoutRecord } from './host-without-record.ts'
import { spfIncludeWithoutRecord } from './include-without-record.ts'
import { spfLong } from './long.ts'
import { spfLookupsNearLimit } from './lookups-near-limit.ts'
import { spfLoop } from './loop.ts'
import { spfLostSpace } from './lost-space.ts'
import { spfMechanismAsModifier } from './mechanism-as-modifier.ts'
import { spfMissing } from './missing.ts'
import { spfModifierTwice } from './modifier-twice.ts'
import { spfNeutralEnd } from './neutral-end.ts'
import { spfNotInherited } from './not-inherited.ts'
import { spfObsoleteType } from './obsolete-type.ts'
import { spfPrivateAddress } from './private-address.ts'
import { spfPtr } from './ptr.ts'
import { spfRedirectIgnored } from './redirect-ignored.ts'
import { spfSeveral } from './several.ts'
import { spfSyntax } from './syntax.ts'
import { spfTooManyLookups } from './too-many-lookups.ts'
import { spfTooManyMx } from './too-many-mx.ts'
import { spfTooManyVoid } from './too-many-void.ts'
import { spfVersion } from './version.ts'
import { spfWildcardExchange } from './wildcard-exchange.ts'

/** The rules of the family `spf/`. */
export const SPF: readonly Rule[] = [
  ...textRules(SPF_TEXTS, [
    spfAfterAll,
    spfAllowsEveryone,
    spfCopiedRanges,
    spfCoveredTerm,
    spfDuplicateTerm,
    spfExplanationMissing,
    spfHostBits,
    spfIncludeWithoutRecord,
    spfLong,
    spfLookupsNearLimit,
    spfLoop,
    spfLostSpace,
    spfMechanismAsModifier,
    spfModifierTwice,
    spfNeutralEnd,
    spfPrivateAddress,
    spfPtr,
    spfRedirectIgnored,
    spfSyntax,
    spfTooManyLookups,
    spfTooManyMx,
    spfTooManyVoid,
    spfVersion,
  ]),
  spfExchangeNotAllowed,
  spfHostWithoutRecord,
  spfMissing,
  spfNotInherited,
  spfObsoleteType,
  spfSeveral,
  spfWildcardExchange,
]
