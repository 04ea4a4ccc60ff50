/** Exchanges and services that the outside cannot reach, or reaches through a web front. */

import { ROOT } from '../../names/tree.ts'
import { rowOf, typeText } from '../../records/types.ts'
import { frontOf } from '../fronts.ts'
import { hostAddresses, isPrivate, isUnreachable, listed, notPublicName } from '../look.ts'
import type { Example, Rule } from '../rule.ts'
import { ALIAS_TARGET, OUTSIDE_TARGET, UNREACHABLE_TARGET } from '../traits.ts'

interface Shape {
  type: number
  code: string
  bad: Example[]
  good: Example[]
}

export function targetNotPublic({ type, code, bad, good }: Shape): Rule {
  const mnemonic = typeText(type)
  return {
    code,
    severity: 'error',
    source: 'RFC 6761, RFC 6762, RFC 7686, RFC 8375, RFC 9476, RFC 1918',
    title: `${mnemonic} target is not reachable from the public Internet`,
    why: 'Names such as mail.local, and addresses such as 10.0.0.25, mean something in one network only. Elsewhere they lead nowhere, or to a different host.',
    remedy: 'Point the record at a host with a public name and a public address.',
    silences: [`${mnemonic.toLowerCase()}/target-without-address`, 'name/final-dot-missing', 'address/not-public'],
    bad,
    good,
    visit: {
      set: {
        [type]: {
          when: OUTSIDE_TARGET | ALIAS_TARGET | UNREACHABLE_TARGET,
          visit(set, cx) {
            if (isPrivate(cx.zones, set.zone)) return
            for (const record of set.records) {
              const target = cx.zones.target(record)
              if (target === ROOT) continue
              const host = hostAddresses(cx.zones, target)
              const inside =
                host !== undefined &&
                host.records.length > 0 &&
                host.records.every((each) => isUnreachable(cx.zones.rdata(each)))
              const because = inside
                ? `its ${host.records.length === 1 ? 'address is' : 'addresses are'} not public: ${listed(host.records.map((each) => cx.zones.rdataText(each)))}`
                : notPublic(cx.zones.zoneOf(target) === undefined ? cx.name(target) : undefined)
              if (!because) continue
              cx.report({
                record,
                also: inside ? host.records : undefined,
                part: rowOf(type)!.target!,
                message: `${mnemonic} at ${cx.name(set.owner)} points to ${cx.name(target)}: ${because}`,
                effect: 'It cannot be reached from the public Internet.',
                fix: ['point the record at a host with a public name and address'],
              })
            }
          },
        },
      },
    },
  }
}

const notPublic = (name: string | undefined): string | undefined => {
  const reason = name && notPublicName(name)
  return reason && `it is ${reason}`
}

export function targetFronted({ type, code, bad, good }: Shape): Rule {
  const mnemonic = typeText(type)
  return {
    code,
    severity: 'error',
    source: 'practice',
    title: `${mnemonic} target behind a web front`,
    why: 'A web front forwards web traffic and nothing else. Connections for mail or other services end there.',
    remedy: 'Give the host a name that bypasses the web front, and point the record there.',
    bad,
    good,
    visit: {
      applies: ({ around }) => (around.fronts?.length ?? 0) > 0,
      set: {
        [type](set, cx) {
          for (const record of set.records) {
            const front = frontOf(cx, cx.zones.target(record))
            if (!front) continue
            cx.report({
              record,
              part: rowOf(type)!.target!,
              message: `${mnemonic} at ${cx.name(set.owner)} points to ${cx.name(cx.zones.target(record))}, ${front}`,
              effect: 'The web front does not forward such connections.',
              fix: ['give the host a name of its own with its real address, and use that'],
            })
          }
        },
      },
    },
  }
}

export const FRONTS = {
  fronts: [{ label: 'northlight', ranges: ['203.0.113.0/24'], names: ['edge.northlight.example'] }],
}
