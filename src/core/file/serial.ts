/** SOA serials: their order (RFC 1982) and how they advance in the file's own style. */
import type { Zone, Zones } from '../model/zones.ts'
import { NONE } from '../names/tree.ts'
import { soa } from '../records/views.ts'

/** The serial of a zone; undefined without an SOA record. */
export const serialOf = (zones: Zones, zone: Zone): number | undefined =>
  zone.soa === NONE ? undefined : soa(zones.rdata(zone.soa)).serial

const HALF = 2 ** 31
const WHOLE = 2 ** 32

/** Whether serial `a` comes after `b` (RFC 1982 §3.2). Two serials exactly half the circle apart have no order: false both ways. */
export function serialAfter(a: number, b: number): boolean {
  return a !== b && ((a > b && a - b < HALF) || (a < b && b - a > HALF))
}

export type SerialStyle = 'date' | 'epoch' | 'counter'

/** How a serial is written: YYYYMMDDnn, seconds since 1970 (within five years of `now`), or a plain counter. */
export function serialStyle(serial: number, now: Date): SerialStyle {
  const text = String(serial)
  const year = Number(text.slice(0, 4))
  const month = Number(text.slice(4, 6))
  const day = Number(text.slice(6, 8))
  if (text.length === 10 && year >= 1980 && year <= 2100 && month >= 1 && month <= 12 && day >= 1 && day <= 31)
    return 'date'
  const years = 5 * 365 * 86_400
  return Math.abs(serial - now.getTime() / 1000) < years ? 'epoch' : 'counter'
}

/**
 * The serial after `serial` in its own style; `now` is the time in UTC. Never one that does not come after it: a date or a time that lies ahead is counted up by one.
 * Zero is passed over, since some software takes it for "none" (RFC 1982 §7 has serials wrap around).
 */
export function advanceSerial(serial: number, now: Date): number {
  const style = serialStyle(serial, now)
  const today = Number(now.toISOString().slice(0, 10).replaceAll('-', '')) * 100 + 1
  const wished = style === 'date' ? today : style === 'epoch' ? Math.floor(now.getTime() / 1000) : -1
  if (wished >= 0 && wished < WHOLE && serialAfter(wished, serial)) return wished
  const next = (serial + 1) % WHOLE
  return next === 0 ? 1 : next
}
