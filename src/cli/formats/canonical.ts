/** One absolute record a line, in canonical order. */
import { zoneInForm } from '../../core/file/forms.ts'
import type { Format } from './format.ts'

export const FORMAT: Format = {
  *sets({ zones, chosen }) {
    for (const zone of chosen) yield* zoneInForm(zones, zone, 'canonical')
  },
}
