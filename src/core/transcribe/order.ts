/**
 * Which of two names is the owner, and which the one it leads to, where nothing beside them says it: only what one of them can be, or the order that the text keeps
 * elsewhere, tells.
 */
import { publicSuffixOf } from '../names/public-suffix.ts'
import { TYPE } from '../records/types.ts'
import type { Candidate } from './candidate.ts'
import type { Likely, Parts } from './parts.ts'
import { HOST_TYPES, type Row } from './record.ts'
import { hostIn, isNumber, isWhole, typeIn } from './values.ts'

/** In which order a row has its type, owner and value, and whether what they are shows it. */
export interface Order {
  form: string
  isShown: boolean
}

/** The order of a row; undefined where it leads to no name, or a label, an arrow or the words say which name is which. */
export function orderOf(row: Row, parts: Parts, candidate: Candidate, likely: Likely): Order | undefined {
  const { type, value, owner } = parts
  const { cells, told, origin, isLed } = candidate
  if (!leads(type) || owner === undefined || told !== undefined || origin !== undefined || isLed) return undefined
  if (cells.some(({ role }) => role === 'owner' || role === 'value' || role === 'service')) return undefined
  const texts = cells.map(({ text }) => text)
  const at = [texts.findIndex((text) => typeIn(text) === type), texts.indexOf(owner), texts.indexOf(hostOf(value))]
  const [typeAt, ownerAt, valueAt] = at as [number, number, number]
  // Its type stands between the two, as in zone files and tables.
  if (valueAt < 0 || ownerAt < 0 || (ownerAt < typeAt && typeAt < valueAt)) return undefined
  const form = `${Math.sign(ownerAt - typeAt)} ${Math.sign(valueAt - ownerAt)}`
  return { form, isShown: isOwnerShown(row, parts, likely) || isNumber(texts[valueAt - 1] ?? '') }
}

const hostOf = (value: string): string => value.trim().split(/\s+/).at(-1)!

/** Whether only one of the two can be the owner: the other leads out of the zone, or has no form of a host. */
function isOwnerShown({ owner: full, type }: Row, { owner = '', value }: Parts, likely: Likely): boolean {
  const [name, target] = [owner, hostOf(value)].map((text) => hostIn(text)?.name ?? '') as [string, string]
  if (/(?:^|\.)_/.test(full) || (owner === '@' && type !== TYPE.CNAME)) return true
  if (!isWhole(target) || likely(target) >= 3) return !isWhole(name) && isWhole(target)
  return likely(target) < 1 || likely(owner) >= 3 || !isWhole(name) || isRegistered(name) < isRegistered(target)
}

/** 1 where a name ends in what domains are registered under. */
const isRegistered = (name: string): number => (publicSuffixOf(name) === undefined ? 0 : 1)

/** Whether records of a type lead from one name to another that could be an owner, too. */
export const leads = (type: number): boolean => HOST_TYPES.has(type) || type === TYPE.MX
