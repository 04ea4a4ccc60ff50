/** What was probably meant by a word that is not known. */
import { closest, distance } from 'fastest-levenshtein'

/** So many are listed; of more, only the nearest is named. */
const LISTED = 8

/** “did you mean X?” where one is near, and all there are where they are few; for the end of a message. */
export function nearest(word: string, known: readonly string[], what: string): string {
  if (known.length === 0) return ''
  const near = closest(word.toLowerCase(), known as string[])
  const isNear = distance(word.toLowerCase(), near) <= Math.max(2, near.length / 3)
  const all = known.length <= LISTED ? `${what}: ${known.join(', ')}` : ''
  if (!isNear) return all || `there are ${known.length}`
  return `did you mean ${near}?${all && ` ${all[0]!.toUpperCase()}${all.slice(1)}`}`
}

/** The same with a sentence behind it. */
export function nearestThen(word: string, known: readonly string[], what: string, then: string): string {
  const said = nearest(word, known, what)
  return `${said}${said === '' || said.endsWith('?') ? '' : '.'} ${then}`
}
