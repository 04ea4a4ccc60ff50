/** Patterns of names, in which `*` stands for anything, dots too. */
import { bare, foldName, type Name } from './name.ts'

/** Whether names fit a pattern; case and a final dot set aside. In time bound by the lengths of both. */
export function namePattern(pattern: string): (name: Name) => boolean {
  const [first = '', ...rest] = bare(foldName(pattern)).split('*')
  const last = rest.pop()
  return (stated) => {
    const name = bare(foldName(stated))
    if (last === undefined) return name === first
    if (!name.startsWith(first)) return false
    // Each part as far in front as it can be: what is behind has the most room then.
    let at = first.length
    for (const part of rest) {
      const found = name.indexOf(part, at)
      if (found < 0) return false
      at = found + part.length
    }
    return name.length - last.length >= at && name.endsWith(last)
  }
}
