/** Random records, written as people are sent them, and read: nothing may be wrong or lost where nothing is asked. */
import { expect, test } from 'vitest'
import { readInstructions } from '../../../../src/core/transcribe/read.ts'
import { ZONE } from './records.ts'
import { resultOf } from './result.ts'
import { textOf } from './texts.ts'

/** `TEXTS` says how many; `TEXT` begins with that one and shows what failed. */
const COUNT = Number(process.env.TEXTS ?? 2000)
const FIRST = Number(process.env.TEXT ?? 1)
const SHOWN = 3

test(`of ${COUNT} texts, none comes to a wrong record or loses one unasked`, { timeout: 3_600_000 }, () => {
  const counts: Record<string, Record<string, number>> = {}
  const failures: string[] = []
  for (let seed = FIRST; seed < FIRST + COUNT; seed++) {
    const text = textOf(seed, seed % 2 === 0)
    const result = resultOf(text)
    const of = (counts[text.damage === 'none' ? text.layout : `(${text.damage})`] ??= {})
    of[result] = (of[result] ?? 0) + 1
    if (result === 'wrong' || result === 'lost')
      failures.push(`${seed}, ${text.layout}, ${text.damage}: ${result}\n${text.text}\n`)
    else if (
      process.env.ASKED &&
      text.damage === 'none' &&
      result === 'asked' &&
      text.layout.includes(process.env.ASKED)
    )
      console.log(`${seed} ${text.layout}\n${text.text}\n`, readInstructions(text.text, `${ZONE}.`).unread)
  }
  if (process.env.TEXTS) console.table(counts)
  const whole = Object.entries(counts).filter(([layout]) => !layout.startsWith('('))
  const sum = (what: string): number => whole.reduce((all, [, of]) => all + (of[what] ?? 0), 0)
  const share = sum('right') / (sum('right') + sum('asked') + sum('wrong') + sum('lost'))
  if (process.env.TEXTS)
    console.log(`${failures.length} wrong or lost; ${(share * 100).toFixed(1)} % of the undamaged are certain`)
  expect(failures.slice(0, SHOWN)).toEqual([])
  expect(share).toBeGreaterThan(0.95)
})
