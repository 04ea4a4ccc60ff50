/** Tables with commas (RFC 4180), for spreadsheets; nothing in them is a formula. */
import { csvField, zoneInForm } from '../../core/file/forms.ts'
import type { Format } from './format.ts'

export const FORMAT: Format = {
  *findings({ findings }) {
    yield 'severity,rule,owner,type,file,line,column,message,effect,fix,source\n'
    for (const { severity, rule, owner, type, file, line, column, message, effect, fix, source } of findings)
      yield `${[severity, rule, owner, type ?? '', file, line, column, message, effect, fix.join('\n'), source].map((each) => csvField(String(each))).join(',')}\n`
  },
  *sets({ zones, chosen }) {
    for (const zone of chosen) yield* zoneInForm(zones, zone, 'csv')
  },
}
