import type { Rule } from '../rule.ts'
import { textRules } from '../shared/text-rules.ts'
import { dmarcAliasWithoutPolicy } from './alias-without-policy.ts'
import { dmarcCannotPass } from './cannot-pass.ts'
import { dmarcMissing } from './missing.ts'
import { dmarcMonitoringOnly } from './monitoring-only.ts'
import { dmarcNoReports } from './no-reports.ts'
import { dmarcPartial } from './partial.ts'
import { dmarcPolicy } from './policy.ts'
import { POLICIES } from './reading.ts'
import { dmarcReportAddress } from './report-address.ts'
import { dmarcReportConsent } from './report-consent.ts'
import { dmarcSeveral } from './several.ts'
import { dmarcSyntax } from './syntax.ts'
import { dmarcTagValue } from './tag-value.ts'
import { dmarcUndefended } from './undefended.ts'
import { dmarcUnknownTag } from './unknown-tag.ts'
import { dmarcWeakerBelow } from './weaker-below.ts'
import { dmarcWrongPlace } from './wrong-place.ts'

/** The rules of the family `dmarc/`. */
export const DMARC: readonly Rule[] = [
  ...textRules(POLICIES, [
    dmarcCannotPass,
    dmarcMonitoringOnly,
    dmarcNoReports,
    dmarcPartial,
    dmarcPolicy,
    dmarcReportAddress,
    dmarcSyntax,
    dmarcTagValue,
    dmarcUnknownTag,
    dmarcWeakerBelow,
  ]),
  dmarcAliasWithoutPolicy,
  dmarcMissing,
  dmarcReportConsent,
  dmarcSeveral,
  dmarcUndefended,
  dmarcWrongPlace,
]
