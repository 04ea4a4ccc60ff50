import type { Rule } from '../rule.ts'
import { textRules } from '../shared/text-rules.ts'
import { REPORT_TEXTS } from './reading.ts'
import { tlsRptSeveral } from './several.ts'
import { tlsRptSyntax } from './syntax.ts'

/** The rules of the family `tls-rpt/`. */
export const TLS_RPT: readonly Rule[] = [...textRules(REPORT_TEXTS, [tlsRptSyntax]), tlsRptSeveral]
