/** Records that a text states for some of its readers only: “if you also send newsletters, add …”. */
import { trimmedLines } from '../lines.ts'
import { shortened } from '../shortened.ts'
import type { Row } from './record.ts'

/** Words that make what follows depend on something that is known to the reader alone. */
const CONDITION =
  /(?:^|[^\p{L}])(?:if you (?:would )?(?:also|additionally)|should you also|(?:wenn|falls|sofern) sie (?:auch|zusätzlich|außerdem|ebenfalls)|si vous \p{L}{1,20} (?:aussi|également)|si (?:usted )?(?:también|además)|se (?:você )?também|se \p{L}{1,20} anche|als u ook|wanneer u ook|om du (?:också|även)|hvis du også|jeśli \p{L}{1,20} (?:także|również))(?=$|[^\p{L}])/iu

/** Whether a line is prose: neither a row of a table nor a label with its value. */
const isProse = (line: string): boolean =>
  !/[\t|]/.test(line) &&
  !/^\s*\p{L}[\p{L} -]{1,24}:\s+\S/u.test(line) &&
  (line.match(/(?<!\p{L})\p{L}{2,}/gu)?.length ?? 0) > 1

/** Marks the rows that depend on a condition: in their own line, or in the last line of prose above them. */
export function markConditions(text: string, rows: readonly Row[]): void {
  const lines = text.split('\n')
  const stated = new Set(rows.map(({ line }) => line))
  // What is in force at each line: that of the last prose above it.
  let inForce: string | undefined
  const at = lines.map((line, i) => {
    const own = CONDITION.test(line) ? line : undefined
    if (own !== undefined || (isProse(line) && !stated.has(i + 1))) inForce = own
    return own ?? inForce
  })
  for (const row of rows) {
    const condition = at[row.line - 1]
    if (condition !== undefined) row.condition = shortened(trimmedLines(condition)[0] ?? '', 100)
  }
}
