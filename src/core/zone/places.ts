/** Lines and columns from octets. Columns count characters, from one. */
import { textOf } from '../names/octets.ts'

/** The line (from one) and column (from one, in characters) of an octet. Costs the length of the text before it; many places want `LineIndex`. */
export class LineIndex {
  private readonly octets: Uint8Array
  private lineStarts: number[] | undefined
  constructor(octets: Uint8Array) {
    this.octets = octets
  }

  private index(): number[] {
    if (this.lineStarts) return this.lineStarts
    const starts = [0]
    for (let at = this.octets.indexOf(0x0a); at >= 0; at = this.octets.indexOf(0x0a, at + 1)) starts.push(at + 1)
    this.lineStarts = starts
    return starts
  }

  private lineAt(octet: number): number {
    const starts = this.index()
    let low = 0
    let high = starts.length - 1
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (starts[middle] <= octet) low = middle
      else high = middle - 1
    }
    return low
  }

  place(octet: number): { line: number; column: number } {
    const line = this.lineAt(octet)
    const start = this.index()[line]
    // A line longer than this is no line that a person counts characters in.
    const column = octet - start > 100_000 ? octet - start : [...textOf(this.octets.subarray(start, octet))].length
    return { line: line + 1, column: column + 1 }
  }

  /** The text of the line that an octet is on, without its newline, cut after 2000 octets. */
  lineText(octet: number): string {
    const starts = this.index()
    const line = this.lineAt(octet)
    const end = line + 1 < starts.length ? starts[line + 1] - 1 : this.octets.length
    return textOf(this.octets.subarray(starts[line], Math.min(end, starts[line] + 2000))).replace(/\r$/, '')
  }
}
