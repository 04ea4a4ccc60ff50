/** A pasted text as lines: decoded, freed of what mail and word processors put around words. */
import { decodeHTML } from 'entities'
import type { Result } from '../result.ts'

/** A line of the input, from one, and what was cleaned from it. */
export interface Line {
  number: number
  text: string
  cleaned: readonly string[]
}

/** More is no list of records. */
export const MOST_OCTETS = 4 * 1024 * 1024

/** The text of a file: UTF-8, UTF-16 with its mark, else Windows-1252. Refused where it is none. */
export function decodeText(octets: Uint8Array): Result<{ text: string }> {
  if (octets.length > MOST_OCTETS)
    return { refused: `has ${octets.length} octets; a list of records of at most ${MOST_OCTETS} octets is expected` }
  const is = (...mark: number[]): boolean => mark.every((octet, i) => octets[i] === octet)
  if (is(0xff, 0xfe)) return { text: new TextDecoder('utf-16le').decode(octets) }
  if (is(0xfe, 0xff)) return { text: new TextDecoder('utf-16be').decode(octets) }
  const binary = is(0x25, 0x50, 0x44, 0x46) ? 'a PDF file' : is(0x50, 0x4b, 3, 4) ? 'a packed document' : undefined
  if (binary || octets.includes(0))
    return { refused: `is not text (${binary ?? 'it contains NUL octets'}). Copy the list out of it and paste that` }
  try {
    return { text: new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(octets) }
  } catch {
    return { text: new TextDecoder('windows-1252').decode(octets) }
  }
}

const QUOTED = /^(?:\s{0,3}>){1,20} ?/
const INVISIBLE = /[\u00ad\u180e\u200b-\u200f\u2060-\u2064\ufeff]/g
const SPACES = /[\u00a0\u1680\u2000-\u200a\u202f\u205f\u3000]/g
const CURVED = /[“”„‟«»″]/g
const ENTITY = /&(?:[a-z]{2,8}|#\d{1,6}|#x[0-9a-f]{1,5});/i
const TAGS =
  /<\/?(?:br|p|b|i|u|li|ul|ol|div|span|code|strong|em|pre|h[1-6]|hr|table|tbody|thead|tr|td|th)(?:\s[^<>]{0,200})?\/?>/gi

/** What buttons of a web page leave between the lines. */
const BUTTON = /^\s*(?:copy|copied!?|copy to clipboard|kopieren|copier|copiar|copia|kopiëren|kopiuj|kopiera)\s*$/i

/** The lines of a text, each cleaned; what was is said of it. */
export function linesOf(text: string): Line[] {
  return text
    .split(/\r\n|[\n\r\u2028\u2029\v\f]/)
    .map((raw, i) => cleanLine(raw, i + 1))
    .filter((line) => !BUTTON.test(line.text))
}

function cleanLine(raw: string, number: number): Line {
  const cleaned: string[] = []
  let text = raw.replace(QUOTED, '')
  const clean = (cleaner: string, what: string): void => {
    if (cleaner !== text) cleaned.push(what)
    text = cleaner
  }
  if (text.includes('<')) clean(text.replace(TAGS, ' '), 'HTML tags removed')
  if (text.includes(']('))
    clean(text.replace(/\[([^[\]]{1,200})\]\((?:https?|mailto):[^()\s]{1,300}\)/g, '$1'), 'links read as their text')
  if (text.includes('<')) clean(text.replace(/(?<=\S)<(?:https?:\/\/|mailto:)[^<>\s]{1,300}>/gi, ''), 'links removed')
  clean(text.replace(/\\([_*])/g, '$1'), 'backslashes removed')
  clean(text.replace(/[\u2010\u2011]/g, '-'), 'special hyphens read as plain ones')
  if (ENTITY.test(text)) clean(decodeHTML(text), 'HTML entities decoded')
  clean(text.replace(/\*\*/g, ''), 'emphasis removed')
  clean(text.replace(/^(\s*)[✓✔✗✘✕✖☐☑☒▢□■●○◦‣►➤](?=\s)/u, '$1-'), 'marks read as bullets')
  clean(text.replace(INVISIBLE, ''), 'invisible characters removed')
  clean(text.replace(SPACES, ' '), 'no-break spaces read as spaces')
  clean(text.replace(CURVED, '"').replace(/[‘’‚]/g, "'"), 'typographic quotes read as plain ones')
  return { number, text: text.trimEnd(), cleaned }
}
