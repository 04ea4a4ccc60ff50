/** The tag of a CAA record. */
import { latin1Of, octetsOf } from '../../names/octets.ts'
import type { FieldKind } from '../fields.ts'
import { wordAt } from './octets.ts'

/** A CAA property's tag: letters and digits behind a length octet (RFC 8659 §4.1). */
export const tag: FieldKind = {
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const word = wordAt(cursor, token)
    if (!/^[0-9a-z]{1,255}$/i.test(word))
      return cursor.fail('bad-value', token, `not ${label}`, 'letters and digits, as in issue')
    out.u8(word.length)
    out.put(octetsOf(word))
    return true
  },
  text: (wire, at, end) => latin1Of(wire, at + 1, end),
  end(wire, at, limit) {
    const end = at + 1 + wire[at]!
    return at < limit && wire[at]! > 0 && end <= limit && /^[0-9a-z]+$/i.test(latin1Of(wire, at + 1, end)) ? end : -1
  },
}
