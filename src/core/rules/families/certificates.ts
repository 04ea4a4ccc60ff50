/** Which certificates and keys are right: TLSA, CAA, and digests wherever they stand. */
import { followAliases, locateWire, UNKNOWN } from '../../knowledge/answer.ts'
import type { RecordId } from '../../model/zones.ts'
import { nameToWire } from '../../names/name.ts'
import { latin1Of } from '../../names/octets.ts'
import { type NameId, ROOT } from '../../names/tree.ts'
import { rdataFields } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { addressesAt, recordsOf } from '../look.ts'
import type { Context, Rule, SetVisit } from '../rule.ts'

const TLSA = `3 1 1 ${'AB'.repeat(32)}`
const PROTOCOLS = /^_(?:tcp|udp|sctp|dccp|quic)$/

export const tlsaOwnerForm: Rule = {
  code: 'tlsa/owner-form',
  severity: 'error',
  source: 'RFC 6698 §3',
  title: 'the owner of a TLSA record is not _port._protocol.host',
  why: 'Clients build the name from the port, the protocol and the host that they connect to. Under any other name, nobody looks.',
  remedy: 'Write the port with its underscore, the protocol with its underscore, then the host.',
  silences: ['tlsa/unsigned'],
  bad: [`mail TLSA ${TLSA}\nmail A 192.0.2.25`, `25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`, `_smtp._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`],
  good: [
    `@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`,
    `key TLSA ${TLSA}\n_443._tcp.www CNAME key\nwww A 192.0.2.10`,
    `*._tcp.www TLSA ${TLSA}\nwww A 192.0.2.10`,
  ],
  visit: {
    set: {
      [TYPE.TLSA](set, cx) {
        const { tree } = cx.zones
        const port = tree.labelText(set.owner)
        if ((port === '*' || (/^_\d{1,5}$/.test(port) && Number(port.slice(1)) <= 65_535)) && PROTOCOLS.test(tree.labelText(tree.parent(set.owner)))) return
        if (port === '*' && /^_\d{1,5}$/.test(port)) return
        cx.memory((): RecordId[] => []).push(set.records[0])
      },
    },
    finish(cx) {
      const found = cx.memory((): RecordId[] => [])
      if (found.length === 0) return
      // A TLSA record may stand anywhere, if an alias leads there from the right name.
      const aliased = new Set<NameId>()
      for (const record of recordsOf(cx.zones, TYPE.CNAME)) aliased.add(cx.zones.target(record))
      for (const record of found) {
        const owner = cx.zones.owner(record)
        if (aliased.has(owner)) continue
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(owner)} is not the owner of a TLSA record: _PORT._PROTOCOL.HOST`,
          consequence: 'No client asks for this name.',
          fix: [`_25._tcp.HOST. ${cx.record(record)}`],
        })
      }
    },
  },
}

const LENGTHS: Record<number, number> = { 1: 32, 2: 64 }

export const tlsaValues: Rule = {
  code: 'tlsa/values',
  severity: 'error',
  source: 'RFC 6698 §2, RFC 7672 §3.1',
  title: 'values of a TLSA record that clients do not know, or that do not fit together',
  why: 'Clients pass over a record that they do not understand; where it is the only one, mail servers may refuse to deliver.',
  remedy: 'Usual for mail: 3 1 1 and the SHA-256 digest of the key.',
  bad: [
    `@ MX 10 mail\n_25._tcp.mail TLSA 4 1 1 ${'AB'.repeat(32)}\nmail A 192.0.2.25`,
    `@ MX 10 mail\n_25._tcp.mail TLSA 3 1 1 ABAB\nmail A 192.0.2.25`,
    `@ MX 10 mail\n_25._tcp.mail TLSA 1 1 1 ${'AB'.repeat(32)}\nmail A 192.0.2.25`,
  ],
  good: [`@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`, `_443._tcp.www TLSA 1 0 2 ${'AB'.repeat(64)}\nwww A 192.0.2.10`],
  visit: {
    set: {
      [TYPE.TLSA](set, cx) {
        const forMail = cx.zones.tree.labelText(set.owner) === '_25'
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          const [usage, selector, matching] = data
          const say = (part: number, message: string, severity: 'error' | 'warning' = 'error'): void =>
            cx.report({
              record,
              part,
              severity,
              message: `TLSA at ${cx.name(set.owner)}: ${message}`,
              consequence: 'Clients pass the record over.',
              fix: [`${cx.name(set.owner)} TLSA 3 1 1 SHA-256-OF-THE-KEY`],
            })
          if (usage > 3 && usage !== 255) say(0, `usage ${usage}; known are 0 to 3`)
          else if (selector > 1 && selector !== 255) say(1, `selector ${selector}; known are 0 and 1`)
          else if (matching > 2 && matching !== 255) say(2, `matching type ${matching}; known are 0 to 2`)
          else if (LENGTHS[matching] !== undefined && data.length - 3 !== LENGTHS[matching])
            say(3, `matching type ${matching} has ${LENGTHS[matching]} octets, and there are ${data.length - 3}`)
          else if (forMail && usage < 2) say(0, `usage ${usage}, which mail servers do not use: 2 or 3`, 'warning')
        }
      },
    },
  },
}

export const tlsaNoExchange: Rule = {
  code: 'tlsa/no-exchange',
  severity: 'warning',
  source: 'RFC 7672 §3',
  title: 'TLSA for mail at a host that is no exchange',
  why: 'Senders look for TLSA at the exchanges that MX names, and nowhere else. At the domain itself, or at an old host, it does nothing.',
  remedy: 'Write it at each exchange.',
  bad: [`@ MX 10 mail\n_25._tcp TLSA ${TLSA}\nmail A 192.0.2.25\n@ A 192.0.2.10\nwww CNAME @`],
  good: [`@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`, `_25._tcp.news TLSA ${TLSA}\nnews A 192.0.2.25`],
  visit: {
    set: {
      [TYPE.TLSA](set, cx) {
        const { tree } = cx.zones
        if (tree.labelText(set.owner) === '_25' && tree.labelText(tree.parent(set.owner)) === '_tcp') cx.memory((): RecordId[] => []).push(set.records[0])
      },
    },
    finish(cx) {
      const { zones } = cx
      const found = cx.memory((): RecordId[] => [])
      if (found.length === 0) return
      const hosts = exchangesOf(cx)
      for (const record of found) {
        const host = zones.tree.parent(zones.tree.parent(zones.owner(record)))
        // A host without MX that has addresses takes its own mail (RFC 5321 §5.1).
        const isOwn = zones.records(host, TYPE.MX).length === 0 && addressesAt(zones, host).length > 0
        if (hosts.has(host) || isOwn) continue
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(host)} has TLSA for mail, and no kept domain has it as exchange`,
          consequence: 'Senders do not look there.',
          fix: [...hosts]
            .filter((each) => zones.zoneOf(each) !== undefined)
            .slice(0, 2)
            .map((each) => `_25._tcp.${cx.name(each)} ${cx.record(record)}`)
            .concat('or leave it, if a domain that is not kept here has it as exchange'),
        })
      }
    },
  },
}

function exchangesOf(cx: Context): Set<NameId> {
  const hosts = new Set<NameId>()
  for (const record of recordsOf(cx.zones, TYPE.MX)) {
    const target = cx.zones.target(record)
    hosts.add(target)
    // Where an exchange is an alias, senders look at the name that it leads to as well (RFC 7672 §2.2.2).
    const { end, steps } = target === ROOT ? { end: undefined, steps: [] } : followAliases(cx.zones, nameToWire(cx.name(target)) as Uint8Array)
    const node = steps.length > 0 && end ? locateWire(cx.zones, end) : UNKNOWN
    if (node >= 0) hosts.add(node)
  }
  return hosts
}

export const tlsaUnsigned: Rule = {
  code: 'tlsa/unsigned',
  severity: 'advice',
  source: 'RFC 7672 §2.2',
  title: 'TLSA in a zone that is not signed',
  why: 'Without DNSSEC anybody on the way could exchange the record, so clients ignore it.',
  remedy: 'Sign the zone. If the server signs it, state “signed: server” in bramblefront.yaml.',
  bad: [`@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`],
  good: [
    { zones: { 'hollowmere.example': `@ MX 10 mail\n_25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25` }, traits: { 'hollowmere.example': { signed: 'server' } } },
  ],
  visit: {
    set: {
      [TYPE.TLSA](set, cx) {
        if ((set.zone.signed !== undefined && set.zone.signed !== 'no') || cx.zones.has(set.zone.apex, TYPE.DNSKEY)) return
        const told = cx.memory(() => new Set<number>())
        if (told.has(set.zone.index)) return
        told.add(set.zone.index)
        cx.report({
          record: set.records[0],
          message: `${cx.name(set.owner)} has TLSA, and ${set.zone.name} is not signed`,
          consequence: 'Clients ignore it.',
          fix: ['sign the zone, or state “signed: server” in bramblefront.yaml if the server does'],
        })
      },
    },
  },
}

const CAA_TAGS = new Set(['issue', 'issuewild', 'iodef', 'contactemail', 'contactphone', 'issuemail', 'issuevmc'])

interface Caa {
  flags: number
  tag: string
  value: string
}

function eachCaa(visit: (caa: Caa, record: RecordId, cx: Context) => void): Rule['visit'] {
  return {
    set: {
      [TYPE.CAA](set, cx) {
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          const behind = 2 + data[1]
          visit({ flags: data[0], tag: latin1Of(data, 2, behind), value: latin1Of(data, behind, data.length) }, record, cx)
        }
      },
    },
  }
}

export const caaTag: Rule = {
  code: 'caa/tag',
  severity: 'error',
  source: 'RFC 8659 §4.1',
  title: 'a CAA tag that is not made as tags are, or an unknown one with the critical bit',
  why: 'An authority that meets a critical tag that it does not know must not issue: no certificate can be had. Without the bit, unknown tags are passed over.',
  remedy: 'Write issue, issuewild or iodef; set flag 128 only where you know that your authority knows the tag.',
  bad: ['@ CAA 128 tbs "unknown"', '@ CAA 128 isue "ca.larkpost.example"'],
  good: ['@ CAA 0 issue "ca.larkpost.example"', '@ CAA 0 tbs "unknown"', '@ CAA 128 issue "ca.larkpost.example"'],
  visit: eachCaa(({ flags, tag }, record, cx) => {
    const lawful = /^[A-Za-z0-9]+$/.test(tag)
    if (lawful && (!(flags & 128) || CAA_TAGS.has(tag.toLowerCase()))) return
    cx.report({
      record,
      part: 1,
      message: lawful ? `the CAA tag ${tag} is not known, and its critical bit is set` : `the CAA tag “${tag}” has other signs than letters and digits`,
      consequence: lawful ? 'No authority that does not know it may issue a certificate.' : 'Authorities may refuse to issue.',
      fix: ['write issue, issuewild or iodef'],
    })
  }),
}

export const caaFlags: Rule = {
  code: 'caa/flags',
  severity: 'error',
  source: 'RFC 8659 §4.1',
  title: 'reserved flag bits set in CAA',
  why: 'Only 128, “critical”, has a meaning. A 1 is usually meant to say that; it says nothing.',
  remedy: 'Write 0, or 128 for critical.',
  bad: ['@ CAA 1 issue "ca.larkpost.example"'],
  good: ['@ CAA 0 issue "ca.larkpost.example"', '@ CAA 128 issue ";"'],
  visit: eachCaa(({ flags }, record, cx) => {
    if ((flags & 127) === 0) return
    cx.report({
      record,
      part: 0,
      message: `the CAA flags are ${flags}; only 0 and 128 have a meaning`,
      consequence: 'The bits are ignored: nothing is critical by them.',
      fix: [`${cx.name(cx.zones.owner(record))} CAA ${flags & 128} ${rdataFields(TYPE.CAA, cx.zones.rdata(record)).slice(1).join(' ')}`],
    })
  }),
}

const LABEL = /^[a-z0-9](?:[a-z0-9-]*[a-z0-9])?$/i
const PARAMETER_VALUE = /^[\x21-\x3a\x3c-\x7e]*$/
const unpadded = (text: string): string => text.replace(/^[ \t]+/, '').replace(/(?<![ \t])[ \t]+$/, '')

/** Whether a value says who may issue: a domain, none, and parameters (RFC 8659 §4.2). */
function isIssuer(value: string): boolean {
  const [domain, ...parameters] = value.split(';').map(unpadded)
  if (domain !== '' && !domain.split('.').every((label) => LABEL.test(label))) return false
  if (parameters.at(-1) === '') parameters.pop()
  return parameters.every((each) => {
    const equals = each.indexOf('=')
    return equals > 0 && LABEL.test(unpadded(each.slice(0, equals))) && PARAMETER_VALUE.test(unpadded(each.slice(equals + 1)))
  })
}

export const caaValue: Rule = {
  code: 'caa/value',
  severity: 'error',
  source: 'RFC 8659 §4.2, §4.4',
  title: 'a malformed CAA value',
  why: 'An authority that cannot read an issue value must take it that nobody may issue. A report address that is no URL gets no reports.',
  remedy: 'For issue and issuewild, the authority’s domain, or “;” for nobody; for iodef, a mailto: or https: address.',
  bad: ['@ CAA 0 issue "https://ca.larkpost.example"', '@ CAA 0 iodef "security@hollowmere.example"', '@ CAA 0 issue "%%%%"'],
  good: [
    '@ CAA 0 issue "ca.larkpost.example; validationmethods=dns-01; account=1"',
    '@ CAA 0 issue ";"',
    '@ CAA 0 issue ""',
    '@ CAA 0 iodef "https://larkpost.example/report"',
  ],
  visit: eachCaa(({ tag, value }, record, cx) => {
    const known = tag.toLowerCase()
    const issue = known === 'issue' || known === 'issuewild' || known === 'issuemail' || known === 'issuevmc'
    if (issue ? isIssuer(value) : known !== 'iodef' || /^(?:mailto:[^@\s]+@[^@\s]+|https?:\/\/\S+)$/i.test(value)) return
    const host = /^[a-z]+:\/\/([^/:]+)/i.exec(value)?.[1]
    cx.report({
      record,
      part: 2,
      message: `the CAA value ${tag} “${value.slice(0, 80)}” is ${issue ? 'not an authority’s domain' : 'no mailto: or https: address'}`,
      consequence: issue ? 'Authorities take it that nobody may issue.' : 'Nobody is told of refused requests.',
      fix: [`${cx.name(cx.zones.owner(record))} CAA 0 ${tag} "${issue ? (host ?? 'AUTHORITY') : value.includes('@') ? `mailto:${value}` : 'mailto:ADDRESS'}"`],
    })
  }),
}

/** Where the octet stands that says of which kind a digest is, where the digest begins, and its octets by kind. */
const DIGESTS: Record<number, { kind: number; from: number; octets: Record<number, number> }> = {
  [TYPE.DS]: { kind: 3, from: 4, octets: { 1: 20, 2: 32, 4: 48 } },
  [TYPE.CDS]: { kind: 3, from: 4, octets: { 1: 20, 2: 32, 4: 48 } },
  [TYPE.SSHFP]: { kind: 1, from: 2, octets: { 1: 20, 2: 32 } },
  [TYPE.ZONEMD]: { kind: 5, from: 6, octets: { 1: 48, 2: 64 } },
}

const ofDigest: SetVisit = (set, cx) => {
  const { kind, from, octets } = DIGESTS[set.type]
  for (const record of set.records) {
    const data = cx.zones.rdata(record)
    const wanted = octets[data[kind]]
    if (wanted === undefined || data.length - from === wanted) continue
    const values = rdataFields(set.type, data)
    cx.report({
      record,
      part: values.length - 1,
      message: `the digest of ${typeText(set.type)} at ${cx.name(set.owner)} has ${data.length - from} octets; one of kind ${data[kind]} has ${wanted}`,
      consequence: 'Nobody can check anything by it, and some servers refuse the file.',
      fix: ['copy the whole digest from where it was made'],
    })
  }
}

export const digestLength: Rule = {
  code: 'digest/length',
  severity: 'error',
  source: 'RFC 4034 §5.1, RFC 4509 §2.1, RFC 6605 §2, RFC 4255 §3.1, RFC 6594, RFC 8976 §2.2',
  title: 'a digest of DS, CDS, SSHFP or ZONEMD that is longer or shorter than its kind is',
  why: 'A part was lost when it was copied, or the kind is another one. Whoever checks by it finds that nothing fits; some servers refuse the whole file.',
  remedy: 'Copy the whole digest, and the number of its kind with it.',
  bad: ['kiosk SSHFP 4 2 AB34\nkiosk A 192.0.2.30', '@ ZONEMD 1 1 1 AB34', `@ CDS 1 13 2 ${'AB'.repeat(31)}`],
  good: [`kiosk SSHFP 4 2 ${'AB'.repeat(32)}\nkiosk A 192.0.2.30`, 'kiosk SSHFP 4 9 AB34\nkiosk A 192.0.2.30'],
  visit: { set: { [TYPE.DS]: ofDigest, [TYPE.CDS]: ofDigest, [TYPE.SSHFP]: ofDigest, [TYPE.ZONEMD]: ofDigest } },
}
