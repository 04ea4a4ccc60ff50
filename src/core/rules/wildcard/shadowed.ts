import { locate } from '../../knowledge/answer.ts'
import type { Zones } from '../../model/zones.ts'
import { type NameId, NONE, ODD_STAR, ROOT } from '../../names/tree.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { listed } from '../look.ts'
import type { Rule } from '../rule.ts'

/** Whether nothing but texts stand at a name and below it, as far as the names in `below` go; and whether any do. */
function onlyTexts(zones: Zones, name: NameId): boolean {
  for (let record = zones.first(name); record !== NONE; record = zones.next(record))
    if (zones.type(record) !== TYPE.TXT) return false
  return true
}

export const wildcardShadowed: Rule = {
  code: 'wildcard/shadowed',
  severity: 'advice',
  source: 'RFC 4592 §2.2, §3.3',
  title: 'existing names at which a wildcard does not answer',
  why: 'A wildcard answers only for names that do not exist at all. If there is one record at a name, even a TXT, or any name below it, the wildcard does not answer there, for any type.',
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
        if (
          tree.labelLength(name) === 1 &&
          name > ROOT &&
          tree.isWildcard(name) &&
          zones.first(name) !== NONE &&
          locate(zones, name) === name
        )
          wildcards.set(tree.parent(name), name)
      })
      if (wildcards.size === 0) return
      const beside = new Map<NameId, NameId[]>()
      /** Names with something other than texts at or below them. */
      const hosts = new Set<NameId>()
      for (let name = 1; name < tree.count; name++) {
        if (!zones.exists(name)) continue
        if (!onlyTexts(zones, name))
          for (let here = name; here > ROOT && !hosts.has(here); here = tree.parent(here)) hosts.add(here)
        const parent = tree.parent(name)
        if (!wildcards.has(parent) || tree.isWildcard(name) || zones.zoneOf(name) !== zones.zoneOf(parent)) continue
        const names = beside.get(parent)
        if (names) names.push(name)
        else beside.set(parent, [name])
      }
      for (const [parent, names] of beside) {
        const wildcard = wildcards.get(parent)!
        const types = new Set<number>()
        for (let record = zones.first(wildcard); record !== NONE; record = zones.next(record))
          types.add(zones.type(record))
        const shadowed = names.filter((name) => {
          // Names of services and policies lack a host's data by their nature; and what has all that the wildcard has, lacks nothing.
          if (tree.labelOctet(name, 0) === 0x5f && !types.has(TYPE.TXT)) return false
          return zones.cut(name) === NONE && !zones.hasCname(name) && [...types].some((type) => !zones.has(name, type))
        })
        if (shadowed.length === 0) continue
        const traps = shadowed.filter(
          (name) =>
            !hosts.has(name) &&
            tree.labelOctet(name, 0) !== 0x5f &&
            (types.has(TYPE.A) || types.has(TYPE.AAAA) || types.has(TYPE.CNAME)),
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
            )}) does not answer at ${listed(shown)}, which ${shown.length === 1 ? 'exists' : 'exist'}${traps.length > 0 ? `; ${listed(sorted(traps))} ${traps.length === 1 ? 'exists' : 'exist'} only because of a TXT record at or below it` : ''}`,
          effect:
            traps.length > 0
              ? `${sorted(traps)[0]} has no address, though the wildcard seems to give it one.`
              : 'These names do not get the wildcard’s records.',
          fix:
            traps.length > 0
              ? [`${sorted(traps)[0]} ${cx.record(record)}`]
              : ['leave it, or write the wildcard’s records at these names, too'],
        })
      }
    },
  },
}
