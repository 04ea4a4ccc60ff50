/** Messages signed with a shared key (TSIG, RFC 8945): requests, and the streams of responses to them. */
import { createHmac, timingSafeEqual } from 'node:crypto'
import { nameToWire } from '../names/name.ts'
import { OctetSink, u16At, u32At } from '../names/octets.ts'
import { CLASS_ANY } from '../records/types.ts'
import { ALGORITHMS, type Key } from './key.ts'

const TSIG = 250
/** How far the two clocks may differ, in seconds (RFC 8945 §10 recommends this). */
const FUDGE = 300
/** So many messages of a response may come unsigned in between (RFC 8945 §5.3.1). */
const UNSIGNED = 99

const ERRORS: Record<number, string> = { 16: 'BADSIG', 17: 'BADKEY', 18: 'BADTIME', 22: 'BADTRUNC' }

/** What is wrong with a signature: the TSIG error by its name where the server says it, and a sentence for people. */
export interface SignatureTrouble {
  error: string
  says: string
  /** For BADTIME: by how many seconds the server’s clock is ahead of this one. */
  skew?: number
}

/** The TSIG record of a message, and where it begins. */
interface Signature {
  start: number
  /** Seconds since 1970. */
  time: number
  fudge: number
  mac: Uint8Array
  originalId: number
  error: number
  other: Uint8Array
}

/** Signs a message that ends without a TSIG record. `now` is in seconds since 1970. Returns its octets with one, and the MAC that the response builds on. */
export function signed(octets: Uint8Array, key: Key, now: number): { octets: Uint8Array; mac: Uint8Array } {
  const mac = macOf(key, [octets, variables(key, { time: now, fudge: FUDGE, error: 0, other: new Uint8Array() })])
  const out = new OctetSink(octets.length + 128)
  out.put(octets)
  out.put(nameToWire(key.name) as Uint8Array)
  out.u16(TSIG)
  out.u16(CLASS_ANY)
  out.u32(0)
  const algorithm = algorithmWire(key)
  out.u16(algorithm.length + 16 + mac.length)
  out.put(algorithm)
  putTimers(out, now, FUDGE)
  out.u16(mac.length)
  out.put(mac)
  out.u16(u16At(octets, 0))
  out.u16(0)
  out.u16(0)
  const whole = out.taken()
  setAdditional(whole, u16At(octets, 10) + 1)
  return { octets: whole, mac }
}

/** Verifies the messages that answer one signed request, in order: each is covered by a signature, its own or the next one’s. */
export class SignedResponse {
  private readonly key: Key
  private before: Uint8Array
  private first = true
  /** Messages since the last signature. */
  private unsigned: Uint8Array[] = []

  constructor(key: Key, requestMac: Uint8Array) {
    this.key = key
    this.before = requestMac
  }

  /** Whether all messages so far are verified. */
  get whole(): boolean {
    return !this.first && this.unsigned.length === 0
  }

  /** Takes the next message; says what is wrong with its signature. */
  take(octets: Uint8Array, now: number): SignatureTrouble | undefined {
    const signature = signatureOf(octets)
    if (!signature) {
      if (this.first) return { error: 'unsigned', says: 'the reply is not signed, although the query was' }
      // Copied: the octets are those of a buffer that goes on being filled.
      if (this.unsigned.push(octets.slice()) > UNSIGNED)
        return { error: 'unsigned', says: `more than ${UNSIGNED} messages in a row are not signed` }
      return undefined
    }
    const trouble = this.saidBy(signature, now)
    if (trouble && signature.mac.length === 0) return trouble
    if (!this.isRight(octets, signature))
      return {
        error: 'BADSIG',
        says: `the signature of message ${this.first ? 'one' : 'a later one'} does not match its content: it was changed on the way, or another secret is in use`,
      }
    this.before = signature.mac
    this.first = false
    this.unsigned = []
    return trouble ?? this.timeTrouble(signature, now)
  }

  private isRight(octets: Uint8Array, signature: Signature): boolean {
    const { key } = this
    const bare = octets.slice(0, signature.start)
    setAdditional(bare, u16At(octets, 10) - 1)
    bare[0] = signature.originalId >> 8
    bare[1] = signature.originalId & 0xff
    const { time, fudge } = signature
    const timers = new OctetSink(8)
    putTimers(timers, time, fudge)
    const mac = macOf(key, [
      lengthAnd(this.before),
      ...this.unsigned,
      bare,
      this.first ? variables(key, signature) : timers.taken(),
    ])
    // Servers may cut a MAC down to half of it (RFC 8945 §5.2.2.1).
    const { length } = signature.mac
    return (
      length >= Math.max(10, mac.length / 2) &&
      length <= mac.length &&
      timingSafeEqual(mac.subarray(0, length), signature.mac)
    )
  }

  /** What the server says that is wrong with the request’s signature. */
  private saidBy({ error, other }: Signature, now: number): SignatureTrouble | undefined {
    const { key } = this
    const name = ERRORS[error]
    if (name === 'BADKEY')
      return {
        error: name,
        says: `the server does not know the key ${key.name} with ${key.algorithm} (BADKEY): its name or algorithm is another one there`,
      }
    if (name === 'BADSIG')
      return { error: name, says: `the server has another secret for the key ${key.name} (BADSIG)` }
    if (name === 'BADTIME') {
      const skew = other.length === 6 ? u16At(other, 0) * 2 ** 32 + u32At(other, 2) - now : undefined
      return {
        error: name,
        says: `the clocks differ too much for a signature (BADTIME)${skew === undefined ? '' : `: the server’s is ${skewText(skew)}`}`,
        ...(skew === undefined ? {} : { skew }),
      }
    }
    if (error !== 0)
      return {
        error: name ?? `error ${error}`,
        says: `the server refused the signature (${name ?? `TSIG error ${error}`})`,
      }
    return undefined
  }

  private timeTrouble({ time, fudge }: Signature, now: number): SignatureTrouble | undefined {
    const skew = time - now
    if (Math.abs(skew) <= fudge) return undefined
    return {
      error: 'BADTIME',
      says: `the clocks differ too much for a signature (BADTIME): the server’s is ${skewText(skew)}`,
      skew,
    }
  }
}

const skewText = (seconds: number): string =>
  `${Math.abs(Math.round(seconds))} seconds ${seconds > 0 ? 'ahead of' : 'behind'} this one`

/** Where the name at `at` ends, which may end in a pointer; behind the end where it runs past that. */
function nameEnd(octets: Uint8Array, at: number): number {
  let end = at
  while (end < octets.length) {
    const length = octets[end]!
    if (length === 0) return end + 1
    if (length >= 0xc0) return end + 2
    end += length + 1
  }
  return octets.length + 1
}

/** The TSIG record of a message, which is its last; undefined where it has none, or cannot be walked through. */
function signatureOf(octets: Uint8Array): Signature | undefined {
  if (octets.length < 12 || u16At(octets, 10) === 0) return undefined
  let at = 12
  for (let i = u16At(octets, 4); i > 0 && at < octets.length; i--) at = nameEnd(octets, at) + 4
  let start = at
  for (let i = u16At(octets, 6) + u16At(octets, 8) + u16At(octets, 10); i > 1 && at < octets.length; i--) {
    at = nameEnd(octets, at)
    at += 10 + u16At(octets, at + 8)
    start = at
  }
  at = nameEnd(octets, at)
  if (at + 10 > octets.length || u16At(octets, at) !== TSIG) return undefined
  const end = at + 10 + u16At(octets, at + 8)
  const fields = nameEnd(octets, at + 10)
  if (end !== octets.length || fields + 16 > end) return undefined
  const behind = fields + 10 + u16At(octets, fields + 8)
  if (behind + 6 > end || behind + 6 + u16At(octets, behind + 4) !== end) return undefined
  return {
    start,
    time: u16At(octets, fields) * 2 ** 32 + u32At(octets, fields + 2),
    fudge: u16At(octets, fields + 6),
    mac: octets.slice(fields + 10, behind),
    originalId: u16At(octets, behind),
    error: u16At(octets, behind + 2),
    other: octets.slice(behind + 6, end),
  }
}

const algorithmWire = ({ algorithm }: Key): Uint8Array => nameToWire(`${algorithm}.`) as Uint8Array

function putTimers(out: OctetSink, time: number, fudge: number): void {
  out.u16(Math.floor(time / 2 ** 32))
  out.u32(time >>> 0)
  out.u16(fudge)
}

/** What is digested beside the message (RFC 8945 §4.3.3). */
function variables(
  key: Key,
  { time, fudge, error, other }: Pick<Signature, 'time' | 'fudge' | 'error' | 'other'>,
): Uint8Array {
  const out = new OctetSink(128)
  out.put(nameToWire(key.name) as Uint8Array)
  out.u16(CLASS_ANY)
  out.u32(0)
  out.put(algorithmWire(key))
  putTimers(out, time, fudge)
  out.u16(error)
  out.u16(other.length)
  out.put(other)
  return out.taken()
}

function lengthAnd(mac: Uint8Array): Uint8Array {
  const out = new OctetSink(2 + mac.length)
  out.u16(mac.length)
  out.put(mac)
  return out.taken()
}

function macOf({ algorithm, secret }: Key, parts: readonly Uint8Array[]): Uint8Array {
  const hmac = createHmac(ALGORITHMS[algorithm], secret)
  for (const part of parts) hmac.update(part)
  return new Uint8Array(hmac.digest())
}

function setAdditional(octets: Uint8Array, count: number): void {
  octets[10] = count >> 8
  octets[11] = count & 0xff
}
