import { format, list, type Printed, shape, text, whole } from './kinds.ts'

export const demo = shape({
  ...format,
  steps: list(shape({ command: list(text()), status: whole(), stdout: text() })),
})
export type DemoDocument = Printed<typeof demo>
