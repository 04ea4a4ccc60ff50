/** What a text leaves over: lines that bear something of a record and came to nothing are told, so that none vanishes. */
import { isAtOrBelow, type Name } from '../names/name.ts'
import { roleOf } from './labels.ts'
import { isRuler } from './layouts/tables.ts'
import { wordsOf } from './layouts/words.ts'
import type { Line } from './text.ts'
import { addressIn, hostIn, isWhole, quotedStrings, typeIn } from './values.ts'

/** Places of the web and of mail are no parts of records. */
const PLACES = /\b(?:https?|ftp|mailto|tel):[^\s|]+|(?<![\w.+-])[\w.+-]{1,64}@[\w-]{1,63}(?:\.[\w-]{1,63}){1,8}/gi
const TEXT_OF_RECORD = /(?:^|[\s"'`:=|,;])(?:v=(?:spf1|DMARC1|DKIM1|STSv1|TLSRPTv1)\b|p=MI[A-Z])/i
/** Values that only one type has, of CAA and of SRV; and a value behind the sign for the domain itself. */
const VALUE_OF_RECORD =
  /(?:^|\s)(?:\d{1,3}\s+(?:issue|issuewild|iodef)\s|(?:\d{1,5}\s+){3}[\w-]+(?:\.[\w-]+){1,9}\.?(?=\s|$)|@\s+(?:\d{1,5}\s+)?(?:"|[\w-]+(?:\.[\w-]+){1,9}\.?(?=\s|$)))/i
/** Where a sentence is written, and not a row. */
const MOST_WORDS = 9

/** Words of a text that can be a part of a record: addresses, whole names of hosts, scoped names, texts in quotes; places of the web and of mail are none. */
export const bearingTokens = (text: string): string[] =>
  wordsOf(text.replace(PLACES, ' ').replace(/[|\t;,()]/g, ' '))
    .map((word) => word.replace(/(?<![.,:;!?)])[.,:;!?)]+$/, ''))
    .filter((word) => isValue(word) || SCOPED.test(word))

const SCOPED = /^["'`(]?(?:[\w-]+\._domainkey|_[a-z][\w-]{2,})(?:\.|["'`)]?$)/i

function isValue(word: string): boolean {
  if (addressIn(word) !== undefined || (quotedStrings(word)?.join('').length ?? 0) > 0) return true
  // A text of a name and what it is, as services prove with that a domain is somebody’s.
  if (/^[\w.-]{3,64}=[\w+/=.-]{6,}$/.test(word)) return true
  const name = hostIn(word)?.name
  return name !== undefined && isWhole(name) && /[a-z]/.test(name) && /\.[a-z-]{2,}\.?$/i.test(name)
}

const OTHER = /^\s*(\p{L}[\p{L} -]{0,30}):\s/u

/** What there is of a record in a line. */
export interface Bearing {
  type: boolean
  /** An address, the whole name of a host, a text in quotes. */
  values: number
  /** A name that only records have: `_dmarc`, `s1._domainkey`. */
  scoped: boolean
  /** A text, or a value, that only a record has. */
  text: boolean
  words: number
  /** A label in front says that it is something else. */
  other: boolean
}

export function bearingOf(text: string, zone: Name): Bearing {
  const bare = text.replace(PLACES, ' ')
  const words = wordsOf(bare.replace(/[|\t;,]/g, ' ')).map((word) => word.replace(/(?<![.,:;!?)])[.,:;!?)]+$/, ''))
  const isOther = (word: string): boolean => `${hostIn(word)?.name.replace(/\.$/, '')}.` !== zone
  return {
    // The class of a zone file stands beside one.
    type: words.some((word) => (typeIn(word) !== undefined || word === 'IN') && /^[("'`]*[A-Z]+[)"'`:]*$/.test(word)),
    values: words.filter((word) => isValue(word) && isOther(word)).length,
    scoped: words.some((word) => SCOPED.test(word) || isBelow(word, zone)),
    text: TEXT_OF_RECORD.test(bare) || VALUE_OF_RECORD.test(bare),
    words: words.filter((word) => /\p{L}/u.test(word)).length,
    other: OTHER.test(text) && roleOf(OTHER.exec(text)![1]!) === undefined,
  }
}

function isBelow(word: string, zone: Name): boolean {
  const name = hostIn(word)?.name
  return name !== undefined && isAtOrBelow(name.endsWith('.') ? name : `${name}.`, zone) && `${name}.` !== zone
}

/** Whether a line by itself seems to state a record. */
const states = ({ type, values, scoped, text, words }: Bearing): boolean =>
  text ||
  (scoped && values > 1 && words <= 4) ||
  (type && ((values > (scoped ? 1 : 0) && words <= MOST_WORDS) || (scoped && words <= 2)))

const isPlain = ({ type, scoped, words }: Bearing): boolean => type && scoped && words <= 4

/** Whether a line beside one that states a record seems to state one, too. */
const goesWith = ({ type, values, scoped, words, other }: Bearing): boolean =>
  (words <= MOST_WORDS && (type || scoped)) || (words <= 4 && values > 0 && !other)

/** Whether a line has cells parted by tabs that are no heading. */
const isCells = (text: string): boolean =>
  /\S\t+\S/.test(text) && text.split(/\t+/).filter((cell) => roleOf(cell) !== undefined).length < 2

/** Whether a line has nothing but a name of records, and the line below one word that may be its value. */
const isNameOf = (name: Bearing, value: Bearing | undefined): boolean =>
  name.scoped && name.words === 1 && value !== undefined && value.words === 1

/**
 * The lines that came to nothing and seem to state a record, or a part of one. `settled`: those of which something is said already; `stating`: those that are records.
 * Where no record was found at all (`found`), only what plainly is one counts.
 */
export function leftOver(
  lines: readonly Line[],
  { settled, stating, zone }: { settled: ReadonlySet<number>; stating: ReadonlySet<number>; zone: Name },
  found: boolean,
): { line: Line; why: string }[] {
  const left: { line: Line; why: string }[] = []
  const isRecord = (line: Line | undefined): boolean => line !== undefined && stating.has(line.number)
  for (const [i, line] of lines.entries()) {
    const { text } = line
    if (settled.has(line.number) || text.trim() === '' || isRuler(text) || /[{}]\s*$/.test(text)) continue
    // A label of a type that stands alone begins a record.
    if (roleOf(text.replace(/:\s*$/, '')) === 'type') {
      left.push({ line, why: 'the labels that begin here come to no record' })
      continue
    }
    const beside = [lines[i - 1], lines[i + 1]]
    const bearing = bearingOf(text, zone)
    // A row of cells among rows of cells.
    const isRow = isCells(text) && beside.some((each) => isRecord(each) && isCells(each!.text))
    if (isRow || (found ? states(bearing) : isPlain(bearing)))
      left.push({ line, why: 'it seems to state a record, and could not be understood' })
    else if (found && isNameOf(bearing, lines[i + 1] && bearingOf(lines[i + 1]!.text, zone)))
      left.push({ line, why: 'it is a name, and states no type' })
    else if (goesWith(bearing) && (beside.some(isRecord) || (i > 0 && left.at(-1)?.line === lines[i - 1])))
      left.push({ line, why: 'it stands among records, and could not be understood' })
  }
  return left
}
