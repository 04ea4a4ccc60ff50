import { labelsOf, sameFolded } from '../../names/name.ts'
import { octetsOf } from '../../names/octets.ts'
import type { NameId, NameTree } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule, Severity } from '../rule.ts'
import { ODD_SERVICE } from '../traits.ts'

/** Protocol labels in use: the transports of RFC 8552 §4.1.2, and `_tls`, which some deployments use. */
const PROTOCOLS = new Set(['_tcp', '_udp', '_sctp', '_dccp', '_tls', '_ws', '_wss'])

const USUAL = ['_tcp', '_udp'].map(octetsOf)

/** `_something._tcp` or `_something._udp`, told from the labels alone: most owners are that. */
function isUsual(tree: NameTree, owner: NameId): boolean {
  const protocol = tree.label(tree.parent(owner))
  return (
    tree.label(owner)[0] === 0x5f &&
    USUAL.some((each) => each.length === protocol.length && sameFolded(protocol, 0, each, 0, each.length)) &&
    !isProtocol(tree.label(owner))
  )
}

const isProtocol = (label: Uint8Array): boolean =>
  USUAL.some((each) => each.length === label.length && sameFolded(label, 0, each, 0, each.length))

interface Trouble {
  message: string
  fix?: string
  severity?: Severity
}

/** What is wrong with the owner of an SRV record, if anything is. */
function troubleOf(owner: string): Trouble | undefined {
  const labels = labelsOf(owner.toLowerCase())
  const [service = '', protocol = '', third = ''] = labels
  const rest = (from: number) =>
    labels
      .slice(from)
      .map((label) => label + '.')
      .join('')
  if (service === '*' || (service.startsWith('_') && PROTOCOLS.has(protocol))) return undefined
  // A service instance (RFC 6763 §4.1): any text, then the service and the protocol.
  if (!PROTOCOLS.has(service) && protocol.startsWith('_') && PROTOCOLS.has(third)) return undefined
  if (PROTOCOLS.has(service) && protocol !== '') {
    if (protocol.startsWith('_'))
      return { message: 'the protocol comes before the service', fix: `${protocol}.${service}.${rest(2)}` }
    return { message: `the service is missing in front of ${service}`, fix: `_SERVICE.${service}.${rest(1)}` }
  }
  const bareProtocol = PROTOCOLS.has('_' + protocol)
  if (service.startsWith('_') && bareProtocol)
    return { message: `“${protocol}” lacks its underscore`, fix: `${service}._${protocol}.${rest(2)}` }
  if (!service.startsWith('_') && PROTOCOLS.has(protocol))
    return { message: `“${service}” lacks its underscore`, fix: `_${service}.${protocol}.${rest(2)}` }
  if (!service.startsWith('_') && bareProtocol)
    return {
      message: `“${service}” and “${protocol}” lack their underscores`,
      fix: `_${service}._${protocol}.${rest(2)}`,
    }
  if (service.startsWith('_') && protocol.startsWith('_'))
    return {
      message: `“${protocol}” is not a protocol that clients look up`,
      fix: `${service}._tcp.${rest(2)}`,
      severity: 'warning',
    }
  if (service.startsWith('_'))
    return { message: `the protocol is missing after ${service}`, fix: `${service}._tcp.${rest(1)}` }
  return { message: 'the service and the protocol are missing', fix: `_SERVICE._tcp.${rest(0)}` }
}

export const srvOwnerForm: Rule = {
  code: 'srv/owner-form',
  severity: 'error',
  source: 'RFC 2782, RFC 8552 §2',
  title: 'SRV owner that is not _service._protocol.name',
  why: 'Clients build the name from the service, the protocol and the domain. They never look at any other name.',
  remedy: 'Write the service with its underscore, the protocol with its underscore, then the domain that people type.',
  bad: [
    'xmpp-client._tcp SRV 0 0 5222 chat\nchat A 192.0.2.30',
    '_xmpp-client.tcp SRV 0 0 5222 chat\nchat A 192.0.2.30',
    'xmpp-client.tcp SRV 0 0 5222 chat\nchat A 192.0.2.30',
    '_tcp._xmpp-client SRV 0 0 5222 chat\nchat A 192.0.2.30',
    '_xmpp-client SRV 0 0 5222 chat\nchat A 192.0.2.30',
    'chat SRV 0 0 5222 chat\nchat A 192.0.2.30',
    '_xmpp-client._tpc SRV 0 0 5222 chat\nchat A 192.0.2.30',
  ],
  good: [
    '_xmpp-client._tcp SRV 0 0 5222 chat\n_sips._tls SRV 0 0 5061 chat\nchat A 192.0.2.30',
    'Front\\032Desk._ipp._tcp SRV 0 0 631 desk\ndesk A 192.0.2.40',
    '_ldap._tcp.dc._msdcs SRV 0 0 389 directory\ndirectory A 192.0.2.41',
  ],
  visit: {
    set: {
      [TYPE.SRV]: {
        when: ODD_SERVICE,
        visit(set, cx) {
          if (isUsual(cx.zones.tree, set.owner)) return
          const owner = cx.name(set.owner)
          const trouble = troubleOf(owner)
          if (!trouble) return
          const [record] = set.records
          cx.report({
            record,
            part: 'owner',
            severity: trouble.severity,
            message: `${owner} is not a valid SRV owner: ${trouble.message}`,
            effect: 'No client looks up this name, so the service is not found.',
            fix: trouble.fix ? set.records.map((each) => `${trouble.fix} ${cx.record(each)}`) : [],
          })
        },
      },
    },
  },
}
