import { counts, flag, format, list, type Printed, shape, text, whole, word } from './kinds.ts'

const side = shape({ ttl: whole(), records: list(text()) }).nullable()

const one = {
  ...format,
  zone: text(),
  with: text(),
  serial: shape({ intended: whole().nullable(), other: whole().nullable() }),
  sets: list(
    shape({
      owner: text(),
      type: text(),
      change: word(['added', 'removed', 'changed', 'ttl']),
      before: side,
      after: side,
      missing: list(text()),
      extra: list(text()),
      server: text().optional(),
    }),
  ),
  counts: counts(),
  unreached: list(text()),
  whole: flag(),
  notWhole: list(text()),
}
const part = shape(one)
export type DiffPart = Printed<typeof part>

/** `diff`. `before` is what the other has, `after` what is intended; `server` where servers differ from one another. */
export const diff = part
/** `diff` of several zones. */
export const diffSeveral = shape({ ...format, zones: list(part) })
export type DiffSeveral = Printed<typeof diffSeveral>
