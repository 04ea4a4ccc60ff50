/** Address prefixes of an APL record. */
import { addressText, parseAddress } from '../../names/address.ts'
import { u16At } from '../../names/octets.ts'
import type { FieldKind } from '../fields.ts'

/** Address prefixes (RFC 3123 §5): `1:192.0.2.0/24`, `!2:2001:db8::/32`, to the end of the record. */
export const prefixes: FieldKind = {
  read(cursor, out) {
    for (; cursor.at < cursor.count; cursor.at++) {
      const match = /^(!?)([12]):([0-9a-f:.]+)\/(\d{1,3})$/i.exec(cursor.word(cursor.at))
      const address = match && parseAddress(match[3]!)
      const family = Number(match?.[2])
      if (!match || !address || address.length !== (family === 1 ? 4 : 16) || Number(match[4]) > address.length * 8)
        return cursor.fail('bad-value', cursor.at, 'not an address prefix', 'as in 1:192.0.2.0/24 or !2:2001:db8::/32')
      let length = address.length
      while (length > 0 && address[length - 1] === 0) length--
      out.u16(family)
      out.u8(Number(match[4]))
      out.u8(length | (match[1] ? 0x80 : 0))
      out.put(address, 0, length)
    }
    return true
  },
  text(wire, at, end) {
    const items: string[] = []
    for (let here = at; here < end; here += 4 + (wire[here + 3]! & 0x7f)) {
      const address = new Uint8Array(u16At(wire, here) === 1 ? 4 : 16)
      address.set(wire.subarray(here + 4, here + 4 + (wire[here + 3]! & 0x7f)))
      items.push(`${wire[here + 3]! & 0x80 ? '!' : ''}${u16At(wire, here)}:${addressText(address)}/${wire[here + 2]}`)
    }
    return items.join(' ')
  },
  end(wire, at, limit) {
    let here = at
    while (here < limit) {
      if (here + 4 > limit) return -1
      const family = u16At(wire, here)
      const length = wire[here + 3]! & 0x7f
      if (
        (family !== 1 && family !== 2) ||
        length > (family === 1 ? 4 : 16) ||
        wire[here + 2]! > (family === 1 ? 32 : 128) ||
        here + 4 + length > limit
      )
        return -1
      here += 4 + length
    }
    return here
  },
}
