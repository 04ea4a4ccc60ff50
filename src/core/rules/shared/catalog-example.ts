/** Examples of catalog zones. */
import type { Example } from '../rule.ts'

/** A catalog zone with these lines (RFC 9432 §4.1). */
export const catalogZone = (lines: string): Example => ({
  whole: true,
  zones: {
    'catalog.upland-dns.example': `$TTL 60\n@ SOA invalid. invalid. 1 3600 600 2147483646 0\n@ NS invalid.\n${lines}`,
  },
})
