/** Lists of `tag=value` parted by semicolons, as DKIM keys, DMARC policies and their kin are written (RFC 6376 §3.2, RFC 7489 §6.4). */

/** Something wrong in a value: from `start` up to (not including) `end`, in characters of the joined text, each one octet. */
export interface TextProblem {
  /** In one word: which rule speaks of it. */
  kind: string
  start: number
  end: number
  message: string
  /** What would be right. */
  wanted: string
  /** What to do, where that is something else than to write what would be right. */
  advice?: string
}

export interface Tag {
  /** As it is written. */
  name: string
  /** Without white space at its ends. */
  value: string
  /** Where the tag begins, where its value begins, and where both end. */
  start: number
  valueStart: number
  end: number
}

/** More problems of one text say nothing new. */
export const MOST_PROBLEMS = 20

const TAG = /^[ \t\r\n]*([A-Za-z][A-Za-z0-9_]*)[ \t\r\n]*=([\s\S]*)$/

/**
 * The tags of a list, in order, and what is wrong with its form: a part that is no `tag=value`, a tag that is there twice, a sign that no value may have.
 * An empty part at the end is allowed.
 */
export function parseTags(text: string): { tags: Tag[]; problems: TextProblem[] } {
  const tags: Tag[] = []
  const problems: TextProblem[] = []
  const problem = (start: number, end: number, message: string, wanted: string, advice?: string): void => {
    if (problems.length < MOST_PROBLEMS) problems.push({ kind: 'syntax', start, end, message, wanted, advice })
  }
  const seen = new Set<string>()
  for (let start = 0; start <= text.length; ) {
    const semicolon = text.indexOf(';', start)
    const end = semicolon < 0 ? text.length : semicolon
    const part = text.slice(start, end)
    const match = TAG.exec(part)
    if (match) {
      const [, name = '', rest = ''] = match
      const valueFrom = end - rest.length
      const value = rest.trim()
      const valueStart = valueFrom + (rest.length - rest.trimStart().length)
      const tag = { name, value, start: start + part.indexOf(name), valueStart, end: valueStart + value.length }
      if (seen.has(name))
        problem(tag.start, tag.end, `the tag ${name}= appears twice`, `one ${name}=`, `keep one ${name}=`)
      seen.add(name)
      const odd = /[^\x21-\x7e \t\r\n]/.exec(value)
      if (odd)
        problem(
          valueStart + odd.index,
          valueStart + odd.index + 1,
          `the value of ${name}= contains a non-ASCII character`,
          'plain ASCII',
        )
      tags.push(tag)
    } else if (part.trim() !== '') {
      const from = start + (part.length - part.trimStart().length)
      problem(
        from,
        start + part.trimEnd().length,
        `“${shortened(part.trim())}” is not of the form tag=value`,
        'tag=value, separated by semicolons',
      )
    } else if (semicolon >= 0)
      problem(start, Math.max(end, start + 1), 'there is nothing between two semicolons', 'one semicolon')
    start = end + 1
  }
  return { tags, problems }
}

/** A piece of a value that fits in a message. */
export const shortened = (text: string, most = 60): string => (text.length > most ? `${text.slice(0, most)}…` : text)
