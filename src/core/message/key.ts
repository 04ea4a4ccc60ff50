/** Keys that a server and its clients share, to sign messages with (RFC 8945), and the files they are kept in. */
import { foldName, type Name, toName } from '../names/name.ts'
import { isRefused, type Result } from '../result.ts'

/** Algorithms that a key may have, and Node’s names of their digests (RFC 8945 §6). */
export const ALGORITHMS = {
  'hmac-sha256': 'sha256',
  'hmac-sha384': 'sha384',
  'hmac-sha512': 'sha512',
  // Not recommended any more (RFC 8945 §6), and still in use.
  'hmac-sha1': 'sha1',
} as const
export type Algorithm = keyof typeof ALGORITHMS

export interface Key {
  /** Lower case, absolute. */
  name: Name
  algorithm: Algorithm
  secret: Uint8Array
}

const FORMS =
  'expected a clause key "NAME" { algorithm hmac-sha256; secret "BASE64"; }; or a line NAME ALGORITHM BASE64, or ALGORITHM:NAME:BASE64'

/** Reads the text of a key file, in one of three forms; comments (#, //, and those of C) are passed over. The secret stands in no message. */
export function parseKey(text: string): Result<Key> {
  const plain = text
    .replace(/\/\*[\s\S]*?(?:\*\/|$)/g, ' ')
    .split('\n')
    .map((line) => line.replace(/(^|\s)(#|\/\/)[\s\S]*$/, ''))
    .join('\n')
    .trim()
  const clause = /^key\s+("?)([^\s"{};]+)\1\s*\{([^{}]*)\}\s*;?$/i.exec(plain)
  if (clause) {
    const stated = (word: string): string | undefined =>
      new RegExp(`(?:^|[;\\s])${word}\\s+"?([^\\s";]+)"?\\s*;`, 'i').exec(clause[3]!)?.[1]
    return keyOf(clause[2]!, stated('algorithm'), stated('secret'))
  }
  const words = plain.split(/\s+/)
  if (words.length === 3) return keyOf(words[0]!, words[1], words[2])
  const parts = plain.split(':')
  if (parts.length === 3 && words.length === 1) return keyOf(parts[1]!, parts[0], parts[2])
  return { refused: plain === '' ? `it is empty (${FORMS})` : `it holds no single key (${FORMS})` }
}

function keyOf(stated: string, algorithm = '', secret = ''): Result<Key> {
  const name = toName(stated.endsWith('.') ? stated : `${stated}.`)
  if (name === undefined) return { refused: `its key name ${stated} is not a valid domain name` }
  const known = algorithmOf(algorithm)
  if (isRefused(known)) return known
  if (!/^[A-Za-z0-9+/]+={0,2}$/.test(secret) || secret.replace(/={1,2}$/, '').length % 4 === 1)
    return { refused: `the secret of its key ${stated} is not base64` }
  return { name: foldName(name), algorithm: known, secret: new Uint8Array(Buffer.from(secret, 'base64')) }
}

function algorithmOf(stated: string): Result<Algorithm> {
  const word = stated.toLowerCase().replace(/\.$/, '')
  if (word in ALGORITHMS) return word as Algorithm
  return {
    refused: `${stated === '' ? 'it states no algorithm' : `its algorithm ${stated} is not supported`} (expected ${Object.keys(ALGORITHMS).join(', ')})`,
  }
}
