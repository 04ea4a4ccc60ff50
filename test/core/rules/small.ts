/** Examples are small: what every domain with mail should have may be missing from them. */
export const MISSING = new Set(['spf/missing', 'dmarc/missing', 'dmarc/undefended'])

export const apart = <T extends { rule: string }>(findings: readonly T[]): T[] =>
  findings.filter(({ rule }) => !MISSING.has(rule))
