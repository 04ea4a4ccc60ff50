/** SPF records as they were read: once for all names whose text is the same. */

import { findIntended } from '../../knowledge/find.ts'
import { askingTerms, type KnownSpf, spfIn } from '../../mail/spf/budget.ts'
import { isSpf, parseSpf, readSpf, type SpfRecord } from '../../mail/spf/record.ts'
import type { TextProblem } from '../../mail/tags.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import type { Name } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, SetView } from '../rule.ts'
import { TextMemory } from '../text.ts'
import { SEVERAL_STRINGS, SPF_TEXT } from '../traits.ts'
import type { Reading, TextKind } from './text-rules.ts'

export interface SpfReading extends Reading {
  /** Undefined where the text does not begin as an SPF record does. */
  record?: SpfRecord
  /** Whether what it leads to must be looked at: an include, a redirect, three terms that ask. */
  leads: boolean
  /** One string, with an end, that leads nowhere: there is nothing to say of it in its zone. */
  plain: boolean
  /** Whether it lets the domain’s own exchanges send, whatever else there is in it. */
  letsExchanges: boolean
}

export const GIVES_UP = 'Receivers give up on the whole record (permerror): by SPF, mail of every sender fails.'

const NO_PROBLEMS: readonly TextProblem[] = []

export const SPF_READ = new TextMemory<SpfReading>((text) => {
  if (!isSpf(text)) return { text, problems: NO_PROBLEMS, leads: false, plain: false, letsExchanges: false }
  const { record, problems } = readSpf(text)
  const asking = askingTerms(record)
  const leads =
    asking.length > 2 ||
    asking.some(({ name, macros }) => name === 'include' || name === 'redirect' || (name === 'mx' && macros))
  const ends = record.all ? record.all.qualifier !== '?' : record.redirect !== undefined
  return {
    text,
    record,
    problems,
    plain: !leads && ends && !record.exp && text.length < 200,
    leads,
    letsExchanges: letsExchanges(record),
  }
})

/** An `mx` of the domain itself, with nothing in front that could take senders away. */
function letsExchanges({ mechanisms }: SpfRecord): boolean {
  const at = mechanisms.findIndex(({ name, qualifier, macros }) => name === 'mx' && qualifier === '+' && !macros)
  return at >= 0 && mechanisms.slice(0, at).every(({ qualifier }) => qualifier === '+')
}

export const SPF_TEXTS: TextKind<SpfReading> = {
  family: 'spf',
  when: SPF_TEXT | SEVERAL_STRINGS,
  reading: (zones, record) => SPF_READ.of(zones, record),
  subject: (owner) => `SPF at ${owner}`,
  isSound: (text) => isSpf(text) && parseSpf(text).problems.length === 0,
  isQuiet: ({ zones }: Context, record: RecordId, { record: spf, plain }: SpfReading, set: SetView) =>
    !spf ||
    (plain && set.records.length === 1 && !severalStrings(zones, record) && startOfNoteAbove(zones, record) < 0),
}

export const severalStrings = (zones: Zones, record: RecordId): boolean =>
  zones.dataOctets(record) > zones.data.octets[zones.dataStart(record)]! + 1

/** Where the comment line right above a record’s entry begins, or -1 where there is none. */
const startOfNoteAbove = (zones: Zones, record: RecordId): number =>
  noteAbove(zones.source(record).octets, zones.start(record))

/** Where the comment line right above the line at `at` begins, or -1 where there is none. */
export function noteAbove(octets: Uint8Array, at: number): number {
  if (at < 2) return -1
  let start = at - 1
  while (start > 0 && octets[start - 1] !== 0x0a) start--
  return octets[start] === 0x3b ? start : -1
}

/** The SPF record that your zones have at a name. */
export const intendedSpf = (zones: Zones, name: Name): KnownSpf => spfIn(findIntended(zones, name, TYPE.TXT))
