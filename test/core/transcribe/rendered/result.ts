/** What is read of a text, put to what is meant by it. */
import { foldName } from '../../../../src/core/names/name.ts'
import { rdataText } from '../../../../src/core/records/rdata.ts'
import { TYPE, typeText } from '../../../../src/core/records/types.ts'
import { joined } from '../../../../src/core/records/views.ts'
import type { Instructions } from '../../../../src/core/transcribe/instructions.ts'
import { readInstructions } from '../../../../src/core/transcribe/read.ts'
import { ZONE } from './records.ts'
import type { Text } from './texts.ts'

/** What was read, one line a record, as it is meant. */
export const rowsOf = ({ rows }: Instructions): string[] =>
  rows
    .map(({ owner, type, data }) => {
      const value =
        type === TYPE.TXT
          ? joined(data)
          : rdataText(type, data)
              .replace(/"/g, '')
              .replace(/(?<=\S)\.$/, '')
      return `${foldName(owner).replace(/\.$/, '')} ${typeText(type)} ${value}`.toLowerCase()
    })
    .sort()

/** Whether nobody is asked anything: what is read is written. */
const isSettled = (found: Instructions): boolean =>
  [found.blanks, found.unread, found.features, found.secrets, found.intents].every(({ length }) => length === 0) &&
  found.rows.length > 0 &&
  found.rows.every(({ owner }) => foldName(owner).endsWith(`${ZONE}.`)) &&
  found.rows.every(
    ({ damage, condition, asked }) => damage === undefined && condition === undefined && asked === undefined,
  )

export function resultOf({ text, wanted, damage }: Text): 'right' | 'wrong' | 'lost' | 'asked' {
  const found = readInstructions(text, `${ZONE}.`)
  if (!isSettled(found)) return 'asked'
  const came = rowsOf(found)
  // A name that is gone may be the domain’s own, where that is told.
  const others =
    damage === 'the name is gone' &&
    found.rows.some(({ cleaned }) => cleaned.some((each) => /domain itself/.test(each)))
      ? wanted.map((each) => each.replace(/^\S+/, ZONE))
      : []
  if (came.some((row) => !wanted.includes(row) && !others.includes(row))) return 'wrong'
  return came.length < wanted.length ? 'lost' : 'right'
}
