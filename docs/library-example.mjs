import { check, checkHost, keepTogether, parseZoneFile, rdataText, typeText } from 'bramblefront'

const text = `$ORIGIN hollowmere.example.
$TTL 3600
@     SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600
      NS  ns1.upland-dns.example.
      NS  ns2.upland-dns.example.
@     MX  10 mail
mail  A   192.0.2.25:25
`

const { records, problems } = parseZoneFile(text)
for (const { owner, ttl, type, data } of records) console.log(owner, ttl, typeText(type), rdataText(type, data))
for (const { line, column, message, wanted } of problems)
  console.log(`line ${line}, column ${column}: ${message} (expected ${wanted})`)

const { findings } = await check(keepTogether([{ input: text }]))
for (const { rule, message } of findings) console.log(`${rule}: ${message}`)

const published = {
  'hollowmere.example. TXT': ['v=spf1 mx -all'],
  'hollowmere.example. MX': ['10 mail.hollowmere.example.'],
  'mail.hollowmere.example. A': ['192.0.2.25'],
}
const lookup = (name, type) => ({ data: published[`${name} ${type}`] ?? [] })
const { result, trace } = await checkHost({
  ip: '192.0.2.25',
  helo: 'mail.hollowmere.example',
  mailFrom: 'crew@hollowmere.example',
  lookup,
})
console.log(
  result,
  trace.map(({ term, why }) => `${term}: ${why}`),
)
