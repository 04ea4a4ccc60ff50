import { momentText } from '../../../core/confirm/time-text.ts'
import type { ActionRow } from '../../../core/sheet/changes.ts'
import { sheetPage } from '../../../pages/sheet.tsx'
import { GENERATOR } from '../../../pages/shell.tsx'
import { writePage } from '../../../workspace/page-file.ts'
import { now } from '../../clock.ts'
import type { Changed, SheetCall } from './call.ts'

/** Writes the sheet as a page. */
export function sheetToFile(
  file: string,
  { zone, style, options }: SheetCall,
  rows: readonly ActionRow[],
  asked?: Changed,
): void {
  const compared = asked?.by
    ? 'what was last published'
    : options.with === undefined || options.with === 'servers'
      ? 'the name servers'
      : options.with
  const made = momentText(now())
  writePage(
    file,
    sheetPage({ zone: zone.name, style: style.label, made, compared: asked && compared, rows }),
    GENERATOR,
  )
}
