/** Zones with one finding each that is looked at: what it says is in the snapshot of all sentences. */
import type { Example } from '../../../src/core/rules/rule.ts'

const HEX = 'AB'.repeat(32)
const NS2 = 'isle NS ns2.upland-dns.example.'
const reverse = (text: string): Example => ({
  zones: { 'hollowmere.example': 'mail A 192.0.2.25\nold A 192.0.2.26', '2.0.192.in-addr.arpa': text },
})

/** The zone (its own lines begin at 5), the rule, its line and column. */
export const SAID: [Example, string, string][] = [
  ['@ MX 0 mail\n@ MX 0 .', 'mx/null-with-others', '6:8'],
  ['@ MX 10 .', 'mx/null-preference', '5:6'],
  ['@ MX 0 .\n@ TXT "v=spf1 ip4:192.0.2.1 ~all"', 'mx/null-yet-sends', '5:3'],
  ['@ MX 10 a\n@ MX 20 b\na A 192.0.2.1\nb A 192.0.2.1', 'mx/same-host-twice', '6:9'],
  ['mail MX 10 mail\nmail A 192.0.2.1', 'mx/only-below', '5:1'],
  ['@ MX 10 @\n@ A 192.0.2.1', 'mx/target-follows-apex', '5:9'],
  ['@ A 192.0.2.1\n@ TXT "v=spf1 -all"', 'mx/implicit', '5:3'],
  ['@ MX 10 mail.lan.', 'mx/target-not-public', '5:9'],
  ['@ MX 10 m\nm A 10.0.0.1', 'mx/target-not-public', '5:9'],
  ['isle NS ns.isle\n' + NS2, 'ns/glue-missing', '5:9'],
  [`isle NS dns\n${NS2}\ndns CNAME host\nhost A 192.0.2.1`, 'ns/target-is-alias', '5:9'],
  [`isle NS 192.0.2.53\n${NS2}`, 'ns/target-is-address', '5:9'],
  [`isle NS ns1.upland-dns.example.\n${NS2}\n*.isle A 192.0.2.1`, 'name/under-delegation', '7:1'],
  ['ferry_one A 192.0.2.1', 'name/not-a-host-name', '5:1'],
  ['größe A 192.0.2.1', 'name/not-an-a-label', '5:1'],
  ['☃ A 192.0.2.1', 'name/not-an-a-label', '5:1'],
  ['www CNAME xn--n3h.northlight.example.', 'name/bad-a-label', '5:11'],
  ['proof TXT "code=<your code>"', 'name/placeholder', '5:11'],
  ['www CNAME example.com.', 'name/placeholder', '5:11'],
  ['www..lake A 192.0.2.1', 'name/empty-label', '5:1'],
  ['www 2w A 192.0.2.1', 'set/ttl-long', '5:5'],
  ['www 0 A 192.0.2.1', 'set/ttl-zero', '5:5'],
  ['www 4294967295 A 192.0.2.1', 'set/ttl-out-of-range', '5:5'],
  ['www CH A 192.0.2.1', 'set/class-mismatch', '5:8'],
  ['www CNAME a\na CNAME b\nb A 192.0.2.1', 'cname/chain', '5:11'],
  [
    Array.from({ length: 10 }, (_, i) => `c${i} CNAME c${i + 1}`).join('\n') + '\nc10 A 192.0.2.1',
    'cname/chain',
    '5:10',
  ],
  ['old DNAME a.example.\nold DNAME b.example.', 'dname/other', '6:5'],
  ['old DNAME a.example.\nwww.old A 192.0.2.1', 'dname/below', '6:1'],
  ['_ximpp-client._tcp SRV 5 0 5222 chat\nchat A 192.0.2.1', 'srv/service-unregistered', '5:1'],
  ['_imaps._tcp SRV 5 0 143 m\nm A 192.0.2.1', 'srv/port-unusual', '5:21'],
  ['_sip._udp SRV 0 0 0 m\nm A 192.0.2.1', 'srv/port-zero', '5:19'],
  ['_sip._udp SRV 1 30 5060 m\n_sip._udp SRV 1 0 5060 n\nm A 192.0.2.1\nn A 192.0.2.2', 'srv/weights', '6:17'],
  ['_sip._udp SRV 0 0 0 .\n_sip._udp SRV 1 0 5060 n\nn A 192.0.2.2', 'srv/none-with-others', '5:21'],
  ['_sip._udp.crew SRV 0 0 5060 n\ncrew A 192.0.2.1\nn A 192.0.2.2', 'srv/target-elsewhere', '5:1'],
  ['_pop3._tcp SRV 0 0 110 n\nn A 192.0.2.2', 'srv/mail-client-pairs', '5:1'],
  ['www AAAA ::ffff:192.0.2.1', 'address/mapped', '5:10'],
  ['nas A 169.254.0.7', 'address/not-public', '5:7'],
  ['a A 192.0.2.1\nb A 192.0.2.2\nc A 198.51.100.1', 'address/documentation', '5:5'],
  ['* A 192.0.2.1\n_acme-challenge.app TXT "x"', 'wildcard/shadowed', '5:1'],
  ['a*.lake A 192.0.2.1', 'wildcard/not-leftmost', '5:1'],
  ['@ TXT ‘x’', 'txt/typographic-quotes', '5:7'],
  ['@ TXT "\\"x=1\\""', 'txt/stray-quotes', '5:7'],
  ['@ TXT "a\\009b"', 'txt/control-character', '5:7'],
  ['@ TXT one two', 'txt/unquoted-spaces', '5:7'],
  ['_tcp._25.mail TLSA 3 1 1 ' + HEX, 'tlsa/owner-form', '5:1'],
  ['_25._tcp.mail TLSA 3 1 2 ' + HEX, 'tlsa/values', '5:26'],
  ['@ CAA 0 issue "https://ca.northlight.example/x"', 'caa/value', '5:15'],
  ['@ CAA 0 iodef "a@larkpost.example"', 'caa/value', '5:15'],
  ['@ CAA 3 issue "ca.northlight.example"', 'caa/flags', '5:7'],
  ['@ CAA 128 isue "ca.northlight.example"', 'caa/tag', '5:11'],
  ['@ HTTPS 0 a.example.\n@ HTTPS 1 . alpn=h2', 'svcb/alias-mode', '5:9'],
  ['@ HTTPS 1 . ipv6hint=2001:db8::6\n@ AAAA 2001:db8::1', 'svcb/hints-differ', '5:13'],
  [reverse('192.0.2.25 PTR mail.hollowmere.example.'), 'ptr/owner-form', '5:1'],
  [reverse('25 PTR old.hollowmere.example.'), 'ptr/forward-missing', '5:8'],
  [reverse('25 PTR gone.hollowmere.example.'), 'zones/target-missing', '5:8'],
  [
    {
      zones: {
        'hollowmere.example': '@ MX 10 mail\nmail A 192.0.2.25',
        '2.0.192.in-addr.arpa': '25 PTR other.larkpost.example.',
      },
    },
    'mx/host-without-reverse',
    '6:6',
  ],
  [
    {
      zones: {
        'hollowmere.example': '@ TXT "v=spf1 ip4:192.0.2.9 -all"',
        '2.0.192.in-addr.arpa': '25 PTR other.larkpost.example.',
      },
    },
    'mx/host-without-reverse',
    '5:7',
  ],
  ['@ TXT "v=spf1 redirect=_x.hollowmere.example"', 'spf/include-without-record', '5:15'],
  [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:a@mail.hollowmere.example!10m"\nmail TXT "no mail"',
    'mail/report-box-closed',
    '5:12',
  ],
  [`isle DS 1 8 1 ${'AB'.repeat(20)}\nisle NS ns1.upland-dns.example.\n${NS2}`, 'dnssec/algorithm', '5:13'],
  ['@ NSEC3PARAM 1 0 5 AA', 'dnssec/nsec3-cost', '5:18'],
  ['kiosk AAAA [2001:db8::1]:8443', 'address/with-port', '5:12'],
  ['kiosk A 192.0.2.1/24', 'address/with-prefix', '5:9'],
  ['@ CNAME site\nsite A 192.0.2.10', 'cname/at-apex', '5:3'],
  [
    {
      zones: { 'hollowmere.example': 'lark1._domainkey CNAME site.northlight.example.' },
      around: { fronts: [{ label: 'northlight', ranges: [], names: ['site.northlight.example'] }] },
    },
    'cname/front-for-mail',
    '5:24',
  ],
  [
    {
      zones: {
        'hollowmere.example': 'www CNAME www.lakepass.example.',
        'lakepass.example': 'www CNAME www.hollowmere.example.',
      },
    },
    'cname/loop',
    '5:11',
  ],
  ['www CNAME site\nwww MX 10 site\nsite A 192.0.2.10', 'cname/other-data', '5:5'],
  ['www CNAME one\nwww CNAME two\none A 192.0.2.10\ntwo A 192.0.2.11', 'cname/several', '6:11'],
  ['www CNAME 2001:db8::1', 'cname/target-is-address', '5:11'],
  ['www CNAME site.northlight.example./ferries', 'cname/target-is-url', '5:11'],
  ['www CNAME sight\nsite A 192.0.2.10', 'cname/target-missing', '5:11'],
  ['* CNAME site\nsite A 192.0.2.10', 'cname/wildcard', '5:1'],
  [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:dmarc@larkpost.example"\n_dmarc TXT "v=DMARC1; p=reject; rua=mailto:dmarc@larkpost.example"',
    'dmarc/several',
    '6:8',
  ],
  ['isle DS 60485 8 2 ABABABABABABABABABABABABABABABABABABABABABABABABABABABABABABABAB', 'dnssec/ds-without-ns', '5:6'],
  ['@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.', 'host/www-missing', '5:3'],
  [
    {
      zones: { 'hollowmere.example': '@ A 192.0.2.10\nwww CNAME @\nsite A 192.0.2.11' },
      around: { follows: [{ owner: 'hollowmere.example', target: 'site.hollowmere.example' }] },
    },
    'zones/follow-drift',
    '5:3',
  ],
  ['@ MX 10 mx.larkpost.example.\n@ MX 10 mx2.larkpost.example.\n@ MX 10 mx3.larkpost.example.', 'mx/all-equal', '5:6'],
  ['@ MX 10 mail\nmail A 192.0.2.25', 'mx/single', '5:9'],
  [
    {
      zones: { 'hollowmere.example': '@ MX 10 eu.edge.northlight.example.' },
      around: { fronts: [{ label: 'northlight', ranges: ['203.0.113.0/24'], names: ['edge.northlight.example'] }] },
    },
    'mx/target-fronted',
    '5:9',
  ],
  ['@ MX 10 192.0.2.1.hollowmere.example.', 'mx/target-is-address', '5:9'],
  ['@ MX 10 mail\n* CNAME host\nhost A 192.0.2.25', 'mx/target-is-alias', '5:9'],
  [
    { zones: { 'hollowmere.example': '@ MX 10 mx.lakepass.example.', 'lakepass.example': 'mail A 192.0.2.25' } },
    'mx/target-without-address',
    '5:9',
  ],
  ['@ MX 10 mail\nmail AAAA 2001:db8::25', 'mx/v6-only', '5:9'],
  ['*.lake MX 10 mx.larkpost.example.', 'mx/wildcard', '5:1'],
  ['www CNAME site.hollowmere.example\nsite A 192.0.2.10', 'name/doubled-zone', '5:11'],
  ['_sip._udp SRV 0 0 5060 sip.net', 'name/final-dot-missing', '5:24'],
  ['tv--lake A 192.0.2.10', 'name/hyphens-3-4', '5:1'],
  [
    'www CNAME aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa.northlight.example.',
    'name/label-too-long',
    '5:11',
  ],
  ['hollowmere.example.hollowmere-freight.example. A 192.0.2.10', 'name/out-of-zone', '5:1'],
  ['@ NAPTR 10 50 "s" "SIP+D2U" "" _sip._udp', 'naptr/replacement-missing', '5:32'],
  [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\nwww A 192.0.2.10',
        'isle.hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.',
      },
    },
    'ns/delegation-missing',
    '2:3',
  ],
  [
    'isle NS a\nisle NS b\na A 192.0.2.53\na AAAA 2001:db8::53\nb A 192.0.2.54\nb AAAA 2001:db8::54',
    'ns/same-network',
    '5:6',
  ],
  [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.',
      },
    },
    'ns/single',
    '3:3',
  ],
  ['isle NS dns\nisle NS ns2.upland-dns.example.', 'ns/target-without-address', '5:9'],
  [
    {
      zones: {
        'hollowmere.example': 'a A 192.0.2.25\nb A 192.0.2.25',
        '2.0.192.in-addr.arpa': '25 PTR a.hollowmere.example.\n25 PTR b.hollowmere.example.',
      },
    },
    'ptr/several',
    '6:4',
  ],
  [
    {
      zones: {
        'hollowmere.example': 'www CNAME host\nhost A 192.0.2.25',
        '2.0.192.in-addr.arpa': '25 PTR www.hollowmere.example.',
      },
    },
    'ptr/target-is-alias',
    '5:8',
  ],
  ['www CNAME site\nwww CNAME site\nsite A 192.0.2.10', 'set/duplicate-record', '6:5'],
  ['www 300 A 192.0.2.10\nwww 3600 A 192.0.2.11', 'set/mixed-ttl', '6:5'],
  [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster@hollowmere.example. 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.',
      },
    },
    'soa/mailbox-at-sign',
    '2:31',
  ],
  ['isle SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 1209600 3600', 'soa/not-at-apex', '5:6'],
  [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1 hostmaster.upland-dns.example. 1 7200 900 1209600 3600\nns1 CNAME www\nwww A 192.0.2.53\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.',
      },
    },
    'soa/primary-unknown',
    '2:7',
  ],
  [
    {
      zones: { 'hollowmere.example': 'www A 192.0.2.11' },
      published: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112301 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.\nwww A 192.0.2.10\n',
      },
    },
    'soa/serial-not-advanced',
    '2:62',
  ],
  [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112301 7200 900 1209600 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112302 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.',
      },
    },
    'soa/several',
    '3:3',
  ],
  [
    {
      whole: true,
      zones: {
        'hollowmere.example':
          '$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 1 7200 900 86400 3600\n@ NS ns1.upland-dns.example.\n@ NS ns2.upland-dns.example.',
      },
    },
    'soa/timers',
    '2:73',
  ],
  ['@ TXT "v=spf1 ip4:192.0.2.25 -all"\n@ TXT "v=spf1 include:_spf.quillwing.example ~all"', 'spf/several', '6:3'],
  ['_xmpp-client._tpc SRV 0 0 5222 chat\nchat A 192.0.2.30', 'srv/owner-form', '5:1'],
  ['_ferrykioskscreens._tcp SRV 0 0 8443 chat\nchat A 192.0.2.30', 'srv/service-name', '5:1'],
  [
    {
      zones: { 'hollowmere.example': '_xmpp-client._tcp SRV 0 0 5222 chat\nchat A 203.0.113.7' },
      around: { fronts: [{ label: 'northlight', ranges: ['203.0.113.0/24'], names: ['edge.northlight.example'] }] },
    },
    'srv/target-fronted',
    '5:32',
  ],
  ['_xmpp-client._tcp SRV 0 0 5222 192.0.2.1', 'srv/target-is-address', '5:32'],
  ['_xmpp-client._tcp SRV 0 0 5222 chat\nchat CNAME host\nhost A 192.0.2.30', 'srv/target-is-alias', '5:32'],
  ['_xmpp-client._tcp SRV 0 0 5222 chat.internal.', 'srv/target-not-public', '5:32'],
  ['_xmpp-client._tcp SRV 0 0 5222 chat', 'srv/target-without-address', '5:32'],
  ['www HTTPS 1 edge alpn=h2\nwww A 192.0.2.10', 'svcb/target-missing', '5:13'],
  [
    '@ MX 10 mail\n_25._tcp TLSA 3 1 1 ABABABABABABABABABABABABABABABABABABABABABABABABABABABABABABABAB\nmail A 192.0.2.25\n@ A 192.0.2.10\nwww CNAME @',
    'tlsa/no-exchange',
    '6:1',
  ],
  [
    '@ MX 10 mail\n_25._tcp.mail TLSA 3 1 1 ABABABABABABABABABABABABABABABABABABABABABABABABABABABABABABABAB\nmail A 192.0.2.25',
    'tlsa/unsigned',
    '6:15',
  ],
  [
    's2026._domainkey TXT "v=DKIM1; p=AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"',
    'txt/string-too-long',
    '5:23',
  ],
  ['* TXT "v=DKIM1; p=MIGfMA0"', 'wildcard/answers-for-policy', '5:3'],
  ['*.isle NS ns1.upland-dns.example.\n*.isle NS ns2.upland-dns.example.', 'wildcard/delegation', '5:1'],
]

/** The zone, the finding (severity, rule, line and column), and what stands at its place. */
export const SAID_OF_MAIL: [Example, string, string][] = [
  ['@ TXT "v=spf1 mx ip4:192.0.2.256 -all"', 'error spf/syntax 5:22', '192.0.2.256'],
  ['@ TXT "v=spf1 mx " "ip4:192.0.2.0/40 -all"', 'error spf/syntax 5:34', '/40'],
  ['@ TXT ( "v=spf1 mx"\n  " a:192.0.2.7 -all" )', 'error spf/syntax 6:7', '192.0.2.7'],
  ['@ TXT "v=spf1 \\109x inclde:_spf.larkpost.example -all"', 'error spf/syntax 5:21', 'inclde:_spf.larkpost.example'],
  ['@ TXT "v=spf1 mx exists:%{y}.larkpost.example -all"', 'error spf/syntax 5:25', '%{y}'],
  ['@ TXT "v=spf1,mx -all"', 'error spf/version 5:8', 'v=spf1,'],
  ['@ TXT "spf1 include:_spf.larkpost.example -all"', 'error spf/version 5:8', 'spf1 '],
  [
    '@ TXT "v=spf1 include:a.hollowmere.example -all"\na TXT "v=spf1 include:b.hollowmere.example"\nb TXT "v=spf1 mx a a:x.larkpost.example a:y.larkpost.example ptr exists:z.larkpost.example include:_s.larkpost.example a:q.larkpost.example a:r.larkpost.example"',
    'error spf/too-many-lookups 5:8',
    'v=spf1 include:a.hollowmere.example -all',
  ],
  [
    '@ TXT "v=spf1 a mx a:b.larkpost.example a:c.larkpost.example a:d.larkpost.example a:e.larkpost.example a:f.larkpost.example include:_s.larkpost.example -all"',
    'advice spf/lookups-near-limit 5:8',
    'v=spf1 a mx a:b.larkpost.example a:c.larkpost.example a:d.la',
  ],
  [
    '@ TXT "v=spf1 a:a.hollowmere.example mx:b.hollowmere.example include:_s.hollowmere.example -all"\na A 192.0.2.1\nb MX 10 a\n_s TXT "v=spf1 a:c.hollowmere.example"\nc A 192.0.2.2',
    'warning spf/too-many-void 5:8',
    'v=spf1 a:a.hollowmere.example mx:b.hollowmere.example includ',
  ],
  [
    '@ TXT "v=spf1 mx:many.hollowmere.example -all"\nmany MX 0 m0.larkpost.example.\nmany MX 1 m1.larkpost.example.\nmany MX 2 m2.larkpost.example.\nmany MX 3 m3.larkpost.example.\nmany MX 4 m4.larkpost.example.\nmany MX 5 m5.larkpost.example.\nmany MX 6 m6.larkpost.example.\nmany MX 7 m7.larkpost.example.\nmany MX 8 m8.larkpost.example.\nmany MX 9 m9.larkpost.example.\nmany MX 10 m10.larkpost.example.\nmany MX 11 m11.larkpost.example.',
    'error spf/too-many-mx 5:15',
    'mx:many.hollowmere.example',
  ],
  [
    '@ TXT "v=spf1 mx redirect=_none.hollowmere.example"',
    'error spf/include-without-record 5:18',
    'redirect=_none.hollowmere.example',
  ],
  [
    '@ TXT "v=spf1 include:_a.hollowmere.example -all"\n_a TXT "v=spf1 include:_b.hollowmere.example"\n_b TXT "v=spf1 include:hollowmere.example"',
    'error spf/loop 5:15',
    'include:_a.hollowmere.example',
  ],
  ['@ TXT "v=spf1 ip4:192.0.2.25 +all"', 'error spf/allows-everyone 5:30', '+all'],
  ['@ TXT "v=spf1 mx ip4:128.0.0.0/1 ip4:0.0.0.0/2 -all"', 'error spf/allows-everyone 5:18', 'ip4:128.0.0.0/1'],
  ['@ TXT "v=spf1 mx/0 -all"', 'error spf/allows-everyone 5:15', 'mx/0'],
  ['@ TXT "v=spf1 mx a"', 'warning spf/neutral-end 5:18', 'a'],
  ['@ TXT "v=spf1 mx ?all"', 'warning spf/neutral-end 5:18', '?all'],
  ['@ TXT "v=spf1 mx ~all a ip4:192.0.2.1"', 'warning spf/after-all 5:23', 'a ip4:192.0.2.1'],
  [
    '@ TXT "v=spf1 redirect=_s.larkpost.example mx ~all"',
    'warning spf/redirect-ignored 5:15',
    'redirect=_s.larkpost.example',
  ],
  [
    '@ TXT "v=spf1 mx redirect=a.larkpost.example redirect=b.larkpost.example"',
    'error spf/modifier-twice 5:46',
    'redirect=b.larkpost.example',
  ],
  ['@ TXT "v=spf1 mx ptr ~all"', 'warning spf/ptr 5:18', 'ptr'],
  [
    '@ TXT "v=spf1 mx a:out.larkpost.example a:OUT.larkpost.example ~all"',
    'advice spf/duplicate-term 5:41',
    'a:OUT.larkpost.example',
  ],
  ['@ TXT "v=spf1 ip4:192.0.2.77 ip4:192.0.2.64/26 ~all"', 'advice spf/covered-term 5:15', 'ip4:192.0.2.77'],
  ['@ TXT "v=spf1 ip4:192.0.2.77/26 ~all"', 'advice spf/host-bits 5:15', 'ip4:192.0.2.77/26'],
  ['@ TXT "v=spf1 mx ip4:172.16.4.0/22 ~all"', 'warning spf/private-address 5:18', 'ip4:172.16.4.0/22'],
  ['@ TXT "v=spf1 mx" "include:_s.larkpost.example ~all"', 'error spf/lost-space 5:20', 'i'],
  ['@ TXT "v=spf1 include:_s.larkpost.example" "~all"', 'error spf/lost-space 5:45', '~'],
  [
    '@ TXT "v=spf1 ~all"\n@ TXT "aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa"\n@ TXT "bbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbbb"',
    'advice spf/long 5:8',
    'v=spf1 ~all',
  ],
  ['@ SPF "v=spf1 mx -all"', 'warning spf/obsolete-type 5:3', 'SPF'],
  ['@ MX 0 .', 'warning spf/missing 5:1', '@'],
  ['@ MX 10 mx.larkpost.example.\n', 'warning spf/missing 5:1', '@'],
  ['@ AAAA 2001:db8::1', 'advice spf/missing 5:1', '@'],
  ['@ TXT "v=spf1 -all"\nshop MX 10 mx.larkpost.example.', 'warning spf/not-inherited 6:1', 'shop'],
  ['*.bulk MX 10 mx.larkpost.example.', 'advice spf/wildcard-exchange 5:1', '*.bulk'],
  ['@ TXT "v=spf1 -all exp=x.%{d}"', 'advice spf/explanation-missing 5:20', 'exp=x.%{d}'],
  ['@ MX 10 a\n@ TXT "v=spf1 a:a.hollowmere.example -all"\na A 192.0.2.1', 'advice spf/host-without-record 7:1', 'a'],
  [
    '@ MX 10 a\n@ TXT "v=spf1 ip4:192.0.2.128/25 -all"\na A 192.0.2.1\n_submission._tcp SRV 0 0 587 a',
    'advice spf/exchange-not-allowed 5:9',
    'a',
  ],
  [
    '; copied from include:_s.hollowmere.example on 2026-02-03: ip4:192.0.2.1\n@ TXT "v=spf1 ip4:192.0.2.1 mx ~all"\n_s TXT "v=spf1 ip4:192.0.2.2"',
    'warning spf/copied-ranges-differ 6:8',
    'v=spf1 ip4:192.0.2.1 mx ~all',
  ],
  [
    'ferry._domainkeys TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'warning dkim/wrong-place 5:1',
    'ferry._domainkeys',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo=; p="',
    'error dkim/syntax 5:91',
    'p=',
  ],
  ['ferry._domainkey TXT "v=DKIM1; n=soon"', 'error dkim/key-missing 5:23', 'v=DKIM1; n=soon'],
  ['ferry._domainkey TXT "v=DKIM1; p=not*base64"', 'error dkim/key-unreadable 5:34', 'not*base64'],
  [
    'ferry._domainkey TXT "v=DKIM1; k=ed25519; p=MCowBQYDK2VwAyEA11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'error dkim/key-unreadable 5:45',
    'MCowBQYDK2VwAyEA11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo=',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1; k=dsa; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'warning dkim/key-type 5:34',
    'dsa',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1; h=sha1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'error dkim/hash 5:34',
    'sha1',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1; s=tlsrpt; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'warning dkim/service 5:34',
    'tlsrpt',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1; t=y:s; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'advice dkim/testing 5:34',
    'y:s',
  ],
  ['ferry._domainkey TXT "v=DKIM1; p="', 'advice dkim/revoked 5:32', 'p='],
  [
    'ferry._domainkey TXT "v=DKIM1; p="\nferry._domainkey TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'error dkim/several 6:18',
    'TXT',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1; g=crew; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'advice dkim/obsolete-tag 5:32',
    'g=crew',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1\\\\; k=ed25519\\\\; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'error dkim/escaped-semicolon 5:30',
    '\\\\;',
  ],
  [
    'ferry._domainkey TXT "v=DKIM1; k=ed25519; p=\\"11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo=\\""',
    'error dkim/quotes-inside 5:45',
    '\\"',
  ],
  [
    'a._domainkey TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="\nb._domainkey.news TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
    'advice dkim/same-key 6:23',
    '"v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaa',
  ],
  ['@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx ~all"', 'advice dkim/none 6:3', 'TXT'],
  ['ferry._domainkey CNAME keys\nkeys A 192.0.2.1', 'error dkim/alias-without-key 5:24', 'keys'],
  ['_dmarc2 TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"', 'warning dmarc/wrong-place 5:1', '_dmarc2'],
  ['_dmarc TXT "DMARC1; p=none; rua=mailto:d@larkpost.example"', 'error dmarc/syntax 5:13', 'DMARC1'],
  ['_dmarc TXT "v=DMARC1; p none; rua=mailto:d@larkpost.example"', 'error dmarc/syntax 5:23', 'p none'],
  ['_dmarc TXT "v=DMARC1; p=rejct; rua=mailto:d@larkpost.example"', 'error dmarc/policy 5:25', 'rejct'],
  ['_dmarc TXT "v=DMARC1; p=none; pct=110; rua=mailto:d@larkpost.example"', 'error dmarc/tag-value 5:35', '110'],
  [
    '_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example; subdomain=none"',
    'advice dmarc/unknown-tag 5:62',
    'subdomain=none',
  ],
  ['_dmarc TXT "v=DMARC1; p=none; rua=d@larkpost.example"', 'warning dmarc/report-address 5:35', 'd@larkpost.example'],
  [
    {
      zones: {
        'hollowmere.example': '_dmarc.news TXT "v=DMARC1; p=none; ruf=mailto:r@tarnside.example"',
        'tarnside.example': '@ MX 10 mx.larkpost.example.\n',
      },
    },
    'error dmarc/report-consent 5:40',
    'mailto:r@tarnside.example',
  ],
  ['_dmarc TXT "v=DMARC1; p=none"', 'warning dmarc/no-reports 5:13', 'v=DMARC1; p=none'],
  ['_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"', 'advice dmarc/monitoring-only 5:23', 'p=none'],
  [
    '_dmarc TXT "v=DMARC1; p=reject; sp=quarantine; rua=mailto:d@larkpost.example"',
    'warning dmarc/weaker-below 5:33',
    'sp=quarantine',
  ],
  ['_dmarc TXT "v=DMARC1; p=reject; pct=5; rua=mailto:d@larkpost.example"', 'advice dmarc/partial 5:33', 'pct=5'],
  [
    '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 -all"\n_dmarc TXT "v=DMARC1; p=quarantine; rua=mailto:d@larkpost.example"',
    'advice dmarc/cannot-pass 7:23',
    'p=quarantine',
  ],
  ['news MX 10 mx.larkpost.example.\n', 'warning dmarc/missing 5:1', 'news'],
  ['@ TXT "v=spf1 -all"', 'warning dmarc/undefended 5:3', 'TXT'],
  ['_dmarc CNAME nothing', 'error dmarc/alias-without-policy 5:14', 'nothing'],
  ['_mta-sts TXT "v=STSv1; id=a-b"\nmta-sts A 192.0.2.1', 'error mta-sts/syntax 5:24', 'id=a-b'],
  ['_mta-sts TXT "STSv1; id=1"\nmta-sts A 192.0.2.1', 'error mta-sts/syntax 5:15', 'STSv1'],
  ['_mta-sts TXT "v=STSv1; id=1"\n_mta-sts TXT "v=STSv1; id=2"', 'error mta-sts/several 6:10', 'TXT'],
  ['_mta-sts.news TXT "v=STSv1; id=1"', 'error mta-sts/host-missing 5:1', '_mta-sts.news'],
  ['_smtp._tls TXT "v=TLSRPTv1; rua=r@larkpost.example"', 'error tls-rpt/syntax 5:33', 'r@larkpost.example'],
  [
    '_smtp._tls TXT "v=TLSRPTv1; rua=mailto:r@larkpost.example"\n_smtp._tls TXT "v=TLSRPTv1; rua=mailto:s@larkpost.example"',
    'error tls-rpt/several 6:12',
    'TXT',
  ],
]
