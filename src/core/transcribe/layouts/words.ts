/** A line whose words are a record: as zone files and look-up tools have it, or in the order in which somebody wrote it. */
import type { Candidate, Cell } from '../candidate.ts'
import type { Line } from '../text.ts'

const MOST_LETTERS = 16_384

/** The words of a line; a text in quotes is one, with its quotes, and so is a text that begins with its version. */
export function wordsOf(text: string): string[] {
  if (text.length > MOST_LETTERS) return []
  const words: string[] = []
  for (const match of text.matchAll(/"(?:\\.|[^"\\])*"|[^\s"]+(?:"(?:\\.|[^"\\])*")?/g)) words.push(match[0])
  return words
}

export const asWords = (line: Line, origin?: string): Candidate => ({
  line: line.number,
  last: line.number,
  cells: wordsOf(line.text).map((text): Cell => ({ text, line: line.number })),
  words: true,
  origin,
})

/** A line with the lines below that its open parenthesis takes in, without comments; and the line behind it. */
export function wholeLine(lines: readonly Line[], start: number): { line: Line; next: number } {
  const first = lines[start]!
  let text = first.text
  let at = start + 1
  if (opens(text) && /\b(?:IN|TXT|SOA|MX|DNSKEY|TLSA)\b/.test(text))
    while (at < lines.length && at < start + 60 && opens(text)) text += ` ${withoutComment(lines[at++]!.text)}`
  if (opens(text)) return { line: first, next: start + 1 }
  const bare = at > start + 1 ? text.replace(/[()](?=(?:[^"]*"[^"]*")*[^"]*$)/g, ' ') : text
  return { line: { ...first, text: withoutComment(bare) }, next: at }
}

/** Whether a parenthesis outside quotes is open at the end. */
function opens(text: string): boolean {
  let depth = 0
  let quoted = false
  for (const sign of text.slice(0, MOST_LETTERS)) {
    if (sign === '"') quoted = !quoted
    else if (!quoted) depth += sign === '(' ? 1 : sign === ')' ? -1 : 0
  }
  return depth > 0
}

/** A zone file's comment: behind a semicolon that stands alone, outside quotes, where the text before has quotes or none is needed. */
function withoutComment(text: string): string {
  let quoted = false
  for (let at = 0; at < text.length; at++) {
    if (text[at] === '"') quoted = !quoted
    if (
      text[at] === ';' &&
      !quoted &&
      (at === 0 || /\s/.test(text[at - 1]!)) &&
      !/v=|p=/.test(text.replace(/"[^"]*"/g, ''))
    )
      return text.slice(0, at)
  }
  return text
}
