import { labelsOf } from '../../names/name.ts'
import { ODD_EDGE_HYPHEN, ODD_NOT_ASCII, ODD_SIGN } from '../../names/tree.ts'
import { rowOf, TYPE, typeText } from '../../records/types.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { ODD_OWNER, ODD_TARGET } from '../traits.ts'

/** What no host's name has in a label: signs, or a hyphen at its edge. Of letters that are not ASCII another rule speaks. */
const NO_HOST = ODD_SIGN | ODD_EDGE_HYPHEN

function oddLabel(name: string): string | undefined {
  return labelsOf(name).find((label) => label !== '*' && !/^[a-z0-9](?:[a-z0-9-]*[a-z0-9])?$/i.test(label))
}

/** The odd label of an owner; none where labels with an underscore in front say that the name is no host's, but looked up by a program. */
function oddOwner(name: string): string | undefined {
  const labels = labelsOf(name)
  if (labels.slice(1).some((label) => label.startsWith('_'))) return undefined
  return oddLabel(name)
}

function ownerVisitor(set: SetView, cx: Context): void {
  if (!(cx.zones.tree.oddness(set.owner) & NO_HOST) || cx.zones.tree.oddness(set.owner) & ODD_NOT_ASCII) return
  const owner = cx.name(set.owner)
  const odd = oddOwner(owner)
  if (odd === undefined) return
  cx.report({
    record: set.records[0],
    part: 'owner',
    severity: 'warning',
    message: `${owner} has ${typeText(set.type)} records but is not a valid host name: ${signsIn(odd)}`,
    effect:
      'Some name servers refuse the whole file by default; browsers, mail servers and certificate authorities reject the name.',
    fix: ['rename the host: letters, digits and inner hyphens only'],
  })
}

function signsIn(label: string): string {
  if (label.startsWith('-') || label.endsWith('-')) return `a label begins or ends with a hyphen (${label})`
  const signs = [...new Set(label.match(/[^a-z0-9-]/gi))].join(' ')
  return `${signs === '_' ? 'an underscore' : signs} in ${label}`
}

function targetVisitor(set: SetView, cx: Context): void {
  const index = rowOf(set.type)!.target!
  for (const record of set.records) {
    const target = cx.zones.target(record)
    const odd = cx.zones.tree.oddness(target)
    if (!(odd & NO_HOST) || odd & ODD_NOT_ASCII) continue
    const label = oddLabel(cx.name(target)) ?? '*'
    cx.report({
      record,
      part: index,
      message: `${typeText(set.type)} at ${cx.name(set.owner)} points to ${cx.name(target)}, which is not a valid host name: ${label === '*' ? 'a wildcard’s own name' : signsIn(label)}`,
      effect: 'Senders and clients may refuse to look up such a host.',
      fix: ['give the host a name of letters, digits and inner hyphens, and point there'],
    })
  }
}

export const nameNotAHostName: Rule = {
  code: 'name/not-a-host-name',
  severity: 'error',
  source: 'RFC 952, RFC 1123 §2.1, RFC 2181 §11',
  title: 'owner or target of address, MX, SRV or NS records that is not a valid host name',
  why: 'DNS carries any octets, but host names consist of letters, digits and inner hyphens. Mail servers, browsers and certificate authorities reject other names, each in its own way.',
  remedy: 'Rename the host: letters, digits and hyphens, with no hyphen at the beginning or end of a label.',
  bad: [
    'ferry_kiosk A 192.0.2.40',
    '-kiosk A 192.0.2.40',
    '@ MX 10 mail_1.larkpost.example.',
    '_sip._udp SRV 0 0 5060 sip-.larkpost.example.',
  ],
  good: [
    '*.lake A 192.0.2.40',
    'gc._msdcs A 192.0.2.41',
    '@ TXT "v=spf1 exists:%{i}._spf.hollowmere.example -all"\n192.0.2.9._spf A 127.0.0.2',
    '_imaps._tcp SRV 0 1 993 mail-1\nmail-1 A 192.0.2.25',
    'lark1._domainkey CNAME lark1._domainkey.larkpost.example.',
  ],
  visit: {
    set: {
      [TYPE.A]: { when: ODD_OWNER, visit: ownerVisitor },
      [TYPE.AAAA]: { when: ODD_OWNER, visit: ownerVisitor },
      [TYPE.MX]: {
        when: ODD_OWNER | ODD_TARGET,
        visit(set, cx) {
          ownerVisitor(set, cx)
          targetVisitor(set, cx)
        },
      },
      [TYPE.SRV]: { when: ODD_TARGET, visit: targetVisitor },
      [TYPE.NS]: { when: ODD_TARGET, visit: targetVisitor },
    },
  },
}
