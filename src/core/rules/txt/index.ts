import type { Rule } from '../rule.ts'
import { txtControlCharacter } from './control-character.ts'
import { txtNotAscii } from './not-ascii.ts'
import { txtStrayQuotes } from './stray-quotes.ts'
import { txtStringTooLong } from './string-too-long.ts'
import { txtTypographicQuotes } from './typographic-quotes.ts'
import { txtUnquotedSpaces } from './unquoted-spaces.ts'

/** The rules of the family `txt/`. */
export const TXT: readonly Rule[] = [
  txtControlCharacter,
  txtNotAscii,
  txtStrayQuotes,
  txtStringTooLong,
  txtTypographicQuotes,
  txtUnquotedSpaces,
]
