import type { Rule } from '../rule.ts'
import { dnameBelow } from './below.ts'
import { dnameBesideNs } from './beside-ns.ts'
import { dnameOther } from './other.ts'

/** The rules of the family `dname/`. */
export const DNAME: readonly Rule[] = [dnameBelow, dnameBesideNs, dnameOther]
