import { counts, flag, format, list, type Printed, shape, text, whole, word } from './kinds.ts'

export const init = shape({ ...format, folder: text(), made: list(text()) })
export type InitDocument = Printed<typeof init>

const zone = {
  zone: text(),
  file: text(),
  files: list(text()),
  records: whole(),
  complete: flag(),
  by: word(['file', 'table', 'transfer', 'asking']),
  /** By asking: how many names were asked for, and those that nobody answered for. */
  asked: whole().optional(),
  unknown: list(text()).optional(),
  counts: counts(),
  /** Where all that came is kept of which something was left out. */
  backup: text().nullable(),
  notes: list(text()),
}
export const adopt = shape({ ...format, ...zone })
export type AdoptDocument = Printed<typeof adopt>
/** `adopt` of several files. */
export const adoptSeveral = shape({ ...format, zones: list(shape(zone)) })
export type AdoptSeveralDocument = Printed<typeof adoptSeveral>
