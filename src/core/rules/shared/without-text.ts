/** Keys that mail is signed with: what is wrong inside a key record, and where it stands. */

import { locate, MISSING, UNKNOWN } from '../../knowledge/answer.ts'
import type { RecordId } from '../../model/zones.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context } from '../rule.ts'

/** Reports an alias whose target is known and has no text. */
export function withoutText(cx: Context, record: RecordId, what: 'key' | 'policy'): void {
  const { zones } = cx
  // Where the target is an alias again, what it leads to is that alias’s matter.
  const node = locate(zones, zones.target(record))
  if (
    node === UNKNOWN ||
    (node !== MISSING && (zones.has(node, TYPE.TXT) || zones.hasCname(node) || zones.cut(node) !== NONE))
  )
    return
  const target = cx.name(zones.target(record))
  cx.report({
    record,
    part: 0,
    message: `${cx.name(zones.owner(record))} is a CNAME to ${target}, which ${node === MISSING ? 'does not exist' : 'has no TXT record'}`,
    effect:
      what === 'key'
        ? 'Verifiers find no key: signatures with this selector fail.'
        : 'Receivers find no policy: the domain is unprotected.',
    fix: [`write the ${what} at ${target}, or use another target`],
  })
}
