/** Making the texts of very many findings small. */
import { deflateRawSync, inflateRawSync } from 'node:zlib'
import type { Packing } from '../../core/rules/texts.ts'

export const PACKING: Packing = {
  pack: (text) => deflateRawSync(text, { level: 1 }),
  unpack: (octets) => inflateRawSync(octets).toString('utf8'),
}
