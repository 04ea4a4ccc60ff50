export interface Splice {
  /** The source that it belongs to; 0 is the zone's own file. */
  source: number
  from: number
  to: number
  text: string
}

/** Splices in the order of their places: what is put in at one comes before what is replaced there. */
const inOrder = <T extends { from: number; to: number }>(splices: readonly T[]): T[] =>
  [...splices].sort((a, b) => a.from - b.from || a.to - b.to)

/** Puts splices into octets. They must not overlap; those at one place go in their order. */
export function applySplices(octets: Uint8Array, splices: readonly Omit<Splice, 'source'>[]): Uint8Array {
  const encoder = new TextEncoder()
  const parts: Uint8Array[] = []
  let at = 0
  for (const splice of inOrder(splices)) {
    parts.push(octets.subarray(at, splice.from), encoder.encode(splice.text))
    at = splice.to
  }
  parts.push(octets.subarray(at))
  const result = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0))
  let to = 0
  for (const part of parts) {
    result.set(part, to)
    to += part.length
  }
  return result
}

/** Where an octet of the file stands after the splices: whole lines put in before it move it, a change at its own beginning does not. */
export function mover(splices: Splice[]): (at: number) => number {
  const encoder = new TextEncoder()
  const sorted = inOrder(splices).map(({ from, to, text: put }) => ({
    from,
    to,
    grows: encoder.encode(put).length - (to - from),
  }))
  return (at) => {
    let moved = at
    for (const { from, to, grows } of sorted) {
      if (from > at || (from === at && to > from)) break
      moved += grows
    }
    return moved
  }
}
