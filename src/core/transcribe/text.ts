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
/** Signs that say from which side to read, as most names are read anyway; with one of the others what is seen is not what is there. */
const DIRECTIONS = /[\u202a\u202c\u202d\u2066\u2068\u2069]/g
const BACKWARDS = /[\u202b\u202e\u2067]/
const SPACES = /[\u00a0\u1680\u2000-\u200a\u202f\u205f\u3000]/g
const CURVED = /[“”„‟«»″]/g
const ENTITY = /&(?:[a-z]{2,8}|#\d{1,6}|#x[0-9a-f]{1,5});/i
const TAGS =
  /<\/?(?:br|p|b|i|u|li|ul|ol|div|span|code|strong|em|pre|h[1-6]|hr|table|tbody|thead|tr|td|th)(?:\s[^<>]{0,200})?\/?>/gi

/** What buttons of a web page leave between the lines. */
const BUTTON = /^\s*(?:copy|copied!?|copy to clipboard|kopieren|copier|copiar|copia|kopiëren|kopiuj|kopiera)\s*$/i

const LINE_END = /\r\n|[\n\r\u2028\u2029\v\f]/

/** The lines of a text, each cleaned; what was is said of it. */
export function linesOf(text: string): Line[] {
  const raw = text.split(LINE_END)
  const isEncoded = /^content-transfer-encoding:\s*quoted-printable/im.test(text)
  return (isEncoded ? fromQuotedPrintable(text).split(LINE_END) : raw)
    .map((line, i) => {
      const made = cleanLine(line, i + 1)
      return line === raw[i] ? made : { ...made, cleaned: ['quoted-printable decoded', ...made.cleaned] }
    })
    .filter((line) => !BUTTON.test(line.text))
}

/** Mail as it travels (RFC 2045 §6.7): soft line breaks stay lines, empty ones, so that lines keep their numbers. */
function fromQuotedPrintable(text: string): string {
  const lines = text.split(/\r\n|\n/)
  const decoder = new TextDecoder()
  const made: string[] = []
  let open = ''
  let owed = 0
  for (const line of lines) {
    if (line.endsWith('=')) {
      open += line.slice(0, -1)
      owed++
      continue
    }
    const octets = (open + line).replace(/(?:=[0-9A-F]{2})+/gi, (run) =>
      decoder.decode(Uint8Array.from(run.slice(1).split('='), (hex) => Number.parseInt(hex, 16))),
    )
    made.push(octets, ...Array<string>(owed).fill(''))
    open = ''
    owed = 0
  }
  return made.join('\n')
}

/** Letters that printing drew together, and those as wide as a Chinese one. */
const DRAWN = /[\ufb00-\ufb06\uff01-\uff5e]/g
/** Signs of buttons at the end of a line. */
const SIGNS = /\s+(?:\u{1F4CB}|\u{1F4C4}|\u2705|\u2714|\u2713)(?:\s*copied!?|\s*copy)?\s*$/iu

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
  clean(text.replace(SIGNS, ''), 'signs of a page removed')
  clean(
    text.replace(DRAWN, (sign) => sign.normalize('NFKC')),
    'special forms of letters read as plain ones',
  )
  clean(text.replace(/(?<=\w)(?:\[\.\]|\(\.\))(?=\w)/g, '.'), 'dots in brackets read as plain ones')
  clean(text.replace(/(?<=[\w-]) \. (?=[\w-])/g, '.'), 'blanks around dots removed')
  if (/\bv = (?:spf1|DMARC1|DKIM1)\b/i.test(text))
    clean(
      text.replace(/(?<=\w) ?([=;]) ?(?=\w)/g, (_, sign: string) => (sign === ';' ? '; ' : '=')),
      'blanks around signs removed',
    )
  clean(
    text.replace(/^(\s*)(?:[\u2460-\u2473]|\d{1,2}\ufe0f?\u20e3|\(\d{1,2}\))(?=\s)/u, '$1-'),
    'numbers in signs read as bullets',
  )
  clean(text.replace(/^(\s*)(?:[✗✘☐▢□■●○◦‣]|\p{Extended_Pictographic}\ufe0f?)(?=\s)/u, '$1-'), 'marks read as bullets')
  if (!BACKWARDS.test(text)) clean(text.replace(DIRECTIONS, ''), 'signs of direction removed')
  clean(text.replace(INVISIBLE, ''), 'invisible characters removed')
  clean(text.replace(SPACES, ' '), 'no-break spaces read as spaces')
  clean(
    text.replace(/«\s?/g, '"').replace(/\s?»/g, '"').replace(CURVED, '"').replace(/[‘’‚]/g, "'"),
    'typographic quotes read as plain ones',
  )
  return { number, text: text.trimEnd(), cleaned }
}
