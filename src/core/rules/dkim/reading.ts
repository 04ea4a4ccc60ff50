/** Keys that mail is signed with, as their records have them. */

import { type KeyRecord, looksLikeKey, parseKey } from '../../mail/dkim/key.ts'
import { isSpf } from '../../mail/spf/record.ts'
import { isSelector } from '../look.ts'
import type { Context, SetView } from '../rule.ts'
import type { Reading, TextKind } from '../shared/text-rules.ts'
import { TextMemory } from '../text.ts'
import { SELECTOR, TAGGED_TEXT } from '../traits.ts'

export interface KeyReading extends Reading {
  isKey: boolean
  record: KeyRecord
}

export const READ = new TextMemory<KeyReading>((text) => ({ text, isKey: looksLikeKey(text), ...parseKey(text) }))

export const KEYS: TextKind<KeyReading> = {
  family: 'dkim',
  when: TAGGED_TEXT | SELECTOR,
  *readings(set: SetView, { zones }: Context) {
    const atSelector = isSelector(zones, set.owner) && zones.tree.labelText(set.owner) !== '_adsp'
    for (const record of set.records) {
      const reading = READ.of(zones, record)
      if (reading.isKey || (atSelector && !isSpf(reading.text))) yield [record, reading] as const
    }
  },
  subject: (owner) => `key at ${owner}`,
  isSound: (text) => parseKey(text).problems.length === 0,
}
