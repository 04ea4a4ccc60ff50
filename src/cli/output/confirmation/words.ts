/** Signs and words of statuses, verdicts and sets. */
import type { ConfirmedSet, StatusWord } from '../../../core/confirm/status.ts'
import type { Verdict } from '../../../core/confirm/verdict.ts'
import type { Name } from '../../../core/names/name.ts'
import { setName } from '../../../core/view/record-set.ts'
import type { Colours } from '../page.ts'

const SIGN: Record<StatusWord, string> = {
  confirmed: '✓',
  settling: '…',
  unreachable: '?',
  'not-published': '✗',
  overdue: '✗',
  split: '✗',
  wrong: '✗',
}
const VERDICT_SIGN: Partial<Record<Verdict, string>> = {
  'as-intended': '✓',
  'earlier-answer': '…',
  stale: '…',
  'no-reply': '?',
  unusable: '?',
  'not-tried': '–',
}

export function paintStatus(colour: Colours, word: StatusWord, text: string): string {
  if (word === 'confirmed') return colour.green(text)
  if (word === 'settling') return colour.cyan(text)
  return word === 'unreachable' ? colour.bold(colour.yellow(text)) : colour.bold(colour.red(text))
}

/** "✗ not published" */
export const statusText = (word: StatusWord): string => `${SIGN[word]} ${word.replace('-', ' ')}`
/** "✗ absent"; of a set of which nothing is wrong, nothing is crossed out. */
export const verdictText = (verdict: Verdict, status: StatusWord): string =>
  `${VERDICT_SIGN[verdict] ?? (status === 'settling' ? '…' : '✗')} ${verdict}`

export function paintVerdict(colour: Colours, text: string): string {
  if (text.startsWith('✓')) return colour.green(text)
  return text.startsWith('✗') ? colour.bold(colour.red(text)) : colour.cyan(text)
}

/** "www.hollowmere.example. A", or with the zone's name "www A". */
export function setText({ question, status }: ConfirmedSet, zone?: Name): string {
  const { owner, type, intended, follow, own } = question
  const isThere = intended !== undefined || follow !== undefined || own === true
  const removed = status.word === 'not-published' ? ' (removed, still answered)' : ' (removed)'
  return `${setName(owner, type, zone)}${isThere ? '' : removed}`
}
