/**
 * Whether a record that was read is certain: its type, name and value exclude other readings, and no token of what states it is left over. What is not certain is asked,
 * and never written by itself.
 */
import { foldName, isAtOrBelow, type Name } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import { bearingTokens } from './accounting.ts'
import { type Candidate, isEmpty } from './candidate.ts'
import { roleOf } from './labels.ts'
import type { Parts } from './parts.ts'
import type { Row } from './record.ts'
import { addressIn, hostIn, isNumber, typeIn } from './values.ts'

/** What ends before its end. */
const CUT = /(?:…|\.{3})["'`)]{0,3}$/

/** Why a record is not certain, in words; undefined where it is. */
export function doubtOf(row: Row, parts: Parts, candidate: Candidate, zone: Name): string | undefined {
  if (candidate.doubt !== undefined) return candidate.doubt
  if (CUT.test(parts.value.trim()) || CUT.test((parts.owner ?? '').trim()))
    return 'it ends in an ellipsis: part of it is missing'
  const owner = parts.owner ?? ''
  // No alias can be there (RFC 1034 §3.6.2).
  if (row.type === TYPE.CNAME && row.owner === zone && isEmpty(owner)) return 'its name is missing'
  if (typeIn(owner) !== undefined && owner === owner.toUpperCase() && /[A-Z]{2}/.test(owner))
    return `“${owner}” is a type, and may be no name`
  const texts = candidate.cells.map(({ text }) => text)
  const before = texts[texts.indexOf(owner) - 1] ?? ''
  if (candidate.words && row.type === TYPE.MX && row.owner !== zone && isNumber(before))
    return `${before} stands before “${parts.owner}”, which may be a second mail exchanger`
  if (row.type === TYPE.CAA && !/\s"(?:;|[^"|\s][^"|]*)"$/.test(row.value)) return 'its value is empty'
  const carried = candidate.cells.find((cell) => cell.role === 'type')?.carried
  if (carried !== undefined && (carried === 'unsure' || row.odd !== undefined))
    return 'its type is not stated, and may be another than that of the row above'
  const several = candidate.cells.find((cell) => cell.several && cell.role !== undefined && !isNumbered(row.type))
  if (several !== undefined) return `“${several.text.slice(0, 60)}” stands below one heading, and may be several cells`
  if (row.type === TYPE.SRV && !/^_[^.]+\._/.test(row.owner))
    return 'its name does not begin with a service and a protocol'
  if (row.type !== TYPE.SRV && /\d/.test(parts.others.port ?? '')) return 'a port is stated, and its type has none'
  if (row.kind === 'spf' && row.odd !== undefined) return row.odd
  const text = row.type === TYPE.TXT ? joined(row.data) : undefined
  if (text !== undefined && /^\d{1,5}(?: \d{1,5}){0,2} \w[\w-]{0,62}\.[\w.-]{1,190}$/.test(text))
    return `“${text}” is what an MX or SRV record has, and no text`
  if (text !== undefined && /^(?:\d{1,7}|[-–—. ]+)$/.test(text)) return `“${text}” is a number, and may be a TTL`
  if (text !== undefined && (roleOf(text) !== undefined || typeIn(text) !== undefined))
    return `“${text}” is what labels are called, and may be none of the record`
  const rest = leftOf(row, parts, candidate, zone)
  return rest === undefined ? undefined : `“${rest}” stands beside it, and is none of its parts`
}

/** The first token of what states a record that is none of its parts, and may be one. */
function leftOf(
  row: Row,
  { type, owner, value, others }: Parts,
  { cells, told, names = [] }: Candidate,
  zone: Name,
): string | undefined {
  const own = [owner ?? '', value, ...names]
  const used = [...own, ...Object.values(others)].map(plain)
  const isUsed = (token: string): boolean => {
    const bare = plain(token)
    const name = hostIn(token)?.name
    // The same name once more, in full or without the zone’s.
    const isOwner = name !== undefined && isAtOrBelow(row.owner, foldName(`${name.replace(/\.$/, '')}.`))
    return bare === '' || used.some((each) => each.includes(bare)) || typeIn(token) === type || isOwner
  }
  const beside = told !== undefined ? [told] : cells.filter(({ role }) => role === undefined).map(({ text }) => text)
  if (beside.some((text) => /(?:^|\s)@(?=\s|$)/.test(text)) && row.owner !== zone && !own.includes('@')) return '@'
  for (const text of beside) for (const token of bearingTokens(text)) if (!isUsed(token) && isPart(token)) return token
  return undefined
}

/** Types whose values begin with numbers. */
const isNumbered = (type: number): boolean =>
  type === TYPE.MX || type === TYPE.SRV || type === TYPE.CAA || type === TYPE.TLSA

const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9_:/+=\u0080-\uffff]/g, '')
const isPart = (token: string): boolean =>
  addressIn(token) !== undefined || hostIn(token) !== undefined || /^["']/.test(token)
