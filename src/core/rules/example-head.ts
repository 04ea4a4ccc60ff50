/** What stands in front of the examples of rules: a sound SOA record and NS set. */
export const EXAMPLE_HEAD = `$TTL 3600
@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112301 7200 900 1209600 3600
@ NS ns1.upland-dns.example.
@ NS ns2.upland-dns.example.
`
