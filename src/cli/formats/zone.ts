/** A tidy zone file: sorted, names relative. */
import { zoneInForm } from '../../core/file/forms.ts'
import type { Format } from './format.ts'

export const FORMAT: Format = {
  *sets({ zones, chosen }) {
    for (const zone of chosen) yield* zoneInForm(zones, zone, 'zone')
  },
}
