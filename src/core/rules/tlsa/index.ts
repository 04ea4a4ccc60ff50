import type { Rule } from '../rule.ts'
import { tlsaNoExchange } from './no-exchange.ts'
import { tlsaOwnerForm } from './owner-form.ts'
import { tlsaUnsigned } from './unsigned.ts'
import { tlsaValues } from './values.ts'

/** The rules of the family `tlsa/`. */
export const TLSA: readonly Rule[] = [tlsaNoExchange, tlsaOwnerForm, tlsaUnsigned, tlsaValues]
