/** When data count as the same. */
import { isSpf } from '../mail/spf/record.ts'
import { foldName, labelsOf } from '../names/name.ts'
import { type Rdata, rdataKey } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import type { Question } from './questions.ts'

/** Types whose text is read in joined form: by owner, where the text itself does not say so. */
const JOINING = new Set(['_domainkey', '_dmarc', '_mta-sts', '_smtp', '_report'])

/** A text that is equal for data that count as the same. */
export function sameness({ owner, type }: Pick<Question, 'owner' | 'type'>, data: Rdata): string {
  if (type !== TYPE.TXT) return rdataKey(type, data)
  const text = joined(data)
  return isSpf(text) || labelsOf(foldName(owner)).some((label) => JOINING.has(label))
    ? `joined ${text}`
    : rdataKey(type, data)
}
