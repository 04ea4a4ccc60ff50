/** What a call of `sheet` is about. */

import type { Zone } from '../../../core/model/zones.ts'
import { foldName, type Name } from '../../../core/names/name.ts'
import { typeText } from '../../../core/records/types.ts'
import type { ActionRow } from '../../../core/sheet/changes.ts'
import type { Style } from '../../../core/sheet/style.ts'
import type { SheetDocument } from '../../documents/sheet.ts'
import type { Chosen, SourceOptions } from '../source.ts'

export interface SheetOptions extends SourceOptions {
  style?: string
  changes?: boolean
  tick?: boolean
  page?: string
  with?: string
  at?: string[]
  rate?: string
  timeout: string
  json?: boolean
}

export interface SheetCall {
  /** The zone or file as typed. */
  stated: string
  source: Chosen
  zone: Zone
  style: Style
  options: SheetOptions
  /** Whether a record set is among those that are asked for. */
  isWanted(set: { owner: Name; type: number }): boolean
}

/** What is still to be done. */
export interface Changed {
  rows: ActionRow[]
  /** Sets that nobody answered for. */
  unanswered: number
  /** Nobody answered; it was compared with what was last published. */
  by?: 'published'
}

export const sheetJson = (zone: Zone, style: Style, rows: readonly ActionRow[]): SheetDocument => ({
  format: 1,
  zone: foldName(zone.name),
  style: style.label,
  rows: rows.map(({ action, owner, type, fields, before }) => ({
    action,
    owner,
    type: typeText(type),
    fields: fields.map(({ label, value }) => ({ label, value })),
    before,
  })),
})
