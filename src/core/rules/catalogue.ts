/** All rules, by family. A new rule is a file in families/ and its name here; its own examples are its test. */
import { addressDocumentation, addressMapped, addressNotPublic, hostWwwMissing } from './families/address.ts'
import { cnameChain, cnameFrontForMail, cnameWildcard, dnameBelow, dnameOther } from './families/alias-use.ts'
import { caaFlags, caaTag, caaValue, tlsaNoExchange, tlsaOwnerForm, tlsaUnsigned, tlsaValues } from './families/certificates.ts'
import { cnameAtTop, cnameOtherData, cnameSeveral } from './families/cname-alone.ts'
import { cnameLoop, cnameTargetMissing } from './families/cname-chain.ts'
import { keptSameNameTwoZones, keptZoneTwice, nsChildDiffers, nsDelegationMissing, nsGlueMissing, nsSameNetwork, nsTtlDiffers } from './families/delegation.ts'
import { dnssecAlgorithm, dnssecDsUnmatched, dnssecDsWithoutNs, dnssecNsec3Cost, dnssecSignaturesStale } from './families/dnssec.ts'
import {
  keptAllowanceUnused,
  keptFollowDrift,
  keptTargetMissing,
  mailReportBoxClosed,
  naptrReplacementMissing,
  svcbAliasMode,
  svcbHintsDiffer,
  svcbTargetMissing,
} from './families/leads.ts'
import {
  mxAllEqual,
  mxImplicit,
  mxNullPreference,
  mxNullYetSends,
  mxOnlyBelow,
  mxSameHostTwice,
  mxSingle,
  mxTargetFollowsTop,
  mxV6Only,
  mxWildcard,
} from './families/mx.ts'
import { mxNullWithOthers } from './families/mx-null.ts'
import { nameBadALabel, nameHyphens34, nameNotAHostName, nameNotAnALabel } from './families/name-form.ts'
import { namePlaceholder, nameUnderDelegation } from './families/name-meant.ts'
import { nameDoubledZone, nameFinalDotMissing } from './families/name-written.ts'
import { dmarcSeveral, spfSeveral } from './families/policy-several.ts'
import {
  addressWithPort,
  addressWithPrefix,
  nameEmptyLabel,
  nameLabelTooLong,
  nameOutOfZone,
  nameTooLong,
  setTtlOutOfRange,
  txtStringTooLong,
} from './families/reader-found.ts'
import { mxHostWithoutReverse, ptrForwardMissing, ptrOwnerForm, ptrSeveral } from './families/reverse.ts'
import { setDuplicateRecord, setMixedTtl } from './families/set-alike.ts'
import { setAnswerOverUdp, setClassMismatch, setTtlLong, setTtlZero } from './families/set-size.ts'
import { soaMailboxAtSign, soaNotAtTop, soaPrimaryUnknown, soaSerialInFuture, soaSerialNotAdvanced, soaSeveral, soaTimers } from './families/soa.ts'
import {
  srvMailClientPairs,
  srvNoneWithOthers,
  srvPortUnusual,
  srvPortZero,
  srvServiceName,
  srvServiceUnregistered,
  srvTargetElsewhere,
  srvWeights,
} from './families/srv.ts'
import { srvOwnerForm } from './families/srv-owner-form.ts'
import { cnameTargetIsAddress, cnameTargetIsUrl, mxTargetIsAddress, nsTargetIsAddress, srvTargetIsAddress } from './families/target-form.ts'
import {
  mxTargetIsAlias,
  mxTargetWithoutAddress,
  nsTargetIsAlias,
  nsTargetWithoutAddress,
  ptrTargetIsAlias,
  srvTargetIsAlias,
  srvTargetWithoutAddress,
} from './families/target-host.ts'
import { mxTargetFronted, mxTargetNotPublic, srvTargetFronted, srvTargetNotPublic } from './families/target-public.ts'
import { txtControlCharacter, txtStrayQuotes, txtTypographicQuotes, txtUnquotedSpaces } from './families/txt.ts'
import { wildcardAnswersForPolicy, wildcardDelegation, wildcardNotLeftmost, wildcardShadowed } from './families/wildcard.ts'
import { nsMissing, nsSingle, soaMissing } from './families/zone-top.ts'
import type { Rule } from './rule.ts'

export const CATALOGUE: readonly Rule[] = [
  addressDocumentation,
  addressMapped,
  addressNotPublic,
  addressWithPort,
  addressWithPrefix,
  caaFlags,
  caaTag,
  caaValue,
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
  dmarcSeveral,
  dnameBelow,
  dnameOther,
  dnssecAlgorithm,
  dnssecDsUnmatched,
  dnssecDsWithoutNs,
  dnssecNsec3Cost,
  dnssecSignaturesStale,
  hostWwwMissing,
  keptAllowanceUnused,
  keptFollowDrift,
  keptSameNameTwoZones,
  keptTargetMissing,
  keptZoneTwice,
  mailReportBoxClosed,
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
  nameBadALabel,
  nameDoubledZone,
  nameEmptyLabel,
  nameFinalDotMissing,
  nameHyphens34,
  nameLabelTooLong,
  nameNotAHostName,
  nameNotAnALabel,
  nameOutOfZone,
  namePlaceholder,
  nameTooLong,
  nameUnderDelegation,
  naptrReplacementMissing,
  nsChildDiffers,
  nsDelegationMissing,
  nsGlueMissing,
  nsMissing,
  nsSameNetwork,
  nsSingle,
  nsTargetIsAddress,
  nsTargetIsAlias,
  nsTargetWithoutAddress,
  nsTtlDiffers,
  ptrForwardMissing,
  ptrOwnerForm,
  ptrSeveral,
  ptrTargetIsAlias,
  setAnswerOverUdp,
  setClassMismatch,
  setDuplicateRecord,
  setMixedTtl,
  setTtlLong,
  setTtlOutOfRange,
  setTtlZero,
  soaMailboxAtSign,
  soaMissing,
  soaNotAtTop,
  soaPrimaryUnknown,
  soaSerialInFuture,
  soaSerialNotAdvanced,
  soaSeveral,
  soaTimers,
  spfSeveral,
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
  svcbAliasMode,
  svcbHintsDiffer,
  svcbTargetMissing,
  tlsaNoExchange,
  tlsaOwnerForm,
  tlsaUnsigned,
  tlsaValues,
  txtControlCharacter,
  txtStrayQuotes,
  txtStringTooLong,
  txtTypographicQuotes,
  txtUnquotedSpaces,
  wildcardAnswersForPolicy,
  wildcardDelegation,
  wildcardNotLeftmost,
  wildcardShadowed,
]

/** The rule of a code, or undefined. */
export const ruleOf = (code: string): Rule | undefined => CATALOGUE.find((rule) => rule.code === code)
