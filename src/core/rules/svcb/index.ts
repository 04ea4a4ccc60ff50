import type { Rule } from '../rule.ts'
import { svcbAliasMode } from './alias-mode.ts'
import { svcbHintsDiffer } from './hints-differ.ts'
import { svcbNoDefaultAlpn } from './no-default-alpn.ts'
import { svcbTargetMissing } from './target-missing.ts'

/** The rules of the family `svcb/`. */
export const SVCB: readonly Rule[] = [svcbAliasMode, svcbHintsDiffer, svcbNoDefaultAlpn, svcbTargetMissing]
