/** Wildcards: what they cover, and what not. */

import { locate } from '../../knowledge/answer.ts'
import { isDmarc } from '../../mail/dmarc/record.ts'
import type { Zones } from '../../model/zones.ts'
import { type NameId, NONE, ODD_STAR, ROOT } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { STRAY_STAR, WILDCARD } from '../traits.ts'

/** Whether nothing but texts stand at a name and below it, as far as the names in `below` go; and whether any do. */
function onlyTexts(zones: Zones, name: NameId): boolean {
  for (let record = zones.first(name); record !== NONE; record = zones.next(record)) if (zones.type(record) !== TYPE.TXT) return false
  return true
}

export const wildcardShadowed: Rule = {
  code: 'wildcard/shadowed',
  severity: 'advice',
  source: 'RFC 4592 §2.2, §3.3',
  title: 'names at which a wildcard does not answer, because they exist',
  why: 'A wildcard answers for names that do not exist at all. One record at a name, even a text, or a name below it, and the wildcard is silent there, for every type.',
  remedy: 'Write at the name what the wildcard would have answered.',
  bad: [
    '*.lake A 192.0.2.10\npier.lake MX 10 mx.larkpost.example.\npier.lake MX 20 mx2.larkpost.example.',
    '* A 192.0.2.10\n_acme-challenge.app TXT "proof"',
    '* A 192.0.2.10\napp TXT "proof"',
  ],
  good: [
    '*.lake A 192.0.2.10\npier.lake A 192.0.2.11',
    '*.lake A 192.0.2.10\nlake A 192.0.2.11\n_dmarc.lake TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"',
  ],
  visit: {
    finish(cx) {
      const { zones } = cx
      const { tree } = zones
      if (!(tree.seenOddness & ODD_STAR)) return
      const wildcards = new Map<NameId, NameId>()
      cx.eachName((name) => {
        if (tree.labelLength(name) === 1 && name > ROOT && tree.isWildcard(name) && zones.first(name) !== NONE && locate(zones, name) === name)
          wildcards.set(tree.parent(name), name)
      })
      if (wildcards.size === 0) return
      const beside = new Map<NameId, NameId[]>()
      /** Names with something other than texts at or below them. */
      const hosts = new Set<NameId>()
      for (let name = 1; name < tree.count; name++) {
        if (!zones.exists(name)) continue
        if (!onlyTexts(zones, name)) for (let here = name; here > ROOT && !hosts.has(here); here = tree.parent(here)) hosts.add(here)
        const parent = tree.parent(name)
        if (!wildcards.has(parent) || tree.isWildcard(name) || zones.zoneOf(name) !== zones.zoneOf(parent)) continue
        const names = beside.get(parent)
        if (names) names.push(name)
        else beside.set(parent, [name])
      }
      for (const [parent, names] of beside) {
        const wildcard = wildcards.get(parent)!
        const types = new Set<number>()
        for (let record = zones.first(wildcard); record !== NONE; record = zones.next(record)) types.add(zones.type(record))
        const shadowed = names.filter((name) => {
          // Names of services and policies lack a host's data by their nature; and what has all that the wildcard has, lacks nothing.
          if (tree.labelOctet(name, 0) === 0x5f && !types.has(TYPE.TXT)) return false
          return zones.cut(name) === NONE && !zones.hasCname(name) && [...types].some((type) => !zones.has(name, type))
        })
        if (shadowed.length === 0) continue
        const traps = shadowed.filter(
          (name) => !hosts.has(name) && tree.labelOctet(name, 0) !== 0x5f && (types.has(TYPE.A) || types.has(TYPE.AAAA) || types.has(TYPE.CNAME)),
        )
        const record = zones.first(wildcard)
        const sorted = (list: readonly NameId[]): string[] => list.map(cx.name).sort()
        const shown = [...sorted(traps), ...sorted(shadowed.filter((name) => !traps.includes(name)))]
        cx.report({
          record,
          part: 'owner',
          severity: traps.length > 0 ? 'warning' : 'advice',
          message: `${cx.name(wildcard)} (${[...types]
            .sort((a, b) => a - b)
            .map(typeText)
            .join(
              ', ',
            )}) does not answer at ${listed(shown)}, which ${shown.length === 1 ? 'exists' : 'exist'}${traps.length > 0 ? `; ${listed(sorted(traps))} ${traps.length === 1 ? 'exists' : 'exist'} only through a text at or below it` : ''}`,
          consequence:
            traps.length > 0
              ? `${sorted(traps)[0]} has no address, though the wildcard seems to give it one.`
              : 'Those names do not have what the wildcard gives.',
          fix: traps.length > 0 ? [`${sorted(traps)[0]} ${cx.record(record)}`] : ['leave it, or write at those names what the wildcard has'],
        })
      }
    },
  },
}

export const wildcardNotLeftmost: Rule = {
  code: 'wildcard/not-leftmost',
  severity: 'advice',
  source: 'RFC 4592 §2.1.1',
  title: '“*” that is not the whole leftmost label',
  why: 'Only a leftmost label that is “*” alone is a wildcard. Elsewhere it is a sign like any other, and the name is asked for by nobody.',
  remedy: 'Write a wildcard of the whole label, or each name by itself.',
  silences: ['name/not-a-host-name'],
  bad: ['lake*.pier A 192.0.2.10', 'www.*.pier A 192.0.2.10'],
  good: ['*.pier A 192.0.2.10'],
  visit: {
    record: {
      when: STRAY_STAR,
      visit(record, cx) {
        const owner = cx.zones.owner(record)
        const told = cx.memory(() => new Set<NameId>())
        if (told.has(owner)) return
        told.add(owner)
        cx.report({
          record,
          part: 'owner',
          message: `“*” in ${cx.name(owner)} does nothing special there`,
          consequence: 'The record answers for a name with a real “*” in it, which nobody asks for.',
          fix: ['make “*” the whole leftmost label, or write the names one by one'],
        })
      },
    },
  },
}

const isKey = (text: string): boolean => /(?:^|;)\s*p\s*=\s*[A-Za-z0-9+/]/.test(text) && /^\s*(?:v\s*=\s*DKIM1|k\s*=|p\s*=)/i.test(text)

export const wildcardAnswersForPolicy: Rule = {
  code: 'wildcard/answers-for-policy',
  severity: 'advice',
  source: 'RFC 7489, RFC 6376 §3.6.2',
  title: 'a wildcard text that answers where mail programs look for policies and keys',
  why: 'It answers for _dmarc, for every selector below _domainkey and for report consents of all names that do not exist. A policy or a key in it is then one for everybody.',
  remedy: 'Write texts at the names that are meant.',
  bad: [
    '* TXT "hello"',
    '* TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"',
    '* TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="',
  ],
  good: ['*._domainkey TXT "v=DKIM1; p="', '*._report._dmarc TXT "v=DMARC1"', 'www TXT "hello"'],
  visit: {
    set: {
      [TYPE.TXT]: {
        when: WILDCARD,
        visit(set, cx) {
          const { tree } = cx.zones
          if (!tree.isWildcard(set.owner)) return
          // Below such labels the text is meant for them.
          let below = false
          for (let here = tree.parent(set.owner); here > ROOT; here = tree.parent(here)) below ||= /^_(?:dmarc|report)$/.test(tree.labelText(here))
          const selector = tree.labelText(tree.parent(set.owner)) === '_domainkey'
          const policy = set.records.find((record) => {
            const text = joined(cx.zones.rdata(record))
            return (isDmarc(text) && !below) || isKey(text)
          })
          if (policy === undefined && (below || selector)) return
          const [record] = policy === undefined ? set.records : [policy]
          cx.report({
            record,
            severity: policy === undefined ? 'advice' : 'error',
            message: `${cx.name(set.owner)} answers with ${policy === undefined ? 'a text' : 'a policy or a key'} for _dmarc, _domainkey and every other name below ${cx.name(tree.parent(set.owner))} that does not exist`,
            consequence:
              policy === undefined ? 'Mail programs find a text where they look for a policy.' : 'It is a policy or key for every name, made-up ones included.',
            fix: ['write the text at the names that are meant'],
          })
        },
      },
    },
  },
}

export const wildcardDelegation: Rule = {
  code: 'wildcard/delegation',
  severity: 'error',
  source: 'RFC 4592 §4.2',
  title: 'NS at a wildcard',
  why: 'What a delegation of every name would mean is not defined. Some servers refuse the whole zone; others, and resolvers, treat it differently.',
  remedy: 'Delegate each name by itself.',
  bad: ['*.isle NS ns1.upland-dns.example.\n*.isle NS ns2.upland-dns.example.'],
  good: ['isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.'],
  visit: {
    set: {
      [TYPE.NS]: {
        when: WILDCARD,
        visit(set, cx) {
          if (!cx.zones.tree.isWildcard(set.owner)) return
          cx.report({
            record: set.records[0],
            part: 'owner',
            message: `${cx.name(set.owner)} is delegated, and is a wildcard`,
            consequence: 'Some servers refuse the whole zone; the others do not agree on what it means.',
            fix: ['delegate each name by itself'],
          })
        },
      },
    },
  },
}
