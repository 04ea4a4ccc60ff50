import type { Rule } from '../rule.ts'
import { tlsRptSeveral } from './several.ts'
import { tlsRptSyntax } from './syntax.ts'

/** The rules of the family `tls-rpt/`. */
export const TLS_RPT: readonly Rule[] = [tlsRptSeveral, tlsRptSyntax]
