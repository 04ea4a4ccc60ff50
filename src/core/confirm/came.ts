/** What a server has instead of what is intended, by the verdict on its answer. */
import type { RecordSet } from '../model/zones.ts'
import { parseRdata, rdataText } from '../records/rdata.ts'
import type { Question } from './questions.ts'
import type { Judged } from './verdict.ts'

/** Verdicts that say nothing of what there is. */
const SILENT = new Set<Judged['verdict']>([
  'no-reply',
  'not-tried',
  'refused',
  'failed',
  'garbled',
  'unusable',
  'not-authoritative',
])

export const isSilent = ({ verdict }: Pick<Judged, 'verdict'>): boolean => SILENT.has(verdict)

const ROOT = new Uint8Array([0])

/** The set as it came; undefined where nothing of the type did. */
export function cameSet({ owner, type, intended }: Question, answer: Judged): RecordSet | undefined {
  const values = intended?.data.map((data) => rdataText(type, data)) ?? []
  const data = [...values.filter((value) => !answer.missing.includes(value)), ...answer.extra].flatMap((value) => {
    const made = parseRdata(type, value, ROOT)
    return 'wire' in made ? [made.wire] : []
  })
  return data.length === 0 ? undefined : { owner, type, ttl: answer.ttl ?? intended?.ttl ?? 0, data }
}
