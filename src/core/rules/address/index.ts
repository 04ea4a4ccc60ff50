import type { Rule } from '../rule.ts'
import { addressDocumentation } from './documentation.ts'
import { addressMapped } from './mapped.ts'
import { addressNotPublic } from './not-public.ts'
import { addressWithPort } from './with-port.ts'
import { addressWithPrefix } from './with-prefix.ts'

/** The rules of the family `address/`. */
export const ADDRESS: readonly Rule[] = [
  addressDocumentation,
  addressMapped,
  addressNotPublic,
  addressWithPort,
  addressWithPrefix,
]
