/** A way to put a question to a vantage and get a reply: what UDP, TCP, TLS and HTTPS have in common. */
import { randomFillSync } from 'node:crypto'
import { decodeMessage } from '../../core/message/decode.ts'
import { answersQuestion, type Message } from '../../core/message/message.ts'
import type { Name } from '../../core/names/name.ts'

/**
 * An answer; or why there is none, `garbled` where something came that cannot be read, `unusable` where it is no resolver that replied, `noRoute` where nothing could be sent
 * from here.
 */
export type Reply = { message: Message } | { failed: string; garbled?: boolean; unusable?: boolean; noRoute?: boolean }

/** A question: its octets, and the name in it. */
export interface Query {
  query: Uint8Array
  name: Name
}

export interface Way {
  /** Sends a question (its id is put in here) and waits so many milliseconds; always resolves. */
  send(query: Query, waitMs: number): Promise<Reply>
  /** Closes everything; questions under way get no answer any more. */
  close(): void
}

export const NOTHING: Reply = { failed: 'no reply' }
export const CLOSED: Reply = { failed: 'stopped' }
export const CUT_OFF: Reply = { failed: 'the connection was closed without an answer' }

const randoms = new Uint8Array(4096)
let used = randoms.length
/** Sixteen random bits, as an id must be (RFC 5452 §9.2). */
export function randomId(): number {
  if (used >= randoms.length) {
    randomFillSync(randoms)
    used = 0
  }
  used += 2
  return (randoms[used - 2]! << 8) | randoms[used - 1]!
}

export function setId({ query }: Query, id: number): void {
  query[0] = id >> 8
  query[1] = id & 0xff
}

/** What octets say in answer to a question; undefined where they are no answer to it. */
export function replyOf(octets: Uint8Array, query: Query): Reply | undefined {
  if (!answersQuestion(octets, query.query)) return undefined
  const message = decodeMessage(octets, query)
  return 'garbled' in message
    ? { failed: `the reply cannot be decoded: ${message.garbled}`, garbled: true }
    : { message }
}

/** A message as TCP carries it: its length in two octets in front (RFC 1035 §4.2.2). */
export function framed(octets: Uint8Array): Buffer {
  const frame = Buffer.alloc(octets.length + 2)
  frame.writeUInt16BE(octets.length, 0)
  frame.set(octets, 2)
  return frame
}

const NO_ROUTE = new Set(['ENETUNREACH', 'EHOSTUNREACH', 'EADDRNOTAVAIL', 'EAFNOSUPPORT'])
const CERTIFICATE: Record<string, string> = {
  ERR_TLS_CERT_ALTNAME_INVALID: 'its certificate is for another name',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'its certificate is self-signed and not trusted',
  SELF_SIGNED_CERT_IN_CHAIN: 'its certificate is not signed by a trusted authority',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'its certificate is not signed by a trusted authority',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'its certificate is not signed by a trusted authority',
  CERT_HAS_EXPIRED: 'its certificate has expired',
  CERT_NOT_YET_VALID: 'its certificate is not valid yet',
}

/** What the system says went wrong, in words. */
export function systemText(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException
  if (code === 'ECONNREFUSED') return 'the port is closed'
  if (code === 'ECONNRESET') return 'the connection was reset'
  if (code !== undefined && NO_ROUTE.has(code)) return 'there is no route from here'
  return (code && CERTIFICATE[code]) ?? code ?? String(message)
}

export function failure(error: unknown): Reply {
  return {
    failed: systemText(error),
    ...(NO_ROUTE.has((error as NodeJS.ErrnoException).code ?? '') ? { noRoute: true } : {}),
  }
}
