import type { Rule } from '../rule.ts'
import { fileByteOrderMark } from './byte-order-mark.ts'
import { fileCarriageReturn } from './carriage-return.ts'
import { fileLineInText } from './line-in-text.ts'
import { fileParameterName } from './parameter-name.ts'
import { fileParenthesisFirst } from './parenthesis-first.ts'
import { fileQuoted } from './quoted.ts'
import { fileRelativeOrigin } from './relative-origin.ts'
import { fileTouching } from './touching.ts'
import { fileTypeNotRead } from './type-not-read.ts'
import { fileUnquoted } from './unquoted.ts'

/** The rules of the family `file/`. */
export const FILE: readonly Rule[] = [
  fileByteOrderMark,
  fileCarriageReturn,
  fileLineInText,
  fileParameterName,
  fileParenthesisFirst,
  fileQuoted,
  fileRelativeOrigin,
  fileTouching,
  fileTypeNotRead,
  fileUnquoted,
]
