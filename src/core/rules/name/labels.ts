/** How the labels of a name are made: hosts' names, internationalised labels. */

import type { RecordId } from '../../model/zones.ts'
import { textOf } from '../../names/octets.ts'
import { type NameId, NONE, ROOT } from '../../names/tree.ts'
import { rowOf } from '../../records/types.ts'
import type { Context, Part } from '../rule.ts'

/** For each name in whose own leftmost label the bit is set: the first record that it stands in, and where. */
export function eachOddLabel(
  cx: Context,
  bit: number,
  isOdd: (label: string) => boolean,
  visit: (label: NameId, record: RecordId, part: Part) => void,
): void {
  const { tree } = cx.zones
  if (!(tree.seenOddness & bit)) return
  const seen = new Set<NameId>()
  const look = (name: NameId, record: RecordId, part: Part): void => {
    for (let here = name; here > ROOT && tree.oddness(here) & bit; here = tree.parent(here)) {
      if (seen.has(here)) continue
      seen.add(here)
      if (isOdd(textOf(tree.label(here)))) visit(here, record, part)
    }
  }
  cx.eachRecord((record) => {
    look(cx.zones.owner(record), record, 'owner')
    const target = cx.zones.target(record)
    if (target !== NONE) look(target, record, rowOf(cx.zones.type(record))!.target!)
  })
}

export const isALabel = (label: string): boolean => /^xn--/i.test(label)
