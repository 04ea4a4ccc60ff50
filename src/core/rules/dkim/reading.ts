/** Keys that mail is signed with, as their records have them. */

import { type KeyRecord, looksLikeKey, parseKey } from '../../mail/dkim/key.ts'
import { isSpf } from '../../mail/spf/record.ts'
import type { Zones } from '../../model/zones.ts'
import type { NameId } from '../../names/tree.ts'
import { isSelector } from '../look.ts'
import type { Reading, TextKind } from '../shared/text-rules.ts'
import { TextMemory } from '../text.ts'
import { SELECTOR, TAGGED_TEXT } from '../traits.ts'

export interface KeyReading extends Reading {
  isKey: boolean
  record: KeyRecord
}

export const READ = new TextMemory<KeyReading>((text) => ({ text, isKey: looksLikeKey(text), ...parseKey(text) }))

const isKeyName = (zones: Zones, name: NameId): boolean =>
  isSelector(zones, name) && zones.tree.labelText(name) !== '_adsp'

export const KEYS: TextKind<KeyReading> = {
  family: 'dkim',
  when: TAGGED_TEXT | SELECTOR,
  reading(zones, record) {
    const reading = READ.of(zones, record)
    return reading.isKey || (!isSpf(reading.text) && isKeyName(zones, zones.owner(record))) ? reading : undefined
  },
  subject: (owner) => `key at ${owner}`,
  isSound: (text) => parseKey(text).problems.length === 0,
}
