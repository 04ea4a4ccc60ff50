import type { Rule } from '../rule.ts'
import { mailReportBoxClosed } from './report-box-closed.ts'

/** The rules of the family `mail/`. */
export const MAIL: readonly Rule[] = [mailReportBoxClosed]
