/** Targets that are no names: an address or a URL where a name must stand. */

import { writtenValue } from '../../file/entry.ts'
import { DROPPED } from '../../model/zones.ts'
import { parseAddress } from '../../names/address.ts'
import type { Name } from '../../names/name.ts'
import { type NameId, ODD_ADDRESS_LIKE, ROOT } from '../../names/tree.ts'
import { rowOf, TYPE, typeText } from '../../records/types.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { NULL_TARGET, ODD_TARGET } from '../traits.ts'

interface Shape {
  type: number
  code: string
  source: string
  silences: string[]
  bad: string[]
  good: string[]
}

/** What stands in front of the zone's own name, where a target spells that out (not in reverse zones, whose names begin with numbers). */
function withoutZone(written: string, zone: string): string {
  const ends = !/\.arpa\.$/i.test(zone) && zone !== '.' && written.toLowerCase().endsWith(`.${zone.toLowerCase()}`)
  return ends ? written.slice(0, -zone.length - 1) : written.replace(/\.$/, '')
}

/** The name in your zones that has an address, if just one does. All addresses are gone through once, when the first is asked for. */
function hostWith(cx: Context, address: Uint8Array): Name | undefined {
  const { zones } = cx
  const hosts = cx.memory(() => {
    const found = new Map<string, NameId | 'several'>()
    for (let record = 0; record < zones.count; record++) {
      const type = zones.type(record)
      if ((type !== TYPE.A && type !== TYPE.AAAA) || zones.flags(record) & DROPPED) continue
      const key = zones.rdata(record).join()
      const host = zones.owner(record)
      const known = found.get(key)
      found.set(key, known === undefined || known === host ? host : 'several')
    }
    return found
  })
  const host = hosts.get(address.join())
  return typeof host === 'number' ? cx.name(host) : undefined
}

export function targetIsAddress({ type, code, source, silences, bad, good }: Shape): Rule {
  const mnemonic = typeText(type)
  const index = rowOf(type)!.target!
  return {
    code,
    severity: 'error',
    source,
    title: `${mnemonic} target that is an address`,
    why: `The address is read as a name: 192.0.2.1 becomes the host “192” in a domain that ends in “1”, or in the zone itself. Nobody finds it, so the ${mnemonic} record leads nowhere.`,
    remedy: 'Give the host a name with that address (A or AAAA), and use that name as the target.',
    silences: ['name/final-dot-missing', 'name/not-a-host-name', ...silences],
    bad,
    good,
    visit: {
      set: {
        [type]: {
          when: ODD_TARGET,
          visit(set: SetView, cx: Context) {
            for (const record of set.records) {
              if (!(cx.zones.tree.oddness(cx.zones.target(record)) & ODD_ADDRESS_LIKE)) continue
              const written = withoutZone(writtenValue(cx.zones, record, index), set.zone.name)
              const address = parseAddress(written)
              if (!address) continue
              const known = hostWith(cx, address)
              const host = known ?? `HOST.${set.zone.name}`
              cx.report({
                record,
                part: index,
                message: `the target of ${mnemonic} at ${cx.name(set.owner)} is the address ${written}; it must be a name`,
                effect: `It is read as the name ${cx.name(cx.zones.target(record))}, which leads nowhere.`,
                fix: [
                  ...(known === undefined ? [`${host} ${address.length === 4 ? 'A' : 'AAAA'} ${written}`] : []),
                  `${cx.name(set.owner)} ${cx.withTarget(record, host)}`,
                ],
              })
            }
          },
        },
      },
    },
  }
}

export function targetIsRoot(type: number, code: string, source: string, why: string, bad: string, good: string): Rule {
  const mnemonic = typeText(type)
  return {
    code,
    severity: 'error',
    source,
    title: `${mnemonic} target that is the root (“.”)`,
    why,
    remedy: `Write the right name, or remove the ${mnemonic} record.`,
    bad: [bad],
    good: [good],
    visit: {
      set: {
        [type]: {
          when: NULL_TARGET,
          visit(set: SetView, cx: Context) {
            for (const record of set.records) {
              if (cx.zones.target(record) !== ROOT) continue
              cx.report({
                record,
                part: 0,
                message: `${mnemonic} at ${cx.name(set.owner)} points to the root (“.”), which is not a host`,
                effect: why,
                fix: [`${cx.name(set.owner)} ${mnemonic} HOST.`],
              })
            }
          },
        },
      },
    },
  }
}
