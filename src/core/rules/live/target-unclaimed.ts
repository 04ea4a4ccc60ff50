import { zoneOfName } from '../../knowledge/answer.ts'
import type { Find, Knowledge } from '../../knowledge/find.ts'
import { targetOf } from '../../mail/spf/budget.ts'
import type { RecordId } from '../../model/zones.ts'
import { bare, foldName, isAtOrBelow, type Name } from '../../names/name.ts'
import { NONE, ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import type { Context, Example, Rule, SetView } from '../rule.ts'
import { SPF_READ } from '../shared/spf-text.ts'
import { reportText } from '../text.ts'
import { SPF_TEXT } from '../traits.ts'

/** An example’s network, which says this of all names. */
const saying =
  (outcomeOf: (name: Name) => Knowledge['outcome']): Find =>
  (end) => ({ steps: [], end, outcome: outcomeOf(end), by: { vantage: 'office', at: 0 } })

/** An example in which these domains do not exist, and all others do. */
const without = (lines: string, ...gone: Name[]): Example => ({
  zones: { 'hollowmere.example': lines },
  around: {
    asked: saying((name) => (gone.some((each) => isAtOrBelow(name, each)) ? 'no-name' : 'no-data')),
  },
})

const GONE = 'larkpost.example.'

interface Leading {
  record: RecordId
  name: Name
  /** In an SPF text: which characters. */
  place?: { start: number; end: number }
}

const leading = (cx: Context): Leading[] => cx.memory((): Leading[] => [])

function targets(set: SetView, cx: Context): void {
  for (const record of set.records) {
    const target = cx.zones.target(record)
    if (target !== NONE && target !== ROOT && !cx.zones.zoneOf(target))
      leading(cx).push({ record, name: cx.name(target) })
  }
}

export const liveTargetUnclaimed: Rule = {
  code: 'live/target-unclaimed',
  severity: 'error',
  source: 'practice: whoever registers a domain answers for it',
  title: 'CNAME, MX, NS, SRV or SPF include that points into a domain that no longer exists',
  why: 'Whoever registers that domain decides what the name leads to: they get the visitors, the mail, or the right to send.',
  remedy: 'Remove the record, or point it to a domain that exists.',
  live: true,
  bad: [
    without('shop CNAME hollowmere.shops.larkpost.example.', GONE),
    without('isle NS ns1.larkpost.example.\nisle NS ns2.upland-dns.example.', GONE),
    without(
      '@ MX 10 mx.larkpost.example.\n@ MX 20 mx.quillwing.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@hollowmere.example"',
      GONE,
    ),
    without('news TXT "v=spf1 include:_spf.larkpost.example -all"', GONE),
  ],
  good: [
    // The domain is there, only the name in it is not: nobody else can take it.
    {
      zones: { 'hollowmere.example': 'shop CNAME gone.larkpost.example.' },
      around: { asked: saying((name) => (name === 'gone.larkpost.example.' ? 'no-name' : 'no-data')) },
    },
    // Nobody answered: nothing is known.
    {
      zones: { 'hollowmere.example': 'shop CNAME gone.larkpost.example.' },
      around: { asked: saying(() => 'unknown') },
    },
    'shop CNAME hollowmere.shops.larkpost.example.',
  ],
  visit: {
    applies: (cx) => cx.around.asked !== undefined,
    set: {
      [TYPE.CNAME]: targets,
      [TYPE.DNAME]: targets,
      [TYPE.MX]: targets,
      [TYPE.NS]: targets,
      [TYPE.SRV]: targets,
      [TYPE.TXT]: {
        when: SPF_TEXT,
        visit(set, cx) {
          for (const record of set.records)
            for (const term of SPF_READ.of(cx.zones, record).record?.terms ?? []) {
              if (!('name' in term) || (term.name !== 'include' && term.name !== 'redirect')) continue
              const name = targetOf(term, cx.name(set.owner))
              if (name !== undefined) leading(cx).push({ record, name, place: term })
            }
        },
      },
    },
    async finish(cx) {
      const all = leading(cx)
      const { asked } = cx.around
      if (!asked || all.length === 0) return
      const { organizationalDomain } = await import('../../names/public-suffix.ts')
      const isKept = (name: Name): boolean => zoneOfName(cx.zones, name) !== undefined
      const byDomain = new Map<Name, Leading[]>()
      for (const each of all) {
        const domain = foldName(organizationalDomain(each.name))
        if (isKept(each.name) || isKept(domain)) continue
        const group = byDomain.get(domain)
        if (group) group.push(each)
        else byDomain.set(domain, [each])
      }
      await Promise.all(
        [...byDomain].map(async ([domain, group]) => {
          if ((await asked(domain, TYPE.A)).outcome !== 'no-name') return
          for (const { record, name, place } of group) {
            const report = {
              message: `${bare(name)} is in ${bare(domain)}, a domain that does not exist`,
              effect: 'Somebody else can register that domain and answer in its place.',
              fix: ['remove the record or point it elsewhere; if the domain is yours, register it again'],
            }
            if (place) reportText(cx, record, place, report)
            else
              cx.report({
                record,
                part: cx.zones.type(record) === TYPE.MX ? 1 : cx.zones.type(record) === TYPE.SRV ? 3 : 0,
                ...report,
              })
          }
        }),
      )
    },
  },
}
