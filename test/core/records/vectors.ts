/**
 * Record data in text and octets. Where octets stand here they are the standard's own, or follow from its figures by hand;
 * every text, with octets or without, is also read by named and knotd, and what these send is compared (test/servers/types.test.ts).
 */
const FOO_COM = '03666f6f076578616d706c6503636f6d00'
const FOO_ORG = '03666f6f076578616d706c65036f726700'

export const VECTORS: [type: string, text: string, hex?: string][] = [
  ['A', '10.1.0.52', '0a010034'],
  ['NS', 'ns1.upland-dns.example.'],
  ['SOA', '. . 20 7200 10m 5w6d 1h', '000000000014' + '00001c20' + '00000258' + '00360d80' + '00000e10'],
  ['PTR', 'mail.hollowmere.example.'],
  ['HINFO', '"PDP-11/70" UNIX', '095044502d31312f3730' + '04554e4958'],
  ['MX', '10 VENERA.ISI.EDU.', '000a0656454e455241034953490345445500'],
  ['TXT', '"a;b" c\\"d \\255', '03613b620363226401ff'],
  ['RP', 'louie.trantor.umd.edu. LAM1.people.umd.edu.'],
  ['AFSDB', '1 toaster.toaster.com.', '000107746f617374657207746f617374657203636f6d00'],
  ['X25', '311061700956', '0c333131303631373030393536'],
  ['ISDN', '150862028003217 004', '0f313530383632303238303033323137' + '03303034'],
  ['ISDN', '150862028003217', '0f313530383632303238303033323137'],
  ['RT', '10 NET.Prime.COM.'],
  ['AAAA', '4321:0:1:2:3:4:567:89ab', '432100000001000200030004056789ab'],
  // RFC 1876 §4: the first from its example zone; size 1 m, precisions 10 km and 10 m by default (§2: 0x12, 0x16, 0x13).
  ['LOC', '42 21 54 N 71 06 18 W -24m 30m', '00' + '33' + '16' + '13' + '89172dd0' + '70be15f0' + '00988d20'],
  ['LOC', '32 7 19 S 116 2 25 E 10m'],
  ['LOC', '0 0 0.001 N 179 59 59.999 W 0.00m 0.00m 90000000.00m 1m'],
  ['SRV', '1 2 65535 .', '00010002ffff00'],
  ['NAPTR', '100 50 "s" "z3950+I2L+I2C" "" _z3950._tcp.gatech.edu.'],
  ['NAPTR', '100 10 "" "" "!^urn:cid:.+@([^\\\\.]+\\\\.)(.*)$!\\\\2!i" .'],
  ['KX', '10 rt1.hollowmere.example.'],
  ['CERT', 'PGP 0 0 AAECAwQ=', '0003' + '0000' + '00' + '0001020304'],
  ['CERT', '254 65535 RSASHA256 //8=', '00feffff08ffff'],
  ['DNAME', 'frobozz-division.acme.example.'],
  ['APL', '1:192.168.32.0/21 !1:192.168.38.0/28', '00011503c0a820' + '00011c83c0a826'],
  ['APL', '1:224.0.0.0/4 2:FF00:0:0:0:0:0:0:0/8', '00010401e0' + '00020801ff'],
  ['APL', ''],
  // RFC 4034 §5.4.
  ['DS', '60485 5 1 ( 2BB183AF5F22588179A53B0A 98631FAD1A292118 )', 'ec4505012bb183af5f22588179a53b0a98631fad1a292118'],
  ['SSHFP', '2 1 123456789abcdef67890123456789abcdef67890', '0201123456789abcdef67890123456789abcdef67890'],
  // RFC 4025 §3.2, all four kinds of gateway.
  [
    'IPSECKEY',
    '10 1 2 192.0.2.38 AQNRU3mG7TVTO2BkR47usntb102uFJtugbo6BSGvgqt4AQ==',
    '0a0102c0000226' + '0103515379' + '86ed35533b6064478eeeb27b5bd74dae149b6e81ba3a0521af82ab7801',
  ],
  ['IPSECKEY', '10 0 2 . AQNRU3mG7TVTO2BkR47usntb102uFJtugbo6BSGvgqt4AQ=='],
  ['IPSECKEY', '10 3 2 mygateway.example.com. AQNRU3mG7TVTO2BkR47usntb102uFJtugbo6BSGvgqt4AQ=='],
  ['IPSECKEY', '10 2 2 2001:0DB8:0:8002::2000:1 AQNRU3mG7TVTO2BkR47usntb102uFJtugbo6BSGvgqt4AQ=='],
  // RFC 4034 §3.3 and §4.3.
  [
    'RRSIG',
    'A 5 3 86400 20030322173103 ( 20030220173103 2642 example.com. oJB1W6WNGv+ldvQ3WDG0MQkg5IEhjRip8WTr PYGv07h108dUKGMeDPKijVCHX3DDKdfb+v6o B9wfuh3DTJXUAfI/M0zmO/zz8bW0Rznl8O3t GNazPwQKkRN20XPXV6nwwfoXmJQbsLNrLfkG J5D6fwFm8nN+6pBzeDQfsS3Ap3o= )',
  ],
  ['NSEC', 'host.example.com. A MX RRSIG NSEC TYPE1234', '04686f7374076578616d706c6503636f6d00' + '0006400100000003' + '041b' + '00'.repeat(26) + '20'],
  [
    'DNSKEY',
    '256 3 5 ( AQPSKmynfzW4kyBv015MUG2DeIQ3 Cbl+BBZH4b/0PY1kxkmvHjcZc8no kfzj31GajIQKY+5CptLr3buXA10h WqTkF7H6RfoRqXQeogmMHfpftf6z Mv1LyBUgia7za6ZEzOJBOztyvhjL 742iU/TpPSEDhm2SNKLijfUppn1U aNvv4w== )',
  ],
  ['DHCID', 'AAIBY2/AuCccgoJbsaxcQc9TUapptP69lOjxfNuVAA2kjEA='],
  // RFC 5155 §B and appendix A.
  ['NSEC3', '1 1 12 aabbccdd ( 2vptu5timamqttgl4luu9kg21e0aor3s A RRSIG )'],
  ['NSEC3', '1 0 0 - 2vptu5timamqttgl4luu9kg21e0aor3s'],
  ['NSEC3PARAM', '1 0 12 aabbccdd', '0100000c04aabbccdd'],
  ['NSEC3PARAM', '1 0 0 -', '0100000000'],
  ['TLSA', '3 1 1 d2abde240d7cd3ee6b4b28c54df034b97983a1d16e8a410e4561cb106618e971', '030101d2abde240d7cd3ee6b4b28c54df034b97983a1d16e8a410e4561cb106618e971'],
  ['SMIMEA', '3 0 0 00ff', '03000000ff'],
  // RFC 8005 §6.
  [
    'HIP',
    '2 200100107B1A74DF365639CC39F1D578 AwEAAbdxyhNuSutc5EMzxTs9LBPCIkOFH8cIvM4p9+LrV4e19WzK00+CI6zBCQTdtWsuxKbWIy87UOoJTwkUs7lBu+Upr1gsNrut79ryra+bSRGQb1slImA8YVJyuIDsj7kwzG7jnERNqnWxZ48AWkskmdHaVDP4BcelrTI3rMXdXF5D rvs1.example.com. rvs2.example.com.',
  ],
  ['CDS', '0 0 0 00', '0000000000'],
  ['CDNSKEY', '0 3 0 AA==', '0000030000'],
  ['OPENPGPKEY', 'AAEC', '000102'],
  ['CSYNC', '66 3 A NS AAAA', '000000420003' + '000460000008'],
  ['ZONEMD', `2018031500 1 1 ${'ab'.repeat(48)}`, '7848b78c0101' + 'ab'.repeat(48)],
  // RFC 9460 appendix D.1 and D.2.
  ['HTTPS', '0 foo.example.com.', '0000' + FOO_COM],
  ['SVCB', '1 .', '000100'],
  ['SVCB', '16 foo.example.com. port=53', '0010' + FOO_COM + '000300020035'],
  ['SVCB', '1 foo.example.com. key667=hello', '0001' + FOO_COM + '029b000568656c6c6f'],
  ['SVCB', '1 foo.example.com. key667="hello\\210qoo"', '0001' + FOO_COM + '029b000968656c6c6fd2716f6f'],
  [
    'SVCB',
    '1 foo.example.com. ipv6hint="2001:db8::1,2001:db8::53:1"',
    '0001' + FOO_COM + '00060020' + '20010db8000000000000000000000001' + '20010db8000000000000000000530001',
  ],
  ['SVCB', '1 example.com. ipv6hint="2001:db8:122:344::192.0.2.33"', '0001076578616d706c6503636f6d00' + '00060010' + '20010db80122034400000000c0000221'],
  [
    'SVCB',
    '16 foo.example.org. ( alpn=h2,h3-19 mandatory=ipv4hint,alpn ipv4hint=192.0.2.1 )',
    '0010' + FOO_ORG + '0000000400010004' + '0001000902683205' + '68332d3139' + '00040004c0000201',
  ],
  ['SVCB', '16 foo.example.org. alpn="f\\\\\\\\oo\\\\,bar,h2"', '0010' + FOO_ORG + '0001000c08665c6f6f2c626172026832'],
  ['SVCB', '16 foo.example.org. alpn=f\\\\\\092oo\\092,bar,h2', '0010' + FOO_ORG + '0001000c08665c6f6f2c626172026832'],
  ['HTTPS', '1 . alpn=h3 no-default-alpn ech="AEP+DQA=" port=8443'],
  ['SPF', '"v=spf1 -all"'],
  ['NID', '10 0014:4fff:ff20:ee64', '000a00144fffff20ee64'],
  ['L32', '10 10.1.2.0', '000a0a010200'],
  ['L64', '10 2001:0DB8:1140:1000', '000a20010db811401000'],
  ['LP', '10 l64-subnet1.example.com.'],
  ['EUI48', '00-00-5e-00-53-2a', '00005e00532a'],
  ['EUI64', '00-00-5e-ef-10-00-00-2a', '00005eef1000002a'],
  ['URI', '10 1 "ftp://ftp1.example.com/public"', '000a0001' + '6674703a2f2f667470312e6578616d706c652e636f6d2f7075626c6963'],
  ['CAA', '0 issue "ca1.example.net; policy=ev"', '00056973737565' + '6361312e6578616d706c652e6e65743b20706f6c6963793d6576'],
  ['CAA', '128 tbs "Unknown"', '8003746273556e6b6e6f776e'],
  ['CAA', '0 issue ";"', '000569737375653b'],
]
