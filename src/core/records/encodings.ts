/** Octets as the text encodings that record data uses: hexadecimal, base64 (RFC 4648 §4) and base32 with the extended hexadecimal alphabet (RFC 4648 §7). */

/** Two small hexadecimal digits an octet. */
export function hexText(octets: Uint8Array): string {
  let text = ''
  for (const octet of octets) text += (octet >> 4).toString(16) + (octet & 15).toString(16)
  return text
}

/** The octets of hexadecimal text, or undefined where it is none. */
export function parseHex(text: string): Uint8Array | undefined {
  if (text.length % 2 !== 0 || !/^[0-9a-f]*$/i.test(text)) return undefined
  return Uint8Array.from({ length: text.length / 2 }, (_, i) => Number.parseInt(text.slice(2 * i, 2 * i + 2), 16))
}

const BASE64 = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
const BASE32 = '0123456789ABCDEFGHIJKLMNOPQRSTUV'

/** Text of `bits` bits a sign, without padding. */
function encode(octets: Uint8Array, alphabet: string, bits: number): string {
  let text = ''
  let held = 0
  let value = 0
  for (const octet of octets) {
    value = ((value << 8) | octet) & 0xffff
    held += 8
    while (held >= bits) {
      held -= bits
      text += alphabet[(value >> held) & ((1 << bits) - 1)]
    }
  }
  return held > 0 ? text + alphabet[(value << (bits - held)) & ((1 << bits) - 1)] : text
}

/** The octets, or undefined for a sign outside the alphabet, a length that none has, or bits left over that are not zero. */
function decode(text: string, alphabet: string, bits: number): Uint8Array | undefined {
  const octets = new Uint8Array(Math.floor((text.length * bits) / 8))
  let held = 0
  let value = 0
  let at = 0
  for (const sign of text) {
    const digit = alphabet.indexOf(sign)
    if (digit < 0) return undefined
    value = ((value << bits) | digit) & 0xffff
    held += bits
    if (held >= 8) {
      held -= 8
      octets[at++] = (value >> held) & 0xff
    }
  }
  return held >= bits || (value & ((1 << held) - 1)) !== 0 ? undefined : octets
}

/** Base64 with padding. */
export const base64Text = (octets: Uint8Array): string => encode(octets, BASE64, 6) + ['', '==', '='][octets.length % 3]

/** The octets of base64 text with its padding, or undefined where it is none. */
export function parseBase64(text: string): Uint8Array | undefined {
  return text.length % 4 === 0 && /^[^=]*={0,2}$/.test(text)
    ? decode(text.replace(/={1,2}$/, ''), BASE64, 6)
    : undefined
}

/** Base32 with the extended hexadecimal alphabet, without padding, in small letters. */
export const base32Text = (octets: Uint8Array): string => encode(octets, BASE32, 5).toLowerCase()

/** The octets of such a text, any case, or undefined where it is none. */
export const parseBase32 = (text: string): Uint8Array | undefined => decode(text.toUpperCase(), BASE32, 5)
