/** Which certificates and keys are right: TLSA, CAA, and digests wherever they stand. */
export const TLSA = `3 1 1 ${'AB'.repeat(32)}`
