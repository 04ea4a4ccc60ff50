/** Delegations: name servers, their addresses, and what parent and child say of one another. */
import type { Example } from '../rule.ts'

export const PARENT_CHILD = (inParent: string, inChild: string): Example => ({
  whole: true,
  zones: {
    'hollowmere.example': `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\n${inParent}`,
    'isle.hollowmere.example': `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n${inChild}`,
  },
})

export const TWO = 'isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.'

export const TWO_BELOW = '@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.'
