import { format, list, type Printed, shape, text, word } from './kinds.ts'

/** `sheet`. The fields of a row are those of the form, in its order; a set in one row has a record a line. */
export const sheet = shape({
  ...format,
  zone: text(),
  style: text(),
  rows: list(
    shape({
      action: word(['enter', 'change', 'delete', 'keep']),
      owner: text(),
      type: text(),
      fields: list(shape({ label: text(), value: text() })),
      before: list(text()).nullable(),
    }),
  ),
})
export type SheetDocument = Printed<typeof sheet>
