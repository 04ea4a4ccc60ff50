import { FOLD } from '../names/octets.ts'
import { rowOf, typeRows } from './types.ts'

/** The types by what their mnemonics hash to, so that most are recognised without a text being made; of several with one hash, the last. */
const TYPE_SLOTS = new Uint16Array(1024)
function mnemonicHash(octets: Uint8Array, start: number, end: number): number {
  let hash = end - start
  for (let i = start; i < end; i++) hash = (Math.imul(hash, 37) + (octets[i]! & 0xdf)) | 0
  return hash & (TYPE_SLOTS.length - 1)
}
for (const row of typeRows()) {
  const octets = new TextEncoder().encode(row.mnemonic)
  TYPE_SLOTS[mnemonicHash(octets, 0, octets.length)] = row.type
}

/** The type that a mnemonic in `octets` from `start` to `end` stands for, where it is found at once; else undefined: `parseType` knows all of them. */
export function quickType(octets: Uint8Array, start: number, end: number): number | undefined {
  const type = TYPE_SLOTS[mnemonicHash(octets, start, end)]!
  return type !== 0 && sameMnemonic(rowOf(type)!.mnemonic, octets, start, end) ? type : undefined
}

/** Whether octets are a mnemonic, in small or large letters. */
export function sameMnemonic(mnemonic: string, octets: Uint8Array, start: number, end: number): boolean {
  if (mnemonic.length !== end - start) return false
  for (let i = 0; i < mnemonic.length; i++) {
    const sign = mnemonic.charCodeAt(i)
    const octet = octets[start + i]!
    if (sign !== octet && FOLD[sign] !== FOLD[octet]) return false
  }
  return true
}
