/** Tables with commas (RFC 4180), for spreadsheets; nothing in them is a formula. */
import { ordered } from '../../core/file/forms.ts'
import { printable } from '../../core/printable.ts'
import { typeText } from '../../core/records/types.ts'
import { RecordView } from '../../core/view/record-set.ts'
import type { Format } from './format.ts'

export const FORMAT: Format = {
  *findings({ findings }) {
    yield 'severity,rule,owner,type,file,line,column,message,effect,fix,source\n'
    for (const { severity, rule, owner, type, file, line, column, message, effect, fix, source } of findings)
      yield row([severity, rule, owner, type ?? '', file, line, column, message, effect, fix.join('\n'), source])
  },
  *sets({ zones, chosen }) {
    yield 'owner,ttl,type,value\n'
    for (const zone of chosen)
      for (const { name, records } of ordered(zones, zone))
        for (const record of records) {
          const type = zones.type(record)
          const { value } = new RecordView(type, zones.rdata(record))
          yield row([zones.tree.text(name), zones.ttl(record), typeText(type), value])
        }
  },
}

/** A cell; one that a spreadsheet would take for a formula gets an apostrophe in front. */
function csvField(cell: string): string {
  const safe = /^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe
}

const row = (cells: readonly (string | number)[]): string =>
  `${cells.map((each) => csvField(printable(String(each)))).join(',')}\n`
