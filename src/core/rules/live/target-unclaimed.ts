import { zoneOfName } from '../../knowledge/answer.ts'
import type { Knowledge } from '../../knowledge/find.ts'
import { bare, foldName, isAtOrBelow, type Name } from '../../names/name.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { type Leading, leading, leadingOut, network, reportLeading, without } from '../shared/leading-out.ts'

const GONE = 'larkpost.example.'

export const liveTargetUnclaimed: Rule = {
  code: 'live/target-unclaimed',
  severity: 'error',
  source: 'practice: whoever registers a domain answers for it',
  title: 'CNAME, MX, NS, SRV or SPF include that points into a domain that no longer exists',
  why: 'Whoever registers that domain decides what the name leads to: they get the visitors, the mail, or the right to send.',
  remedy: 'Remove the record, or point it to a domain that exists.',
  live: true,
  silences: ['live/target-missing', 'live/key-missing', 'live/spf-missing'],
  bad: [
    without('shop CNAME hollowmere.shops.larkpost.example.', 'example.', GONE),
    without('isle NS ns1.larkpost.example.\nisle NS ns2.upland-dns.example.', 'example.', GONE),
    without(
      '@ MX 10 mx.larkpost.example.\n@ MX 20 mx.quillwing.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@hollowmere.example"',
      'example.',
      GONE,
    ),
    without('news TXT "v=spf1 include:_spf.larkpost.example -all"', 'example.', GONE),
  ],
  good: [
    // A resolver that blocks the domain denies it, too; only the zone above can say that it is free.
    without('shop CNAME shops.larkpost.example.', undefined, GONE),
    // One denies it, and another has it.
    {
      zones: { 'hollowmere.example': 'shop CNAME shops.larkpost.example.' },
      around: {
        ...network(() => ({ outcome: 'no-name', deniedBy: 'example.' })),
        askedOfEach: async (end) => [
          { steps: [], end, outcome: 'no-name', deniedBy: 'example.', by: { vantage: 'office', at: 0 } },
          { steps: [], end, outcome: 'no-data', by: { vantage: 'lake', at: 0 } },
        ],
      },
    },
    // Nobody answered: nothing is known.
    {
      zones: { 'hollowmere.example': 'shop CNAME gone.larkpost.example.' },
      around: network(() => ({ outcome: 'unknown' })),
    },
    'shop CNAME hollowmere.shops.larkpost.example.',
  ],
  visit: {
    ...leadingOut([TYPE.CNAME, TYPE.DNAME, TYPE.MX, TYPE.NS, TYPE.SRV, TYPE.TXT]),
    async finish(cx) {
      const all = leading(cx)
      const each = cx.around.askedOfEach
      if (!each || all.length === 0) return
      const { organizationalDomain } = await import('../../names/public-suffix.ts')
      const byDomain = new Map<Name, Leading[]>()
      for (const one of all) {
        const domain = foldName(organizationalDomain(one.name))
        byDomain.set(domain, [...(byDomain.get(domain) ?? []), one])
      }
      await Promise.all(
        [...byDomain].map(async ([domain, group]) => {
          if (zoneOfName(cx.zones, domain) || !isDeniedByParent(domain, await each(domain, TYPE.A))) return
          for (const one of group)
            reportLeading(cx, one, {
              message: `${bare(one.name)} is in ${bare(domain)}, a domain that does not exist`,
              effect: 'Somebody else can register that domain and answer in its place.',
              fix: ['remove the record or point it elsewhere; if the domain is yours, register it again'],
            })
        }),
      )
    },
  },
}

/** Whether all who know of it say that there is no such domain, and at least one of them with the word of the zone above. */
function isDeniedByParent(domain: Name, said: readonly Knowledge[]): boolean {
  const known = said.filter(({ outcome }) => outcome !== 'unknown')
  return (
    known.length > 0 &&
    known.every(({ outcome }) => outcome === 'no-name') &&
    known.some(({ deniedBy }) => deniedBy !== undefined && deniedBy !== domain && isAtOrBelow(domain, deniedBy))
  )
}
