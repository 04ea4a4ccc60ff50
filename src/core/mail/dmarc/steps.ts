/** The way to a strict policy, one step at a time. */
import { readDmarc, withTags } from './record.ts'

export interface PolicyStep {
  /** The record as it would be. */
  text: string
  /** What it does, and what must be true before it is taken. */
  does: string
  first: string[]
}

const REPORTS =
  'reports of two weeks or more have been read, and every source in them that is yours passes, by SPF or DKIM, with a domain that is aligned'
const RARE =
  'senders that write seldom (invoices, the yearly letter, devices) have been thought of: they may not be in two weeks of reports'

/**
 * The next step from a record (undefined: none yet): monitoring, quarantine, reject. `percent` takes a step for a part of the mail only. `reports` are addresses (`mailto:` URIs)
 * for aggregate reports; without any, in the record or here, no step is taken. Never loosens. `done` where nothing is left to tighten.
 */
export function nextStep(
  text: string | undefined,
  options: { percent?: number; reports?: readonly string[] } = {},
): PolicyStep | { done: string } | { missing: 'reports' } | { refused: string } {
  const { percent, reports = [] } = options
  const parsed = text === undefined ? undefined : readDmarc(text)
  const faults =
    parsed?.problems.filter(({ kind }) => kind === 'syntax' || kind === 'policy' || kind === 'tag-value') ?? []
  if (faults.length > 0)
    return {
      refused: `the record has a fault that comes first: ${faults[0]!.message}; right would be ${faults[0]!.wanted}`,
    }
  const record = parsed?.record
  const rua = [
    ...(record?.rua.map(({ uri }) => uri) ?? []),
    ...reports.filter((each) => !record?.rua.some(({ uri }) => uri === each)),
  ].join(',')
  if (rua === '') return { missing: 'reports' }
  const step = (changes: Record<string, string | undefined>, does: string, first: string[]): PolicyStep => ({
    text: withTags(text ?? '', { ...changes, rua }),
    does,
    first,
  })
  if (!record?.policy)
    return step(
      { p: 'none' },
      'Receivers send reports of who sends in the domain’s name, and treat its mail as before.',
      ['somebody reads the reports, or a service does'],
    )
  const part = percent !== undefined && percent < 100 ? String(percent) : undefined
  const share = part === undefined ? 'all mail' : `${part} of 100 messages`
  if (record.policy !== 'none' && record.percent < 100) {
    if (part !== undefined && Number(part) <= record.percent)
      return { refused: `pct=${part} is no step from pct=${record.percent}: it would loosen the policy` }
    return step(
      { pct: part },
      `Receivers apply p=${record.policy} to ${share} that fails, not to ${record.percent} of 100.`,
      ['nothing that is yours has been caught since the last step'],
    )
  }
  if (record.policy === 'none')
    return step({ p: 'quarantine', pct: part }, `Receivers put mail that fails aside as suspect: ${share}.`, [
      REPORTS,
      RARE,
    ])
  if (record.policy === 'quarantine')
    return step({ p: 'reject', pct: part }, `Receivers refuse mail that fails: ${share}.`, [
      'under quarantine, nothing that is yours has been caught for two weeks',
      'people of the domain do not write to mailing lists that change what they send, or these lists cope',
    ])
  const weaker = (['sp', 'np'] as const).find(
    (name) =>
      record[name === 'sp' ? 'below' : 'missing'] !== undefined &&
      record[name === 'sp' ? 'below' : 'missing'] !== 'reject',
  )
  if (weaker)
    return step({ [weaker]: undefined }, `Names below the domain get the policy of the domain: ${weaker}= goes.`, [
      'what names below the domain send passes, too',
    ])
  if (record.testing)
    return step({ t: undefined }, 'The policy is no longer on trial: t=y goes.', [
      'nothing that is yours was reported as failing',
    ])
  return { done: 'p=reject for all mail, names below included: nothing is left to tighten' }
}
