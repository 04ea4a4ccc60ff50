import type { Rule } from '../rule.ts'
import { nameBadALabel } from './bad-a-label.ts'
import { nameDoubledZone } from './doubled-zone.ts'
import { nameEmptyLabel } from './empty-label.ts'
import { nameFinalDotMissing } from './final-dot-missing.ts'
import { nameHyphens34 } from './hyphens-3-4.ts'
import { nameLabelTooLong } from './label-too-long.ts'
import { nameNotAHostName } from './not-a-host-name.ts'
import { nameNotAnALabel } from './not-an-a-label.ts'
import { nameOutOfZone } from './out-of-zone.ts'
import { namePlaceholder } from './placeholder.ts'
import { nameTooLong } from './too-long.ts'
import { nameUnderDelegation } from './under-delegation.ts'

/** The rules of the family `name/`. */
export const NAME: readonly Rule[] = [
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
]
