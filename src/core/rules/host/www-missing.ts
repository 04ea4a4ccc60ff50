import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { isPrivate } from '../look.ts'
import type { Rule } from '../rule.ts'

export const hostWwwMissing: Rule = {
  code: 'host/www-missing',
  severity: 'advice',
  source: 'practice',
  title: 'zone with addresses at its apex but no www',
  why: 'Many people type www in front of a domain out of habit. They are told that the site does not exist.',
  remedy: 'Write www as a CNAME of the apex.',
  bad: ['@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.'],
  good: [
    '@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.\nwww CNAME @',
    '@ A 192.0.2.10\n@ MX 10 mx.larkpost.example.\n* A 192.0.2.10',
  ],
  visit: {
    zone(zone, cx) {
      const { tree } = cx.zones
      if (zone.complete === false || !cx.isAbout(zone.apex) || cx.zones.zoneWithApex(zone.apex) !== zone) return
      const [address] = [...cx.zones.records(zone.apex, TYPE.A), ...cx.zones.records(zone.apex, TYPE.AAAA)]
      if (address === undefined || tree.labelText(zone.apex) === 'www' || isPrivate(cx.zones, zone)) return
      const [www, star] = [tree.find(zone.apex, WWW, 0, 3), tree.find(zone.apex, STAR, 0, 1)]
      if ([www, star].some((name) => name !== NONE && cx.zones.exists(name))) return
      if (
        cx
          .sourcesOf(zone)
          .some(({ problems }) => problems.some((problem) => problem.owner !== undefined && problem.owner === www))
      )
        return
      cx.report({
        record: address,
        part: 'type',
        message: `${zone.name} has addresses, but there is no www.${zone.name}`,
        effect: 'Visitors who type www get an error.',
        fix: [`www.${zone.name} CNAME ${zone.name}`],
      })
    },
  },
}

const WWW = Uint8Array.from('www', (sign) => sign.charCodeAt(0))

const STAR = new Uint8Array([0x2a])
