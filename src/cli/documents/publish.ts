import { flag, format, list, type Printed, shape, text, whole, word } from './kinds.ts'

const side = shape({ ttl: whole(), records: list(text()) }).nullable()

const one = {
  ...format,
  zone: text(),
  view: text().optional(),
  delivery: text(),
  by: word(['update', 'file']),
  server: text().optional(),
  folder: text().optional(),
  sent: list(shape({ owner: text(), type: text(), before: side, after: side })),
  foreign: list(shape({ owner: text(), type: text(), was: side, now: side })),
  conflicts: list(shape({ owner: text(), type: text(), expected: side, now: side, intended: side })),
  messages: whole(),
  compared: whole().nullable(),
  whole: flag(),
  unseen: whole(),
  pending: whole(),
  serial: shape({ before: whole().nullable(), after: whole().nullable() }),
  readBack: flag().nullable(),
  after: shape({ status: whole().nullable(), said: text() }).nullable(),
  refused: shape({
    rcode: text().nullable(),
    why: text(),
    owner: text().optional(),
    type: text().optional(),
    expected: side.optional(),
    now: side.optional(),
    skew: whole().optional(),
  }).nullable(),
  written: flag(),
}
const part = shape(one)
export type PublishPart = Printed<typeof part>

/** `publish`. */
export const publish = part
/** `publish` of several zones, or by several deliveries. */
export const publishSeveral = shape({ ...format, deliveries: list(part) })
export type PublishSeveral = Printed<typeof publishSeveral>
