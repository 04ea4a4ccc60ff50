/** The octets of a byte-order mark. */
export const MARK = 3
export const beginsWithMark = (octets: Uint8Array): boolean =>
  octets[0] === 0xef && octets[1] === 0xbb && octets[2] === 0xbf
