/**
 * Whether a record that was read is certain: its type, name and value exclude other readings, and no token of what states it is left over. What is not certain is asked,
 * and never written by itself.
 */
import { foldName, isAtOrBelow } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import { bearingTokens } from './accounting.ts'
import type { Candidate } from './candidate.ts'
import { roleOf } from './labels.ts'
import type { Parts } from './parts.ts'
import type { Row } from './record.ts'
import { addressIn, hostIn, typeIn } from './values.ts'

/** What ends before its end. */
const CUT = /(?:…|\.{3})["'`)]{0,3}$/

/** Why a record is not certain, in words; undefined where it is. */
export function doubtOf(row: Row, parts: Parts, candidate: Candidate): string | undefined {
  if (CUT.test(parts.value.trim()) || CUT.test((parts.owner ?? '').trim()))
    return 'it ends in an ellipsis: part of it is missing'
  if (row.type === TYPE.CAA && !/\s"(?:;|[^"|\s][^"|]*)"$/.test(row.value)) return 'its value is empty'
  const carried = candidate.cells.find((cell) => cell.role === 'type')?.carried
  if (carried !== undefined && (carried === 'unsure' || row.odd !== undefined))
    return 'its type is not stated, and may be another than that of the row above'
  if (row.type !== TYPE.SRV && /\d/.test(parts.others.port ?? '')) return 'a port is stated, and its type has none'
  if (row.kind === 'spf' && row.odd !== undefined) return row.odd
  const text = row.type === TYPE.TXT ? joined(row.data) : undefined
  if (text !== undefined && /^\d{1,5}(?: \d{1,5}){0,2} \w[\w-]{0,62}\.[\w.-]{1,190}$/.test(text))
    return `“${text}” is what an MX or SRV record has, and no text`
  if (text !== undefined && /^(?:\d{1,7}|[-–—. ]+)$/.test(text)) return `“${text}” is a number, and may be a TTL`
  if (text !== undefined && (roleOf(text) !== undefined || typeIn(text) !== undefined))
    return `“${text}” is what labels are called, and may be none of the record`
  const rest = leftOf(row, parts, candidate)
  return rest === undefined ? undefined : `“${rest}” stands beside it, and is none of its parts`
}

/** The first token of what states a record that is none of its parts, and may be one. */
function leftOf(row: Row, { type, owner, value, others }: Parts, { cells, told }: Candidate): string | undefined {
  const used = [owner ?? '', value, ...Object.values(others)].map(plain)
  const isUsed = (token: string): boolean => {
    const bare = plain(token)
    const name = hostIn(token)?.name
    // The same name once more, in full or without the zone’s.
    const isOwner = name !== undefined && isAtOrBelow(row.owner, foldName(`${name.replace(/\.$/, '')}.`))
    return bare === '' || used.some((each) => each.includes(bare)) || typeIn(token) === type || isOwner
  }
  const beside = told !== undefined ? [told] : cells.filter(({ role }) => role === undefined).map(({ text }) => text)
  for (const text of beside) for (const token of bearingTokens(text)) if (!isUsed(token) && isPart(token)) return token
  return undefined
}

const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9_:/+=\u0080-\uffff]/g, '')
const isPart = (token: string): boolean =>
  addressIn(token) !== undefined || hostIn(token) !== undefined || /^["']/.test(token)
