/** Places on the earth, and addresses of another network. */
import { u32At } from '../../names/octets.ts'
import { hexText, parseHex } from '../encodings.ts'
import type { FieldKind } from '../fields.ts'
import { wordAt } from './octets.ts'

/** `0x47.0005.80…`: an NSAP address (RFC 1706 §5); dots say nothing. */
export const nsapAddress: FieldKind = {
  read(cursor, out, label) {
    const token = cursor.take(label)
    if (token < 0) return false
    const word = wordAt(cursor, token)
    const octets = /^0x[0-9a-f.]+$/i.test(word) ? parseHex(word.slice(2).replaceAll('.', '')) : undefined
    if (!octets?.length)
      return cursor.fail('bad-value', token, `not ${label}`, '0x and hexadecimal digits, two for each octet')
    out.put(octets)
    return true
  },
  text: (wire, at, end) => `0x${hexText(wire.subarray(at, end))}`,
  end: (_wire, at, limit) => (limit > at ? limit : -1),
}

/** A size or precision in meters as RFC 1876 §2 packs it: a digit and a power of ten, of centimeters. */
function packMetres(meters: number): number {
  let centimeters = Math.round(meters * 100)
  let power = 0
  while (centimeters >= 10 && power < 9) {
    centimeters = Math.floor(centimeters / 10)
    power++
  }
  return (centimeters << 4) | power
}

function metersText(packed: number): string {
  const centimeters = (packed >> 4) * 10 ** (packed & 15)
  return `${centimeters % 100 === 0 ? centimeters / 100 : (centimeters / 100).toFixed(2)}m`
}

const EQUATOR = 2 ** 31
const LEAST_ALTITUDE = 10_000_000

/** A place on the earth (RFC 1876 §3): `51 30 12.748 N 0 7 39.612 W 0.00m 10m 100m 10m`. */
export const place: FieldKind = {
  read(cursor, out) {
    const angle = (positive: string, negative: string, most: number): number | undefined => {
      const numbers: number[] = []
      for (; cursor.at < cursor.count; cursor.at++) {
        const word = cursor.word(cursor.at)
        if (word === positive || word === negative) {
          const [degrees = -1, minutes = 0, seconds = 0] = numbers
          const value = Math.round(((degrees * 60 + minutes) * 60 + seconds) * 1000)
          if (degrees < 0 || minutes > 59 || seconds >= 60 || value > most * 3_600_000) break
          cursor.at++
          return EQUATOR + (word === positive ? value : -value)
        }
        if (numbers.length === 3 || !(numbers.length === 2 ? /^0*\d{1,2}(\.\d{1,3})?$/ : /^0*\d{1,3}$/).test(word))
          break
        numbers.push(Number(word))
      }
      cursor.fail(
        'bad-value',
        Math.min(cursor.at, cursor.count),
        `not a ${positive === 'N' ? 'latitude' : 'longitude'}`,
        `degrees, minutes, seconds, then ${positive} or ${negative}, as in 51 30 12.748 ${positive}`,
      )
      return undefined
    }
    const latitude = angle('N', 'S', 90)
    const longitude = latitude === undefined ? undefined : angle('E', 'W', 180)
    if (longitude === undefined) return false
    const meters: number[] = []
    for (; cursor.at < cursor.count && meters.length < 4; cursor.at++) {
      const match = /^(-?\d{1,8}(?:\.\d{1,2})?)m?$/.exec(cursor.word(cursor.at))
      const value = Number(match?.[1])
      // The altitude, then sizes (RFC 1876 §2).
      const fits = meters.length === 0 ? value >= -100_000 && value <= 42_849_672.95 : value >= 0 && value <= 90_000_000
      if (!match || !fits)
        return cursor.fail(
          'bad-value',
          cursor.at,
          'not a number of meters',
          'meters, with at most two decimals, as in 10m; an altitude up to 42849672.95m, a size up to 90000000m',
        )
      meters.push(value)
    }
    if (meters.length === 0) return cursor.take('the altitude') >= 0
    const [altitude = 0, size = 1, horizontal = 10_000, vertical = 10] = meters
    for (const each of [0, packMetres(size), packMetres(horizontal), packMetres(vertical)]) out.u8(each)
    out.u32(latitude!)
    out.u32(longitude)
    out.u32(Math.round(altitude * 100) + LEAST_ALTITUDE)
    return true
  },
  text(wire, at) {
    const angle = (value: number, positive: string, negative: string): string => {
      const thousandths = Math.abs(value - EQUATOR)
      return `${Math.floor(thousandths / 3_600_000)} ${Math.floor(thousandths / 60_000) % 60} ${((thousandths % 60_000) / 1000).toFixed(3)} ${value >= EQUATOR ? positive : negative}`
    }
    const altitude = ((u32At(wire, at + 12) - LEAST_ALTITUDE) / 100).toFixed(2)
    return [
      angle(u32At(wire, at + 4), 'N', 'S'),
      angle(u32At(wire, at + 8), 'E', 'W'),
      `${altitude}m`,
      ...[1, 2, 3].map((i) => metersText(wire[at + i]!)),
    ].join(' ')
  },
  end: (wire, at, limit) => (at + 16 <= limit && wire[at] === 0 ? at + 16 : -1),
}
