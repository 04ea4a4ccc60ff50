/**
 * Service names that administrators publish by SRV, registered or in long use, and their usual ports (RFC 6335, and the registry that it describes).
 * A name without a port is registered without one. Several ports: all are usual.
 */
const TABLE = `
mail access and submission: imap 143, imaps 993, pop3 110, pop3s 995, submission 587, submissions 465, sieve 4190 2000, smtp 25, autodiscover 443, smtps 465, jmap 443
calendars and contacts: caldav 80 8008, caldavs 443 8443, carddav 80 8008, carddavs 443 8443
chat: xmpp-client 5222 443 5223, xmpp-server 5269 5270, xmpps-client 5223, xmpps-server 5270, xmpp-bosh 5280, irc 194, ircs-u 6697, matrix 8448 443, matrix-fed 8448 443, jabber 5269, im, pres, msrp 2855, msrps 2855
telephony: sip 5060 5061, sips 5061, sipfederationtls 5061, sipinternaltls 5061, sipinternal 5060, ts3 9987, tsdns 41144, mumble 64738, h323cs 1720, h323ls 1719, stun 3478 5349 19302, stuns 5349, stun-behavior 3478, turn 3478 5349, turns 5349, rtsp 554, rtsps 322
directories and accounts: ldap 389 3268, ldaps 636 3269, gc 3268 3269, kerberos 88, kerberos-adm 749, kerberos-master 88, kerberos-tls, kpasswd 464, radius 1812, radius-acct 1813, radsec 2083, radiustls 2083, radiusdtls 2083, diameter 3868, diameters 5868, certificates, crls, ocsp
key servers: hkp 11371, hkps 443, pgpkey-http 80, pgpkey-https 443, openpgpkey 443, pkixrep
time: ntp 123, ptp-event 319, time 37, daytime 13, ntske 4460
remote access and files: ssh 22, sftp-ssh 22, sftp 115, telnet 23, telnets 992, rfb 5900, nfs 2049, smb 445, ftp 21, ftps 990, tftp 69, webdav 80, webdavs 443, rsync 873
web: http 80 8080, https 443 8443, http-alt 8080, www-http 80, ws 80, wss 443, acme-server 443, rdap 443
names: domain 53, domain-s 853, dns-llq 5352, dns-llq-tls 443, dns-push-tls 853, dns-update 53, dns-update-tls 853, dns-sd 5353, nameserver 42, whois 43, whoispp 63, rwhois 4321, finger 79, gopher 70, z3950 210
network: snmp 161, snmptrap 162, snmptls 10161, syslog 514, syslog-tls 6514, ipfix 4739, netconf-ssh 830, netconf-tls 6513, restconf 443, bootps 67, dhcp-failover 647, capwap-control 5246, isakmp 500, l2tp 1701, ident 113, slp 427, beep 10288, iris-beep 702, soap-beep 605
windows: vlmcs 1688, msdcs, autodiscover-s 443
things and queues: mqtt 1883, secure-mqtt 8883, amqp 5672, amqps 5671, coap 5683, coaps 5684, nntp 119, nntps 563
printing and scanning: ipp 631, ipps 631, printer 515, pdl-datastream 9100, scanner, uscan, uscans, workstation 9, device-info
pictures of people: avatars 80, avatars-sec 443
`

const PORTS = new Map<string, number[]>()
for (const line of TABLE.trim().split('\n'))
  for (const entry of line.slice(line.indexOf(':') + 1).split(',')) {
    const [name = '', ...ports] = entry.trim().split(' ')
    PORTS.set(name, ports.map(Number))
  }

/** The ports that a service (without its underscore, any case) is registered with; undefined for one that is not in the table. */
export const portsOf = (service: string): readonly number[] | undefined => PORTS.get(service.toLowerCase())

/** All names of the table. */
export const serviceNames = (): string[] => [...PORTS.keys()]
