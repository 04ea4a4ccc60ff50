/** How the labels of a name are made: hosts' names, internationalised labels. */

import { entryParts } from '../../file/entry.ts'
import type { RecordId } from '../../model/zones.ts'
import { labelsOf } from '../../names/name.ts'
import { textOf } from '../../names/octets.ts'
import { type NameId, NONE, ODD_EDGE_HYPHEN, ODD_HYPHENS_3_4, ODD_NOT_ASCII, ODD_SIGN, ROOT } from '../../names/tree.ts'
import { rowOf, TYPE, typeText } from '../../records/types.ts'
import type { Context, Part, Rule, SetView } from '../rule.ts'
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
    message: `${owner} has ${typeText(set.type)} and is no host name: ${signsIn(odd)}`,
    consequence: 'Some name servers refuse the whole file, unless told otherwise; browsers, mail servers and certificate authorities refuse the name.',
    fix: ['name the host with letters, digits and inner hyphens only'],
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
      message: `${typeText(set.type)} at ${cx.name(set.owner)} points to ${cx.name(target)}, which is no host name: ${label === '*' ? 'a wildcard’s own name' : signsIn(label)}`,
      consequence: 'Senders and clients may refuse to ask for such a host.',
      fix: ['give the host a name of letters, digits and inner hyphens, and point there'],
    })
  }
}

export const nameNotAHostName: Rule = {
  code: 'name/not-a-host-name',
  severity: 'error',
  source: 'RFC 952, RFC 1123 §2.1, RFC 2181 §11',
  title: 'a target of MX, SRV or NS, or an owner of addresses or MX, that is no host name',
  why: 'The DNS carries any octets, but hosts are named by letters, digits and inner hyphens. Mail servers, browsers and certificate authorities refuse other names, each at another place.',
  remedy: 'Rename the host: letters, digits and hyphens, no hyphen at a label’s beginning or end.',
  bad: ['ferry_kiosk A 192.0.2.40', '-kiosk A 192.0.2.40', '@ MX 10 mail_1.larkpost.example.', '_sip._udp SRV 0 0 5060 sip-.larkpost.example.'],
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

/** For each name in whose own leftmost label the bit is set: the first record that it stands in, and where. */
function eachOddLabel(cx: Context, bit: number, isOdd: (label: string) => boolean, visit: (label: NameId, record: RecordId, part: Part) => void): void {
  const { tree } = cx.zones
  if (!(tree.seenOddness & bit)) return
  const seen = new Set<NameId>()
  const look = (name: NameId, record: RecordId, part: Part): void => {
    for (let here = name; here > ROOT && tree.oddness(here) & bit; here = tree.parent(here)) {
      if (seen.has(here)) continue
      seen.add(here)
      if (isOdd(textOf(tree.label(here)))) visit(here, record, part)
    }
  }
  cx.eachRecord((record) => {
    look(cx.zones.owner(record), record, 'owner')
    const target = cx.zones.target(record)
    if (target !== NONE) look(target, record, rowOf(cx.zones.type(record))!.target!)
  })
}

export const nameNotAnALabel: Rule = {
  code: 'name/not-an-a-label',
  severity: 'error',
  source: 'RFC 5890 §2.3.2.1, RFC 5891',
  title: 'letters that are not ASCII in a name',
  why: 'Programs ask for an internationalised name by its A-label, xn--…, and never for the letters themselves: nobody finds the record.',
  remedy: 'Write the A-label in the zone file.',
  silences: ['cname/target-missing', 'mx/target-without-address', 'srv/target-without-address'],
  bad: ['fähre A 192.0.2.10', 'www CNAME fähre.northlight.example.', 'boot.☃ A 192.0.2.10'],
  good: ['xn--fhre-loa A 192.0.2.10', 'www TXT "die Fähre"'],
  visit: {
    async finish(cx) {
      const found: [NameId, RecordId, Part][] = []
      eachOddLabel(
        cx,
        ODD_NOT_ASCII,
        (label) => /[^\0-\x7f]/.test(label),
        (...each) => found.push(each),
      )
      if (found.length === 0) return
      const { toALabel } = await import('../../names/idna.ts')
      for (const [name, record, part] of found) {
        const label = textOf(cx.zones.tree.label(name))
        const made = toALabel(label)
        const parts = entryParts(cx.zones, record)
        const stretch = part === 'owner' ? parts.owner : parts.values[part as number]
        const written = stretch && textOf(cx.zones.source(record).octets.subarray(...stretch))
        cx.report({
          record,
          part,
          message: `“${label}” in a name has letters that are not ASCII`,
          consequence: 'Nobody asks for these octets: programs ask for the A-label.',
          fix: ['label' in made ? `write ${made.label} in place of ${label}` : `choose another name: ${made.refused}`],
          repair: 'label' in made && written?.includes(label) ? cx.rewriting(record, part, written.split(label).join(made.label)) : undefined,
        })
      }
    },
  },
}

const isALabel = (label: string): boolean => /^xn--/i.test(label)

export const nameBadALabel: Rule = {
  code: 'name/bad-a-label',
  severity: 'error',
  source: 'RFC 5891 §4, RFC 3492',
  title: 'a label with xn-- in front that stands for no internationalised label',
  why: 'Browsers and mail programs decode it, find that it is no name, and refuse it or show it as it is.',
  remedy: 'Make the A-label anew from the letters that are meant.',
  bad: ['www CNAME xn--n3h.northlight.example.', 'xn--99999999 A 192.0.2.10'],
  good: ['xn--fhre-loa A 192.0.2.10'],
  visit: {
    async finish(cx) {
      const found: [NameId, RecordId, Part][] = []
      eachOddLabel(cx, ODD_HYPHENS_3_4, isALabel, (...each) => found.push(each))
      if (found.length === 0) return
      const { toULabel } = await import('../../names/idna.ts')
      for (const [name, record, part] of found) {
        const label = textOf(cx.zones.tree.label(name))
        if (toULabel(label) !== undefined) continue
        cx.report({
          record,
          part,
          message: `${label} in a name is no A-label: what it decodes to, if anything, is not allowed in a name`,
          consequence: 'Programs that decode names refuse it.',
          fix: ['write the A-label of the letters that are meant'],
        })
      }
    },
  },
}

export const nameHyphens34: Rule = {
  code: 'name/hyphens-3-4',
  severity: 'advice',
  source: 'RFC 5891 §4.2.3.1',
  title: 'hyphens in places three and four of a label that is no A-label',
  why: 'Such labels are kept back for encodings like xn--. Registries and some programs refuse them.',
  remedy: 'Use one hyphen, or put the two elsewhere.',
  bad: ['tv--lake A 192.0.2.10'],
  good: ['xn--fhre-loa A 192.0.2.10', 'lake--tv A 192.0.2.10'],
  visit: {
    finish(cx) {
      eachOddLabel(
        cx,
        ODD_HYPHENS_3_4,
        (label) => /^..--/.test(label) && !isALabel(label),
        (name, record, part) =>
          cx.report({
            record,
            part,
            message: `${cx.zones.tree.labelText(name)} in a name has hyphens in places three and four`,
            consequence: 'Registries and some programs refuse such labels.',
            fix: ['use one hyphen there'],
          }),
      )
    },
  },
}
