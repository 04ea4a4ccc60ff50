import type { RecordId } from '../../model/zones.ts'
import type { NameId } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { recordsOf } from '../look.ts'
import type { Rule } from '../rule.ts'
import { TLSA } from './example.ts'

const PROTOCOLS = /^_(?:tcp|udp|sctp|dccp|quic)$/

export const tlsaOwnerForm: Rule = {
  code: 'tlsa/owner-form',
  severity: 'error',
  source: 'RFC 6698 §3',
  title: 'TLSA owner that is not _port._protocol.host',
  why: 'Clients build the name from the port, the protocol and the host that they connect to. They never look at any other name.',
  remedy: 'Write the port with its underscore, the protocol with its underscore, then the host.',
  silences: ['tlsa/unsigned'],
  bad: [
    `mail TLSA ${TLSA}\nmail A 192.0.2.25`,
    `25._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`,
    `_smtp._tcp.mail TLSA ${TLSA}\nmail A 192.0.2.25`,
  ],
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
        if (
          (port === '*' || (/^_\d{1,5}$/.test(port) && Number(port.slice(1)) <= 65_535)) &&
          PROTOCOLS.test(tree.labelText(tree.parent(set.owner)))
        )
          return
        if (port === '*' && /^_\d{1,5}$/.test(port)) return
        cx.memory((): RecordId[] => []).push(set.records[0]!)
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
          message: `${cx.name(owner)} is not a valid TLSA owner (_PORT._PROTOCOL.HOST)`,
          effect: 'No client looks up this name.',
          fix: [`_25._tcp.HOST. ${cx.record(record)}`],
        })
      }
    },
  },
}
