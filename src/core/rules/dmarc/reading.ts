/** Policies for mail that fails, as DMARC records have them. */

import { type DmarcRecord, isDmarc, readDmarc } from '../../mail/dmarc/record.ts'
import { letsSend, readSpf } from '../../mail/spf/record.ts'
import type { Zones } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { spfAt } from '../look.ts'
import type { Reading, TextKind } from '../shared/text-rules.ts'
import { TextMemory } from '../text.ts'
import { SCOPED } from '../traits.ts'

export interface DmarcReading extends Reading {
  isPolicy: boolean
  record: DmarcRecord
}

export const READ = new TextMemory<DmarcReading>((text) => ({ text, isPolicy: isDmarc(text), ...readDmarc(text) }))

export const isAt = ({ tree }: Zones, name: NameId, label: string): boolean =>
  tree.labelOctet(name, 0) === 0x5f && tree.labelText(name) === label

/** A name where a domain says that it takes another’s reports. */
export function isConsent(zones: Zones, owner: NameId): boolean {
  const { tree } = zones
  for (let above = tree.parent(owner); above > ROOT; above = tree.parent(above))
    if (isAt(zones, above, '_report') && isAt(zones, tree.parent(above), '_dmarc')) return true
  return false
}

/** A text that was meant to be a policy, by what is in it. */
const meantAsPolicy = (text: string): boolean =>
  /dmarc/i.test(text) || /(?:^|;)\s*p\s*=\s*(?:none|quarantine|reject)\b/i.test(text)

export const POLICIES: TextKind<DmarcReading> = {
  family: 'dmarc',
  when: SCOPED,
  isAt: (zones, owner) => isAt(zones, owner, '_dmarc') && !isConsent(zones, owner),
  reading(zones, record) {
    const reading = READ.of(zones, record)
    return reading.isPolicy || meantAsPolicy(reading.text) ? reading : undefined
  },
  subject: (owner) => `policy at ${owner}`,
  isSound: (text) => readDmarc(text).problems.length === 0,
  isQuiet: (_cx, _record, reading) => !reading.isPolicy,
}

/** The domain that a `_dmarc` is for. */
export const domainOf = (zones: Zones, owner: NameId): NameId => zones.tree.parent(owner)

/** Where a tag stands in a policy’s text; the whole text where it does not. */
export const placeOf = ({ record, text }: DmarcReading, tag: string): { start: number; end: number } =>
  record.tags.find(({ name }) => name === tag) ?? { start: 0, end: text.length }

/** Whether a name neither sends nor receives, by what it says itself. */
export function doesNoMail(zones: Zones, name: NameId): boolean {
  const spf = name === NONE ? undefined : spfAt(zones, name)
  const mx = zones.records(name, TYPE.MX)
  return (
    spf !== undefined &&
    readSpf(spf).problems.length === 0 &&
    !letsSend(spf) &&
    mx.every((record) => zones.target(record) === ROOT)
  )
}

/** The organizational domain of names, by the public suffix list; loaded where a name is asked for that the list could have something to say of. */
export async function organizations(): Promise<(name: Name) => Name> {
  const { organizationalDomain } = await import('../../names/public-suffix.ts')
  return organizationalDomain
}
