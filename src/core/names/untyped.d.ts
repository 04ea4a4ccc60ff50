declare module 'punycode.js' {
  const punycode: {
    /** Punycode text (without `xn--`) of a label, and back (RFC 3492); `decode` throws a RangeError where that is malformed. */
    encode(label: string): string
    decode(text: string): string
  }
  export default punycode
}

/** Expressions made of Unicode's data, for the rules of RFC 5892 (appendix A) and RFC 5893 (§2). */
declare module 'tr46/lib/regexes.js' {
  const regexes: Record<
    | 'combiningClassVirama'
    | 'validZWNJ'
    | 'bidiDomain'
    | 'bidiS1LTR'
    | 'bidiS1RTL'
    | 'bidiS2'
    | 'bidiS3'
    | 'bidiS4EN'
    | 'bidiS4AN'
    | 'bidiS5'
    | 'bidiS6',
    RegExp
  >
  export default regexes
}
