/** Aliases that work, and may surprise: chains, wildcards, fronts; and names that DNAME rewrites. */
import { locate } from '../../knowledge/answer.ts'
import type { Zones } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { rdataKey } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { frontOf } from '../fronts.ts'
import { listed } from '../look.ts'
import type { Rule } from '../rule.ts'
import { ALIAS_TARGET, COVERED, WILDCARD } from '../traits.ts'

/** What an alias leads to inside the kept zones, one step; NONE where that is no alias. */
function step(zones: Zones, alias: NameId): NameId {
  const node = locate(zones, zones.target(zones.records(alias, TYPE.CNAME)[0]))
  return node >= 0 && zones.hasCname(node) ? node : NONE
}

/** Longer chains are given up by some resolvers. */
const LONG = 8

export const cnameChain: Rule = {
  code: 'cname/chain',
  severity: 'advice',
  source: 'RFC 1034 §3.6.2',
  title: 'an alias of an alias',
  why: 'Each step may cost another question, and each link is one more that can break. Some resolvers give up after eight or so.',
  remedy: 'Point at the name at the end.',
  bad: ['www CNAME site\nsite CNAME host\nhost A 192.0.2.10'],
  good: ['www CNAME host\nsite CNAME host\nhost A 192.0.2.10', 'www CNAME site.northlight.example.'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: ALIAS_TARGET,
        visit(set, cx) {
          const { zones } = cx
          // The middle of a chain is spoken of at its beginning; most aliases lead to no alias.
          if (step(zones, set.owner) === NONE) return
          cx.memory((): NameId[] => []).push(set.owner)
        },
      },
    },
    finish(cx) {
      const { zones } = cx
      const heads = cx.memory((): NameId[] => [])
      if (heads.length === 0) return
      const pointedTo = new Set(heads.map((head) => step(zones, head)))
      for (const head of heads) {
        if (pointedTo.has(head)) continue
        const chain = [head]
        for (let here = step(zones, head); here !== NONE && chain.length <= 32 && !chain.includes(here); here = step(zones, here)) chain.push(here)
        if (chain.length > 32 || step(zones, chain[chain.length - 1]) !== NONE) continue
        const [record] = zones.records(head, TYPE.CNAME)
        const end = zones.target(zones.records(chain[chain.length - 1], TYPE.CNAME)[0])
        cx.report({
          record,
          part: 0,
          severity: chain.length > LONG ? 'warning' : 'advice',
          message: `${cx.name(head)} leads to ${cx.name(end)} in ${chain.length} steps: ${listed([...chain.slice(1), end].map(cx.name), 4)}`,
          consequence: chain.length > LONG ? 'Some resolvers give up on the way.' : 'Resolvers may ask once for each step.',
          fix: [`${cx.name(head)} CNAME ${cx.name(end)}`],
        })
      }
    },
  },
}

export const cnameWildcard: Rule = {
  code: 'cname/wildcard',
  severity: 'advice',
  source: 'RFC 4592 §4.3',
  title: 'an alias at a wildcard',
  why: 'Every name that does not exist follows it, names of services and policies such as _dmarc or _sip._tcp included: what is there at the target answers for them, too.',
  remedy: 'Where hosts are meant, write the addresses at the wildcard instead.',
  bad: ['* CNAME site\nsite A 192.0.2.10'],
  good: ['* A 192.0.2.10\nwww CNAME site\nsite A 192.0.2.10'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: WILDCARD,
        visit(set, cx) {
          if (!cx.zones.tree.isWildcard(set.owner)) return
          cx.report({
            record: set.records[0],
            part: 'owner',
            message: `every name below ${cx.name(cx.zones.tree.parent(set.owner))} that does not exist is an alias of ${cx.name(cx.zones.target(set.records[0]))}`,
            consequence: 'Names of services and policies that do not exist follow it as well.',
            fix: [`write the addresses of ${cx.name(cx.zones.target(set.records[0]))} at ${cx.name(set.owner)} instead`],
          })
        },
      },
    },
  },
}

/** Names at which mail programs expect a text, and a web front has none. */
const MAIL_LABEL = /^(?:_dmarc|_domainkey|_mta-sts|_smtp|_report|_tlsrpt)$/

export const cnameFrontForMail: Rule = {
  code: 'cname/front-for-mail',
  severity: 'error',
  source: 'practice',
  title: 'an alias that mail depends on leads to a web front',
  why: 'A front answers with its own addresses and nothing else: the key or policy behind the alias cannot be read, and signatures fail.',
  remedy: 'Point the alias at the name that the mail service gave, past the front.',
  bad: [
    {
      zones: { 'hollowmere.example': 'lark1._domainkey CNAME site.northlight.example.' },
      around: { fronts: [{ label: 'northlight', ranges: [], names: ['site.northlight.example'] }] },
    },
  ],
  good: [
    {
      zones: { 'hollowmere.example': 'lark1._domainkey CNAME lark1.keys.larkpost.example.\nwww CNAME site.northlight.example.' },
      around: { fronts: [{ label: 'northlight', ranges: [], names: ['site.northlight.example'] }] },
    },
  ],
  visit: {
    applies: ({ around }) => (around.fronts?.length ?? 0) > 0,
    set: {
      [TYPE.CNAME](set, cx) {
        let mail = false
        for (let here = set.owner; here > 0; here = cx.zones.tree.parent(here)) mail ||= MAIL_LABEL.test(cx.zones.tree.labelText(here))
        const front = mail ? frontOf(cx, cx.zones.target(set.records[0])) : undefined
        if (!front) return
        cx.report({
          record: set.records[0],
          part: 0,
          message: `${cx.name(set.owner)} leads to ${cx.name(cx.zones.target(set.records[0]))}, ${front}`,
          consequence: 'Receivers find no key or policy there.',
          fix: ['point it at the name that the mail service gave'],
        })
      },
    },
  },
}

export const dnameBelow: Rule = {
  code: 'dname/below',
  severity: 'error',
  source: 'RFC 6672 §2.4',
  title: 'data below a DNAME',
  why: 'Every name below a DNAME is rewritten to one below its target, so the data there is never answered. Some servers refuse the zone.',
  remedy: 'Write the data below the target, or take the DNAME out.',
  bad: ['isle DNAME isle.lakepass.example.\nwww.isle A 192.0.2.10'],
  good: ['isle DNAME isle.lakepass.example.\nisle A 192.0.2.10'],
  visit: {
    record: {
      when: COVERED,
      visit(record, cx) {
        const { zones } = cx
        const owner = zones.owner(record)
        const above = zones.dnameAbove(owner)
        const type = zones.type(record)
        if (above === NONE || zones.zoneOf(owner) !== zones.zoneOfRecord(record) || type === TYPE.NSEC3 || type === TYPE.RRSIG) return
        const told = cx.memory(() => new Set<NameId>())
        if (told.has(owner)) return
        told.add(owner)
        const [dname] = zones.records(above, TYPE.DNAME)
        cx.report({
          record,
          part: 'owner',
          message: `${cx.name(owner)} is below ${cx.name(above)}, which has a DNAME (${cx.where(dname, record)})`,
          consequence: 'It is never answered: every name there is rewritten.',
          fix: [`write it below ${cx.name(zones.target(dname))}`],
        })
      },
    },
  },
}

export const dnameOther: Rule = {
  code: 'dname/other',
  severity: 'error',
  source: 'RFC 6672 §2.4',
  title: 'a DNAME beside a CNAME, or a second DNAME',
  why: 'Which of the two rewrites a name would be a matter of chance. Servers refuse the zone.',
  remedy: 'Keep one of them.',
  silences: ['cname/other-data'],
  bad: ['isle DNAME isle.lakepass.example.\nisle DNAME cove.lakepass.example.', 'isle DNAME isle.lakepass.example.\nisle CNAME cove.lakepass.example.'],
  good: ['isle DNAME isle.lakepass.example.\nisle TXT "moved"'],
  visit: {
    set: {
      [TYPE.DNAME](set, cx) {
        const { zones } = cx
        const key = rdataKey(TYPE.DNAME, zones.rdata(set.records[0]))
        const other = zones.records(set.owner, TYPE.CNAME)[0] ?? set.records.find((record) => rdataKey(TYPE.DNAME, zones.rdata(record)) !== key)
        if (other === undefined) return
        cx.report({
          record: other,
          message: `${cx.name(set.owner)} has ${cx.record(set.records[0])} (${cx.where(set.records[0], other)}) and ${typeText(zones.type(other))} ${zones.rdataText(other)}`,
          consequence: 'Servers refuse the zone.',
          fix: [`keep only one: ${cx.name(set.owner)} ${cx.record(set.records[0])}`],
        })
      },
    },
  },
}

export const dnameBesideNs: Rule = {
  code: 'dname/beside-ns',
  severity: 'error',
  source: 'RFC 6672 §2.3',
  silences: ['name/under-delegation'],
  title: 'a DNAME at a name that is delegated',
  why: 'Below a delegation another zone answers, so the DNAME belongs there. Some servers refuse the zone; others never answer with it.',
  remedy: 'Take the NS set out, or move the DNAME into the delegated zone, at its top.',
  bad: ['isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.\nisle DNAME isle.lakepass.example.'],
  good: ['@ DNAME lakepass.example.', 'isle DNAME isle.lakepass.example.'],
  visit: {
    set: {
      [TYPE.NS](set, cx) {
        if (set.owner === set.zone.apex) return
        const [dname] = cx.zones.records(set.owner, TYPE.DNAME, set.zone.index)
        if (dname === undefined) return
        cx.report({
          record: dname,
          message: `${cx.name(set.owner)} has a DNAME, and is delegated (${cx.where(set.records[0], dname)})`,
          consequence: 'Some servers refuse the zone; others never answer with the DNAME.',
          fix: [`take out ${cx.name(set.owner)} ${cx.record(dname)}, or the NS set`],
        })
      },
    },
  },
}
