import type { Row } from './record.ts'

/** Names that are alike but for a digit that may be a letter: one of them is probably mistyped. */
export function lookalikes(rows: readonly Row[]): { line: number; text: string }[] {
  const byShape = new Map<string, Set<string>>()
  const notes: { line: number; text: string }[] = []
  for (const { line, value } of rows)
    for (const whole of value.toLowerCase().match(/(?<![a-z0-9-])[a-z0-9-]+(?:\.[a-z0-9-]+)+/g) ?? []) {
      const name = whole.split('.').slice(-2).join('.')
      const shape = name.replace(/0/g, 'o').replace(/[1i]/g, 'l')
      const names = byShape.get(shape) ?? new Set()
      const other = [...names].find((each) => each !== name)
      if (other !== undefined && /[a-z]/.test(name))
        notes.push({ line, text: `${name} and ${other} differ in a digit that may be a letter` })
      byShape.set(shape, names.add(name))
    }
  return notes
}
