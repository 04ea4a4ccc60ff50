import { isDmarc, policyFor, readDmarc, strictness, TAG_NOTES, withTags } from '../../mail/dmarc/record.ts'
import { nextStep } from '../../mail/dmarc/steps.ts'
import type { Zone, Zones } from '../../model/zones.ts'
import { toAsciiMailbox } from '../../names/idna.ts'
import type { Name } from '../../names/name.ts'
import type { Refused } from '../../result.ts'
import { type MailChange, textChange, textsAt } from './text.ts'
export interface DmarcWishes {
  /** Tags and values; undefined takes a tag out. */
  tags: Readonly<Record<string, string | undefined>>
  /** Addresses for aggregate reports, as people write them. */
  reports: readonly string[]
  next: boolean
  percent?: number
  replace: boolean
  /** Loosening is refused otherwise. */
  force: boolean
  ttl?: number
}

const asMailto = (address: string): string =>
  /^[a-z][a-z0-9+.-]*:/i.test(address)
    ? address
    : `mailto:${address.replace(/[,!]/g, (sign) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`)}`

/** Addresses for reports as people write them, as URIs, the domains of mailboxes in A-labels. */
export function reportUris(addresses: readonly string[]): string[] | Refused {
  const uris: string[] = []
  for (const address of addresses) {
    const ascii = /^(?!mailto:)[a-z][a-z0-9+.-]*:/i.test(address) ? { name: address } : toAsciiMailbox(address)
    if ('refused' in ascii) return { refused: `${address}: ${ascii.refused}` }
    uris.push(asMailto(ascii.name))
  }
  return uris
}

/** What a change of the policy comes to. */
export interface PolicyChange {
  text: string
  /** What must be true before the step is taken. */
  conditions: string[]
  /** There was no policy before. */
  isFirst: boolean
}

/** Writes or changes the policy at `_dmarc` of a domain. */
export function dmarcChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  wishes: DmarcWishes,
): (MailChange & PolicyChange) | Refused | { missing: 'reports' } {
  const owner = `_dmarc.${domain}`
  const present = textsAt(zones, zone, owner, isDmarc)
  if (present.length > 1 && !wishes.replace)
    return {
      refused: `${owner} has ${present.length} DMARC records; receivers apply none of them. Give the right one with --replace`,
    }
  const before = wishes.replace ? undefined : present[0]
  const reports = reportUris(wishes.reports)
  if ('refused' in reports) return reports
  const notes: string[] = []
  let conditions: string[] = []
  let text: string
  if (wishes.next) {
    const step = nextStep(before, { percent: wishes.percent, reports })
    if ('missing' in step) return step
    if ('refused' in step) return { refused: step.refused }
    if ('done' in step)
      return { changes: [], notes: [`${owner} has ${step.done}.`], text: before!, conditions: [], isFirst: false }
    text = step.text
    conditions = step.first
    notes.push(step.does)
  } else {
    const rua =
      reports.length === 0
        ? {}
        : {
            rua: [...(before ? readDmarc(before).record.rua.map(({ uri }) => uri) : []), ...reports]
              .filter((each, i, all) => all.indexOf(each) === i)
              .join(','),
          }
    const percent =
      wishes.percent === undefined ? {} : { pct: wishes.percent === 100 ? undefined : String(wishes.percent) }
    text = withTags(before ?? '', { ...rua, ...percent, ...wishes.tags })
  }
  const { record, problems } = readDmarc(text)
  const [bad] = problems.filter(({ kind }) => kind !== 'unknown-tag')
  if (bad) return { refused: `${text}: ${bad.message} (expected ${bad.wanted})` }
  const old = present.length === 1 ? readDmarc(present[0]!).record : undefined
  if (old && !wishes.force) {
    const looser = (['itself', 'below', 'missing'] as const).find(
      (name) => strictness(policyFor(record, name)) < strictness(policyFor(old, name)),
    )
    if (looser || (record.policy === old.policy && old.policy !== 'none' && record.percent < old.percent))
      return { refused: `this weakens the policy (${present[0]} → ${text}); --force writes it anyway` }
  }
  for (const tag of record.tags)
    if (TAG_NOTES[tag.name]) notes.push(`${tag.name}=${tag.value}: ${TAG_NOTES[tag.name]}.`)
  return {
    changes: [textChange(zones, zone, owner, isDmarc, text, wishes.ttl)],
    notes,
    text,
    conditions,
    isFirst: before === undefined,
  }
}
