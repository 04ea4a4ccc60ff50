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
  'the reports of at least two weeks have been read, and all sources of yours in them pass SPF or DKIM with an aligned domain'
const RARE =
  'rare senders (invoices, the yearly newsletter, devices) have been considered: they may not appear in two weeks of reports'

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
      refused: `the record has a fault that must be fixed first: ${faults[0]!.message} (expected ${faults[0]!.wanted})`,
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
    return step({ p: 'none' }, 'Receivers report who sends in the domain’s name, and treat its mail as before.', [
      'somebody reads the reports, or a service does',
    ])
  const part = percent !== undefined && percent < 100 ? String(percent) : undefined
  const share = part === undefined ? 'all mail' : `${part} of 100 messages`
  if (record.policy !== 'none' && record.percent < 100) {
    if (part !== undefined && Number(part) <= record.percent)
      return { refused: `pct=${part} is not a step up from pct=${record.percent}: it would weaken the policy` }
    return step(
      { pct: part },
      `Receivers apply p=${record.policy} to ${share} that fails, instead of ${record.percent} of 100 messages.`,
      ['none of your own mail has been quarantined since the last step'],
    )
  }
  if (record.policy === 'none')
    return step({ p: 'quarantine', pct: part }, `Receivers quarantine failing mail: ${share}.`, [REPORTS, RARE])
  if (record.policy === 'quarantine')
    return step({ p: 'reject', pct: part }, `Receivers reject failing mail: ${share}.`, [
      'with p=quarantine, none of your own mail has been quarantined for two weeks',
      'users of the domain do not post to mailing lists that modify messages, or those lists handle DMARC',
    ])
  const weaker = (['sp', 'np'] as const).find(
    (name) =>
      record[name === 'sp' ? 'below' : 'missing'] !== undefined &&
      record[name === 'sp' ? 'below' : 'missing'] !== 'reject',
  )
  if (weaker)
    return step({ [weaker]: undefined }, `Subdomains get the policy of the domain: ${weaker}= is removed.`, [
      'mail from subdomains passes, too',
    ])
  if (record.testing)
    return step({ t: undefined }, 'The policy is no longer in testing mode: t=y is removed.', [
      'none of your own mail was reported as failing',
    ])
  return { done: 'p=reject for all mail, subdomains included: there is no stricter policy' }
}
