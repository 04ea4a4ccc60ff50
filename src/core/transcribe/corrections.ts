/** Sentences that take back what is stated above them: “sorry, it should be …”. */
import { foldName, type Name } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { bearingTokens } from './accounting.ts'
import type { Collector } from './collector.ts'
import { has } from './intents.ts'
import { fits } from './parts.ts'
import type { Row } from './record.ts'
import { addressIn, unwrapped } from './values.ts'

/** What only is said of something that was wrong. */
const TAKES_BACK = has(
  'sorry|apologies|correction|corrected|oops|typos?|mistake|i meant|we meant|my bad|erratum|korrektur|korrigier\\p{L}*|entschuldigung|verschrieben|tippfehler|gemeint|pardon|désolée?s?|erreur|correctif|perdón|disculp\\p{L}*|corrección|errata|error|scusa\\p{L}*|errore|correzione',
)
/** What is said of how something ought to be, too. */
const OUGHT = has(
  'should (?:be|read|say|have been|point to)|must be|(?:muss|müsste|sollte|soll) .{0,80}(?:sein|lauten|heißen|stehen|zeigen)|doit être|devrait être|debe(?:ría)? ser|dovrebbe essere',
)

/** Whether a sentence corrects what is stated above it, surely or where nothing else is asked for. */
export const correctionIn = (sentence: string): 'sure' | 'maybe' | undefined =>
  sentence.length > 2000 ? undefined : TAKES_BACK.test(sentence) ? 'sure' : OUGHT.test(sentence) ? 'maybe' : undefined

/** A correction is of one of so many records before it. */
const MOST_ROWS = 200

/**
 * Puts what a sentence corrects to the records above it: the nearest that the new value can be of, or the one whose old value or name it says. That record is asked about,
 * in both readings. False where the sentence has nothing that could be new.
 */
export function correct(
  sentence: string,
  { line, isSure, owner }: { line: number; isSure: boolean; owner?: Name },
  to: Collector,
): boolean {
  const rows = to.found.rows.slice(-MOST_ROWS).filter((row) => row.line <= line)
  if (rows.length === 0) return false
  const tokens = bearingTokens(sentence).map(unwrapped)
  const states = (row: Row, token: string): boolean => row.value.toLowerCase().includes(token.toLowerCase())
  const said = (row: Row): boolean => row.owner === owner || tokens.some((token) => states(row, token))
  const [value, ...more] = tokens.filter(
    (token) => foldName(`${token}.`) !== owner && !rows.some((row) => states(row, token)),
  )
  if (value === undefined) {
    const isNumber = isSure && OUGHT.test(sentence) && /\d/.test(sentence)
    if (isNumber) to.unread(line, sentence, 'it seems to correct a record above; which one, or to what, is not clear')
    return isNumber
  }
  const fit = new Set([...new Set(rows.map(({ type }) => type))].filter((type) => canBe(type, value)))
  const able = rows.filter(({ type }) => fit.has(type))
  const row = able.findLast(said) ?? able.at(-1)
  if (row === undefined && !isSure) return false
  if (row === undefined || more.length > 0 || !to.corrected(row, value, line))
    to.unread(line, sentence, 'it seems to correct a record above; which one, or to what, is not clear')
  return true
}

const canBe = (type: number, value: string): boolean =>
  fits(type, value) >= 2 && (type !== TYPE.TXT || addressIn(value) === undefined)
