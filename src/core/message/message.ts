/** DNS messages on the wire (RFC 1035 §4), with EDNS (RFC 6891) and truncation (RFC 2181 §9). */

import { type Name, sameFolded } from '../names/name.ts'
import { sameOctets, textOf, u16At } from '../names/octets.ts'
import type { Rdata } from '../records/rdata.ts'

/** The opcode of dynamic updates (RFC 2136 §1.3). */
export const UPDATE = 5

export interface Question {
  name: Name
  type: number
  class: number
}

export interface MessageRecord {
  owner: Name
  type: number
  class: number
  ttl: number
  data: Rdata
}

export interface Edns {
  /** Octets of the largest UDP answer that the sender takes. */
  size: number
  dnssecOk: boolean
  options: { code: number; data: Uint8Array }[]
}

export interface Message {
  id: number
  response: boolean
  opcode: number
  authoritative: boolean
  truncated: boolean
  recursionDesired: boolean
  recursionAvailable: boolean
  authenticData: boolean
  checkingDisabled: boolean
  /** With the upper bits that EDNS carries. */
  rcode: number
  questions: Question[]
  answers: MessageRecord[]
  authority: MessageRecord[]
  additional: MessageRecord[]
  edns?: Edns
}

/** The UDP size that is asked for and answered with: what fits into IPv6’s least packet of 1280 octets, below the 1400 that RFC 9715 §3.2 allows. */
export const UDP_SIZE = 1232

export const RCODE_TEXT: Record<number, string> = {
  0: 'NOERROR',
  1: 'FORMERR',
  2: 'SERVFAIL',
  3: 'NXDOMAIN',
  4: 'NOTIMP',
  5: 'REFUSED',
  6: 'YXDOMAIN',
  7: 'YXRRSET',
  8: 'NXRRSET',
  9: 'NOTAUTH',
  10: 'NOTZONE',
  16: 'BADVERS',
}
/** `NOERROR`, or `RCODE23` for one without a name. */
export const rcodeText = (rcode: number): string => RCODE_TEXT[rcode] ?? `RCODE${rcode}`

/** A message with everything empty and off. */
export function emptyMessage(id: number): Message {
  return {
    id,
    response: false,
    opcode: 0,
    authoritative: false,
    truncated: false,
    recursionDesired: false,
    recursionAvailable: false,
    authenticData: false,
    checkingDisabled: false,
    rcode: 0,
    questions: [],
    answers: [],
    authority: [],
    additional: [],
  }
}

/**
 * Whether octets are a response to a question (made by `queryOctets`): id, opcode, and the question repeated, letters’ case set aside.
 * A refusal to read the question need not repeat it.
 */
export function answersQuestion(response: Uint8Array, query: Uint8Array): boolean {
  if (response.length < 12 || response[0] !== query[0] || response[1] !== query[1]) return false
  if ((response[2]! & 0x80) === 0 || (response[2]! & 0x78) !== 0) return false
  const questions = u16At(response, 4)
  if (questions === 0) return (response[3]! & 0x0f) !== 0
  // The root's zero, type and class end the question.
  let end = 12
  while (query[end] !== 0) end += query[end]! + 1
  end += 5
  return (
    questions === 1 &&
    response.length >= end &&
    sameFolded(response, 12, query, 12, end - 16) &&
    sameOctets(response.subarray(end - 4, end), query.subarray(end - 4, end))
  )
}

/** The extended errors of an answer (RFC 8914): code and text. */
/** Extended errors of an answer that was made up by policy: forged, blocked, censored, filtered, prohibited (RFC 8914 §4.5, §4.16–4.19). */
export const POLICY_ERRORS = [4, 15, 16, 17, 18]

export function extendedErrors(message: Message): { code: number; text: string }[] {
  return (message.edns?.options ?? [])
    .filter(({ code, data }) => code === 15 && data.length >= 2)
    .map(({ data }) => ({ code: u16At(data, 0), text: textOf(data.subarray(2)).replace(/\0$/, '') }))
}
