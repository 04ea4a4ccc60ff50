import { format, list, type Printed, shape, text, whole } from './kinds.ts'

const set = shape({
  zone: text().optional(),
  owner: text(),
  type: text(),
  ttl: whole(),
  records: list(text()),
  line: whole(),
})
export type ShownSet = Printed<typeof set>

export const show = shape({ ...format, zone: text().nullable(), serial: whole().nullable(), sets: list(set) })
