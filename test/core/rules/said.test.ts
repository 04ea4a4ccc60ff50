/** What findings say: about the actual values, at the right place, with the line to write. */
import { expect, test } from 'vitest'
import { check } from '../../../src/core/rules/engine.ts'
import { exampleAround, exampleZones } from '../../../src/core/rules/example.ts'
import type { Example } from '../../../src/core/rules/rule.ts'

const HEX = 'AB'.repeat(32)
const NS2 = 'isle NS ns2.upland-dns.example.'
const reverse = (text: string): Example => ({ zones: { 'hollowmere.example': 'mail A 192.0.2.25\nold A 192.0.2.26', '2.0.192.in-addr.arpa': text } })

/** The zone, the rule, its line and column (the zone's own lines begin at 5), a part of the message, and a line to write or do. */
test.each<[Example, string, string, string, string]>([
  ['@ MX 0 mail\n@ MX 0 .', 'mx/null-with-others', '6:8', 'a null MX and MX 0 mail.hollowmere.example. (line 5)', 'keep only: hollowmere.example. MX 0 .'],
  ['@ MX 10 .', 'mx/null-preference', '5:6', 'has preference 10', 'hollowmere.example. MX 0 .'],
  [
    '@ MX 0 .\n@ TXT "v=spf1 ip4:192.0.2.1 ~all"',
    'mx/null-yet-sends',
    '5:3',
    'its SPF lets hosts send: v=spf1 ip4:192.0.2.1 ~all',
    'hollowmere.example. TXT "v=spf1 -all"',
  ],
  [
    '@ MX 10 a\n@ MX 20 b\na A 192.0.2.1\nb A 192.0.2.1',
    'mx/same-host-twice',
    '6:9',
    'is the same host as MX 10 a.hollowmere.example. (line 5)',
    'take out hollowmere.example. MX 20 b.hollowmere.example., or name another host',
  ],
  [
    'mail MX 10 mail\nmail A 192.0.2.1',
    'mx/only-below',
    '5:1',
    'mail.hollowmere.example. has MX, and hollowmere.example. has none',
    'hollowmere.example. MX 10 mail.hollowmere.example.',
  ],
  ['@ MX 10 @\n@ A 192.0.2.1', 'mx/target-follows-top', '5:9', 'the top of its zone', 'mail.hollowmere.example. A 192.0.2.1'],
  ['@ A 192.0.2.1', 'mx/implicit', '5:3', 'has addresses and no MX', 'hollowmere.example. MX 10 EXCHANGE.'],
  [
    '@ MX 10 mail.lan.',
    'mx/target-not-public',
    '5:9',
    'a name under lan, which the public DNS does not have',
    'point at a host with a public name and address',
  ],
  ['@ MX 10 m\nm A 10.0.0.1', 'mx/target-not-public', '5:9', 'its address is not public: 10.0.0.1', 'point at a host with a public name and address'],
  [
    'isle NS ns.isle\n' + NS2,
    'ns/glue-missing',
    '5:9',
    'isle.hollowmere.example. is delegated to ns.isle.hollowmere.example., which lies in it',
    'ns.isle.hollowmere.example. A ADDRESS',
  ],
  [
    `isle NS dns\n${NS2}\ndns CNAME host\nhost A 192.0.2.1`,
    'ns/target-is-alias',
    '5:9',
    'dns.hollowmere.example. CNAME host.hollowmere.example. (line 7)',
    'isle.hollowmere.example. NS host.hollowmere.example.',
  ],
  [`isle NS 192.0.2.53\n${NS2}`, 'ns/target-is-address', '5:9', 'is the address 192.0.2.53', 'host.hollowmere.example. A 192.0.2.53'],
  [
    `isle NS ns1.upland-dns.example.\n${NS2}\n*.isle A 192.0.2.1`,
    'name/under-delegation',
    '7:1',
    'isle.hollowmere.example. is delegated to other servers (line 5)',
    'write it in the zone isle.hollowmere.example.',
  ],
  ['ferry_one A 192.0.2.1', 'name/not-a-host-name', '5:1', 'an underscore in ferry_one', 'name the host with letters, digits and inner hyphens only'],
  ['größe A 192.0.2.1', 'name/not-an-a-label', '5:1', '“größe”', 'write xn--gre-6ka8i in place of größe'],
  ['☃ A 192.0.2.1', 'name/not-an-a-label', '5:1', '“☃”', 'choose another name: “☃”'],
  ['www CNAME xn--n3h.northlight.example.', 'name/bad-a-label', '5:11', 'xn--n3h in a name is no A-label', 'write the A-label of the letters that are meant'],
  ['proof TXT "code=<your code>"', 'name/placeholder', '5:11', '“<your code>” in proof.hollowmere.example. TXT', 'write what is meant in place of <your code>'],
  ['www CNAME example.com.', 'name/placeholder', '5:11', '“example.com” in www.hollowmere.example. CNAME', 'write what is meant in place of example.com'],
  ['www..lake A 192.0.2.1', 'name/empty-label', '5:1', 'an empty label', 'write www.lake'],
  ['www 2w A 192.0.2.1', 'set/ttl-long', '5:5', 'A at www.hollowmere.example.', 'state a TTL of 86400 or less'],
  ['www 0 A 192.0.2.1', 'set/ttl-zero', '5:5', 'TTL 0: A at www.hollowmere.example.', 'state a TTL of 60 or more'],
  ['www 4294967295 A 192.0.2.1', 'set/ttl-out-of-range', '5:5', '4294967295 seconds; at most 2147483647', 'www.hollowmere.example. 3600 A 192.0.2.1'],
  ['www CH A 192.0.2.1', 'set/class-mismatch', '5:8', 'is of class 3, the zone of class 1', 'www.hollowmere.example. IN A 192.0.2.1'],
  [
    'www CNAME a\na CNAME b\nb A 192.0.2.1',
    'cname/chain',
    '5:11',
    'in 2 steps: a.hollowmere.example., b.hollowmere.example.',
    'www.hollowmere.example. CNAME b.hollowmere.example.',
  ],
  [
    Array.from({ length: 10 }, (_, i) => `c${i} CNAME c${i + 1}`).join('\n') + '\nc10 A 192.0.2.1',
    'cname/chain',
    '5:10',
    'in 10 steps',
    'c0.hollowmere.example. CNAME c10.hollowmere.example.',
  ],
  [
    'old DNAME a.example.\nold DNAME b.example.',
    'dname/other',
    '6:5',
    'has DNAME a.example. (line 5) and DNAME b.example.',
    'keep only one: old.hollowmere.example. DNAME a.example.',
  ],
  ['old DNAME a.example.\nwww.old A 192.0.2.1', 'dname/below', '6:1', 'below old.hollowmere.example., which has a DNAME (line 5)', 'write it below a.example.'],
  [
    '_ximpp-client._tcp SRV 5 0 5222 chat\nchat A 192.0.2.1',
    'srv/service-unregistered',
    '5:1',
    'is _xmpp-client meant?',
    '_xmpp-client._tcp.hollowmere.example. SRV 5 0 5222 chat.hollowmere.example.',
  ],
  [
    '_imaps._tcp SRV 5 0 143 m\nm A 192.0.2.1',
    'srv/port-unusual',
    '5:21',
    'registered with port 993; here it is 143',
    'leave it if m.hollowmere.example. listens on 143',
  ],
  [
    '_sip._udp SRV 0 0 0 m\nm A 192.0.2.1',
    'srv/port-zero',
    '5:19',
    'the port of _sip._udp.hollowmere.example. is 0',
    '_sip._udp.hollowmere.example. SRV 0 0 5060 m.hollowmere.example.',
  ],
  [
    '_sip._udp SRV 1 30 5060 m\n_sip._udp SRV 1 0 5060 n\nm A 192.0.2.1\nn A 192.0.2.2',
    'srv/weights',
    '6:17',
    'm.hollowmere.example. 100 %, n.hollowmere.example. 0 %',
    '_sip._udp.hollowmere.example. SRV 1 1 5060 n.hollowmere.example.',
  ],
  [
    '_sip._udp SRV 0 0 0 .\n_sip._udp SRV 1 0 5060 n\nn A 192.0.2.2',
    'srv/none-with-others',
    '5:21',
    'SRV 1 0 5060 n.hollowmere.example. (line 6)',
    'take out _sip._udp.hollowmere.example. SRV 0 0 0 .',
  ],
  [
    '_sip._udp.crew SRV 0 0 5060 n\ncrew A 192.0.2.1\nn A 192.0.2.2',
    'srv/target-elsewhere',
    '5:1',
    'below the host crew.hollowmere.example., and its target is another host, n.hollowmere.example.',
    '_sip._udp.hollowmere.example. SRV 0 0 5060 n.hollowmere.example.',
  ],
  [
    '_pop3._tcp SRV 0 0 110 n\nn A 192.0.2.2',
    'srv/mail-client-pairs',
    '5:1',
    'says nothing of _pop3s',
    '_pop3s._tcp.hollowmere.example. SRV 0 1 995 n.hollowmere.example.',
  ],
  ['www AAAA ::ffff:192.0.2.1', 'address/mapped', '5:10', 'mapped address', 'www.hollowmere.example. A 192.0.2.1'],
  ['nas A 169.254.0.7', 'address/not-public', '5:7', '169.254.0.7, which is link-local', 'nas.hollowmere.example. A PUBLIC-ADDRESS'],
  [
    'a A 192.0.2.1\nb A 192.0.2.2\nc A 198.51.100.1',
    'address/documentation',
    '5:5',
    'a.hollowmere.example. A 192.0.2.1, and 1 more record, in 192.0.2.0/24',
    'write the host’s own address',
  ],
  [
    '* A 192.0.2.1\n_acme-challenge.app TXT "x"',
    'wildcard/shadowed',
    '5:1',
    'app.hollowmere.example. exists only through a text',
    'app.hollowmere.example. A 192.0.2.1',
  ],
  [
    'a*.lake A 192.0.2.1',
    'wildcard/not-leftmost',
    '5:1',
    '“*” in a*.lake.hollowmere.example.',
    'make “*” the whole leftmost label, or write the names one by one',
  ],
  ['@ TXT ‘x’', 'txt/typographic-quotes', '5:7', 'has ‘ in it', 'write plain signs in its place'],
  ['@ TXT "\\"x=1\\""', 'txt/stray-quotes', '5:7', 'has quotes in it: "x=1"', 'hollowmere.example. TXT "x=1"'],
  ['@ TXT "a\\009b"', 'txt/control-character', '5:7', 'control character \\009', 'hollowmere.example. TXT "ab"'],
  ['@ TXT one two', 'txt/unquoted-spaces', '5:7', 'it is 2 strings', 'hollowmere.example. TXT "one two"'],
  [
    '_tcp._25.mail TLSA 3 1 1 ' + HEX,
    'tlsa/owner-form',
    '5:1',
    '_tcp._25.mail.hollowmere.example. is not the owner of a TLSA record',
    `_25._tcp.HOST. TLSA 3 1 1 ${HEX.toLowerCase()}`,
  ],
  [
    '_25._tcp.mail TLSA 3 1 2 ' + HEX,
    'tlsa/values',
    '5:26',
    'matching type 2 has 64 octets, and there are 32',
    '_25._tcp.mail.hollowmere.example. TLSA 3 1 1 SHA-256-OF-THE-KEY',
  ],
  [
    '@ CAA 0 issue "https://ca.northlight.example/x"',
    'caa/value',
    '5:15',
    'is not an authority’s domain',
    'hollowmere.example. CAA 0 issue "ca.northlight.example"',
  ],
  ['@ CAA 0 iodef "a@larkpost.example"', 'caa/value', '5:15', 'no mailto: or https: address', 'hollowmere.example. CAA 0 iodef "mailto:a@larkpost.example"'],
  ['@ CAA 3 issue "ca.northlight.example"', 'caa/flags', '5:7', 'the CAA flags are 3', 'hollowmere.example. CAA 0 issue "ca.northlight.example"'],
  ['@ CAA 128 isue "ca.northlight.example"', 'caa/tag', '5:11', 'the CAA tag isue is not known', 'write issue, issuewild or iodef'],
  [
    '@ HTTPS 0 a.example.\n@ HTTPS 1 . alpn=h2',
    'svcb/alias-mode',
    '5:9',
    'has HTTPS 0 a.example., an alias, and HTTPS 1 . alpn="h2" (line 6)',
    'keep only: hollowmere.example. HTTPS 0 a.example.',
  ],
  [
    '@ HTTPS 1 . ipv6hint=2001:db8::6\n@ AAAA 2001:db8::1',
    'svcb/hints-differ',
    '5:13',
    'hints at 2001:db8::6; hollowmere.example. has 2001:db8::1',
    'write the target’s addresses as hints, or leave the hints away',
  ],
  [
    reverse('192.0.2.25 PTR mail.hollowmere.example.'),
    'ptr/owner-form',
    '5:1',
    'written in front of the zone’s own numbers, and forwards',
    '25.2.0.192.in-addr.arpa. PTR mail.hollowmere.example.',
  ],
  [
    reverse('25 PTR old.hollowmere.example.'),
    'ptr/forward-missing',
    '5:8',
    '192.0.2.25 is named old.hollowmere.example., which has 192.0.2.26',
    'old.hollowmere.example. A 192.0.2.25',
  ],
  [
    reverse('25 PTR gone.hollowmere.example.'),
    'kept/target-missing',
    '5:8',
    'gone.hollowmere.example., which does not exist',
    'write what the target is to have, or point at the name that is meant',
  ],
  [
    { zones: { 'hollowmere.example': '@ MX 10 mail\nmail A 192.0.2.25', '2.0.192.in-addr.arpa': '25 PTR other.larkpost.example.' } },
    'mx/host-without-reverse',
    '6:6',
    'the reverse name of 192.0.2.25 is other.larkpost.example.',
    '25.2.0.192.in-addr.arpa. PTR mail.hollowmere.example.',
  ],
  [
    { zones: { 'hollowmere.example': '@ TXT "v=spf1 ip4:192.0.2.9 -all"', '2.0.192.in-addr.arpa': '25 PTR other.larkpost.example.' } },
    'mx/host-without-reverse',
    '5:7',
    'ip4:192.0.2.9 may send for hollowmere.example., and 192.0.2.9 has no reverse name',
    '9.2.0.192.in-addr.arpa. PTR HOST.',
  ],
  [
    '@ TXT "v=spf1 redirect=_x.hollowmere.example"',
    'kept/target-missing',
    '5:7',
    'redirect=_x.hollowmere.example',
    'write _x.hollowmere.example., or take redirect=_x.hollowmere.example out',
  ],
  [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:a@mail.hollowmere.example!10m"\nmail TXT "no mail"',
    'mail/report-box-closed',
    '5:12',
    'mail.hollowmere.example. has neither MX nor an address',
    'name a mailbox at a domain that takes mail',
  ],
  [
    `isle DS 1 8 1 ${'AB'.repeat(20)}\nisle NS ns1.upland-dns.example.\n${NS2}`,
    'dnssec/algorithm',
    '5:13',
    'the digest type 1 (SHA-1)',
    'sign with algorithm 13 or 15; DS with digest type 2',
  ],
  ['@ NSEC3PARAM 1 0 5 AA', 'dnssec/nsec3-cost', '5:18', '5 iterations and a salt of 1 octets', 'hollowmere.example. NSEC3PARAM 1 0 0 -'],
])('%j: %s', async (example, rule, place, message, fix) => {
  const { findings } = await check(exampleZones(example), exampleAround(example))
  const found = findings.filter((each) => each.rule === rule)
  expect(found.map((each) => `${each.line}:${each.column}`)).toContain(place)
  const finding = found.find((each) => `${each.line}:${each.column}` === place)!
  expect(finding.message).toContain(message)
  expect(finding.fix.some((line) => line.startsWith(fix)) || finding.fix).toBe(true)
  // It points at something that stands there.
  expect(
    [...finding.text]
      .slice(finding.column - 1, finding.column - 1 + finding.length)
      .join('')
      .trim(),
  ).not.toBe('')
})
