/** A line whose words are a record: as zone files and look-up tools have it, or in the order in which somebody wrote it. */
import type { Candidate, Cell } from '../candidate.ts'
import type { Line } from '../text.ts'

const MOST_LETTERS = 16_384

/** The words of a line; a text in quotes is one, with its quotes, and so is a text that begins with its version. */
export function wordsOf(text: string): string[] {
  if (text.length > MOST_LETTERS) return []
  const words: string[] = []
  for (const match of text.matchAll(/"(?:\\[\s\S]?|[^"\\])*(?:"|$)|[^\s"]+(?:"(?:\\[\s\S]?|[^"\\])*(?:"|$))?/g))
    words.push(match[0])
  return words
}

export const asWords = (line: Line, origin?: string): Candidate => ({
  line: line.number,
  last: line.number,
  cells: wordsOf(line.text).map((text): Cell => ({ text, line: line.number })),
  words: true,
  origin,
})

/** What look-up tools say in words, as a line of a zone file. */
const SAID: [RegExp, string][] = [
  [/^(\S+) mail is handled by (\d+ \S+)$/, 'MX'],
  [/^(\S+) is an alias for (\S+)$/, 'CNAME'],
  [/^(\S+) has address (\S+)$/, 'A'],
  [/^(\S+) has (?:IPv6|AAAA) address (\S+)$/, 'AAAA'],
  [/^(\S+) descriptive text (".*")$/, 'TXT'],
  [/^(\S+) name server (\S+)$/, 'NS'],
  [/^(\S+) has SRV record (.+)$/, 'SRV'],
  [/^(\S+) has CAA record (.+)$/, 'CAA'],
  [/^(\S+)\s+mail exchanger = (\d+ \S+)$/, 'MX'],
  [/^(\S+)\s+MX preference = (\d+, mail exchanger = \S+)$/, 'MX'],
  [/^(\S+)\s+canonical name = (\S+)$/, 'CNAME'],
  [/^(\S+)\s+text = (".*")$/, 'TXT'],
  [/^(\S+)\s+nameserver = (\S+)$/, 'NS'],
  [/^(\S+)\s+internet address = (\S+)$/, 'A'],
  [/^(\S+)\s+has AAAA address (\S+)$/, 'AAAA'],
  [/^(\S+)\s+service = (.+)$/, 'SRV'],
]

/** A line of a look-up tool as words of a zone file; undefined for any other. */
export function answered(text: string): string | undefined {
  const plain = text.trim()
  for (const [words, type] of SAID) {
    const [, owner, data] = words.exec(plain) ?? []
    if (owner !== undefined)
      return `${owner}${owner.endsWith('.') ? '' : '.'} IN ${type} ${data!.replace(', mail exchanger =', '')}`
  }
  return undefined
}

/** “CNAME record: name -> target”, as its type and the two. */
export function arrowed(text: string): string {
  const [, type, name, value, ttl = ''] =
    /^\s*(?:[-*•]\s+)?(?:\p{L}[\p{L}-]{1,30}\s+)?\(?([A-Z]{1,6})\)?(?:[- ]\p{L}{2,20})?\s*:\s*(\S+)\s+(?:->|=>|→|⇒|➔|➜)\s+(\S+|\d{1,5}\s+\S+|".*")(?:\s+\(TTL:?\s*(\d{1,10})[^()]*\))?$/u.exec(
      text.replace(/^(.*?)\s(\S+),\s+\p{L}{3,15}\s+(\d{1,5})$/u, '$1 $3 $2'),
    ) ?? []
  return type === undefined ? text : `${type} ${name} ${value} ${ttl}`.trim()
}

/** A line with the lines below that its open parenthesis takes in, without comments; and the line behind it. */
export function wholeLine(lines: readonly Line[], start: number): { line: Line; next: number } {
  const first = lines[start]!
  let text = withoutComment(first.text)
  let depth = opened(text)
  if (depth <= 0 || !/\b(?:IN|TXT|SOA|MX|DNSKEY|TLSA)\b/.test(text))
    return { line: { ...first, text }, next: start + 1 }
  for (let at = start + 1; at < lines.length && at <= start + MOST_LINES; at++) {
    const more = withoutComment(lines[at]!.text)
    text += ` ${more}`
    depth += opened(more)
    if (depth > 0) continue
    const bare = text.replace(/"(?:\\[\s\S]?|[^"\\])*(?:"|$)|[()]/g, (part) => (part.length === 1 ? ' ' : part))
    return { line: { ...first, text: bare }, next: at + 1 }
  }
  return { line: first, next: start + 1 }
}

/** No record goes on over more lines than this. */
const MOST_LINES = 30

/** How many parentheses outside quotes stay open. */
function opened(text: string): number {
  let depth = 0
  let quoted = false
  for (const sign of text.slice(0, MOST_LETTERS)) {
    if (sign === '"') quoted = !quoted
    else if (!quoted) depth += sign === '(' ? 1 : sign === ')' ? -1 : 0
  }
  return depth
}

/** Without a zone file’s comment: behind a semicolon that stands alone outside quotes. An unquoted text has such semicolons of its own. */
function withoutComment(text: string): string {
  if (!text.includes(';') || /v=|p=/.test(text.replace(/"[^"]*"/g, ''))) return text
  let quoted = false
  for (let at = 0; at < text.length; at++) {
    if (text[at] === '"') quoted = !quoted
    if (text[at] === ';' && !quoted && (at === 0 || /\s/.test(text[at - 1]!))) return text.slice(0, at)
  }
  return text
}
