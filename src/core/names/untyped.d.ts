declare module 'punycode.js' {
  const punycode: {
    /** Punycode text (without `xn--`) of a label, and back (RFC 3492); `decode` throws a RangeError where that is malformed. */
    encode(label: string): string
    decode(text: string): string
  }
  export default punycode
}
