/** Lines and columns from octets. Columns count characters, from one. */
import { textOf } from '../names/octets.ts'

/** Octets between places whose line is remembered. */
const STEP = 4096

/** The line (from one) and column (from one, in characters) of an octet. The first place costs the length of the text before it, those after it next to nothing. */
export class LineIndex {
  private readonly octets: Uint8Array
  /** How many line ends there are before each multiple of STEP, as far as was asked for. */
  private readonly counts: number[] = [0]
  constructor(octets: Uint8Array) {
    this.octets = octets
  }

  private lineEnds(from: number, to: number): number {
    const { octets } = this
    let count = 0
    let i = from
    // Four octets at a time where they lie on a border of four: those that are 0x0a have their highest bit set in `ends`.
    if (to - from === STEP && (octets.byteOffset & 3) === 0 && to <= octets.length) {
      const words = new Int32Array(octets.buffer, octets.byteOffset + from, STEP / 4)
      for (let k = 0; k < words.length; k++) {
        const other = words[k]! ^ 0x0a0a0a0a
        const ends = ~(((other & 0x7f7f7f7f) + 0x7f7f7f7f) | other | 0x7f7f7f7f)
        if (ends !== 0) count += Math.imul((ends >>> 7) & 0x01010101, 0x01010101) >>> 24
      }
      i = to
    }
    for (; i < to; i++) if (octets[i] === 0x0a) count++
    return count
  }

  place(octet: number): { line: number; column: number } {
    const { counts } = this
    const step = Math.floor(octet / STEP)
    while (counts.length <= step)
      counts.push(counts[counts.length - 1]! + this.lineEnds((counts.length - 1) * STEP, counts.length * STEP))
    const line = counts[step]! + this.lineEnds(step * STEP, octet)
    const start = this.lineStart(octet)
    // A line longer than this is no line that a person counts characters in.
    const column = octet - start > 100_000 ? octet - start : [...textOf(this.octets.subarray(start, octet))].length
    return { line: line + 1, column: column + 1 }
  }

  private lineStart(octet: number): number {
    return octet === 0 ? 0 : this.octets.lastIndexOf(0x0a, octet - 1) + 1
  }

  /** The text of the line that an octet is on, without its newline, cut after 2000 octets. */
  lineText(octet: number): string {
    const start = this.lineStart(octet)
    const newline = this.octets.indexOf(0x0a, octet)
    const end = newline < 0 ? this.octets.length : newline
    return textOf(this.octets.subarray(start, Math.min(end, start + 2000))).replace(/\r$/, '')
  }
}
