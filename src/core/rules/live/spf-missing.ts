import { spfIn } from '../../mail/spf/budget.ts'
import { bare } from '../../names/name.ts'
import { octetsOf } from '../../names/octets.ts'
import { TYPE } from '../../records/types.ts'
import type { Rule } from '../rule.ts'
import { leading, leadingOut, network, reportLeading, saidOf, without } from '../shared/leading-out.ts'

const INCLUDING = 'news TXT "v=spf1 include:_spf.larkpost.example -all"'

export const liveSpfMissing: Rule = {
  code: 'live/spf-missing',
  severity: 'error',
  source: 'RFC 7208 §5.2, §6.1',
  title: 'SPF include or redirect of a domain that has no SPF record',
  why: 'Receivers treat an include or redirect of a domain without an SPF record as a permanent error.',
  remedy: 'Remove the term, or ask the service for the present one.',
  live: true,
  bad: [
    { zones: { 'hollowmere.example': INCLUDING }, around: network(() => ({ outcome: 'no-data' })) },
    without(INCLUDING, 'larkpost.example.', '_spf.larkpost.example.'),
  ],
  good: [
    {
      zones: { 'hollowmere.example': INCLUDING },
      around: network((owner, type) => {
        const octets = octetsOf('v=spf1 -all')
        return { outcome: 'data', set: { owner, type, ttl: 60, data: [new Uint8Array([octets.length, ...octets])] } }
      }),
    },
    { zones: { 'hollowmere.example': INCLUDING }, around: network(() => ({ outcome: 'unknown' })) },
    INCLUDING,
  ],
  visit: {
    ...leadingOut([TYPE.TXT]),
    async finish(cx) {
      await Promise.all(
        leading(cx).map(async (one) => {
          const [said] = (await saidOf(cx, one.name, [TYPE.TXT])) ?? []
          if (!said || spfIn(said) !== 'none') return
          reportLeading(cx, one, {
            message: `${bare(one.name)} ${said.outcome === 'no-name' ? 'does not exist' : 'has no SPF record'}`,
            effect: 'Receivers treat this as a permanent error (permerror): by SPF, mail of every sender may fail.',
            fix: ['remove the term, or ask the service for the present one'],
          })
        }),
      )
    },
  },
}
