/** Targets that are no names: an address or a URL where a name must stand. */

import { writtenValue } from '../../file/entry.ts'
import { parseAddress } from '../../names/address.ts'
import { ODD_ADDRESS_LIKE, ODD_COLON_OR_SLASH, ROOT } from '../../names/tree.ts'
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

function targetIsAddress({ type, code, source, silences, bad, good }: Shape): Rule {
  const mnemonic = typeText(type)
  const index = rowOf(type)!.target!
  return {
    code,
    severity: 'error',
    source,
    title: `an address where the target of ${mnemonic} must be a name`,
    why: `The address is read as a name: 192.0.2.1 becomes the host “192” in a domain that ends in “1”, or in the zone itself. Nobody finds it, so the ${mnemonic} record leads nowhere.`,
    remedy: 'Give the host a name with that address (A or AAAA), and use the name as target.',
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
              const host = `host.${set.zone.name}`
              cx.report({
                record,
                part: index,
                message: `the target of ${mnemonic} at ${cx.name(set.owner)} is the address ${written}; a name must stand there`,
                consequence: `It is read as the name ${cx.name(cx.zones.target(record))}, which leads nowhere.`,
                fix: [`${host} ${address.length === 4 ? 'A' : 'AAAA'} ${written}`, `${cx.name(set.owner)} ${cx.withTarget(record, host)}`],
              })
            }
          },
        },
      },
    },
  }
}

export const mxTargetIsAddress = targetIsAddress({
  type: TYPE.MX,
  code: 'mx/target-is-address',
  source: 'RFC 1035 §3.3.9, RFC 5321 §5.1',
  silences: ['mx/target-without-address'],
  bad: ['@ MX 10 192.0.2.1', '@ MX 10 192.0.2.1.', '@ MX 10 2001:db8::25', '@ MX 10 192.0.2.1.hollowmere.example.'],
  good: ['@ MX 10 1mail\n1mail A 192.0.2.1'],
})

export const srvTargetIsAddress = targetIsAddress({
  type: TYPE.SRV,
  code: 'srv/target-is-address',
  source: 'RFC 2782',
  silences: ['srv/target-without-address'],
  bad: ['_xmpp-client._tcp SRV 0 0 5222 192.0.2.1'],
  good: ['_xmpp-client._tcp SRV 0 0 5222 192\n192 A 192.0.2.1'],
})

export const nsTargetIsAddress = targetIsAddress({
  type: TYPE.NS,
  code: 'ns/target-is-address',
  source: 'RFC 1035 §3.3.11',
  silences: ['ns/target-without-address', 'ns/glue-missing'],
  bad: ['isle NS 192.0.2.53\nisle NS ns2.upland-dns.example.'],
  good: ['isle NS ns1.isle\nisle NS ns2.upland-dns.example.\nns1.isle A 192.0.2.53'],
})

export const cnameTargetIsAddress = targetIsAddress({
  type: TYPE.CNAME,
  code: 'cname/target-is-address',
  source: 'RFC 1035 §3.3.1',
  silences: ['cname/target-missing'],
  bad: ['www CNAME 192.0.2.1', 'www CNAME 2001:db8::1'],
  good: ['www A 192.0.2.1'],
})

export const ptrTargetIsAddress = targetIsAddress({
  type: TYPE.PTR,
  code: 'ptr/target-is-address',
  source: 'RFC 1035 §3.3.12',
  silences: ['ptr/forward-missing', 'zones/target-missing'],
  bad: ['www PTR 192.0.2.25'],
  good: ['www PTR 25\n25 A 192.0.2.25'],
})

function targetIsRoot(type: number, code: string, source: string, why: string, bad: string, good: string): Rule {
  const mnemonic = typeText(type)
  return {
    code,
    severity: 'error',
    source,
    title: `the root (“.”) as target of ${mnemonic}`,
    why,
    remedy: `Write the name that is meant, or take the ${mnemonic} record out.`,
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
                message: `${mnemonic} at ${cx.name(set.owner)} points to the root (“.”), which is no host`,
                consequence: why,
                fix: [`${cx.name(set.owner)} ${mnemonic} HOST.`],
              })
            }
          },
        },
      },
    },
  }
}

export const nsTargetIsRoot = targetIsRoot(
  TYPE.NS,
  'ns/target-is-root',
  'RFC 1035 §3.3.11',
  'There is no server with that name: whoever is sent there finds nobody.',
  'isle NS .\nisle NS ns2.upland-dns.example.',
  'isle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.',
)

export const ptrTargetIsRoot = targetIsRoot(
  TYPE.PTR,
  'ptr/target-is-root',
  'RFC 1035 §3.3.12',
  'It says that the address has a name, and names nobody: receivers of mail refuse such hosts.',
  'www PTR .',
  'www PTR mx.larkpost.example.',
)

/** A scheme, a port or a path. Labels such as `0/25` (RFC 2317 §4) are no paths. */
function urlPart(written: string): string | undefined {
  if (/^[a-z][a-z0-9+.-]*:\/\//i.test(written)) return 'a URL'
  if (/:\d{1,5}\.?\/?$/.test(written)) return 'a name with a port'
  const slash = written.indexOf('/')
  if (slash > 0 && !written.split('.').every((label) => !label.includes('/') || /^\d+\/\d+$/.test(label))) return 'a name with a path'
  return undefined
}

export const cnameTargetIsUrl: Rule = {
  code: 'cname/target-is-url',
  severity: 'error',
  source: 'RFC 1035 §3.3.1',
  title: 'a URL, a port or a path where the target of an alias must be a name',
  why: 'An alias knows names only. Signs such as “:” and “/” become part of the name, and no such host exists. A port belongs in an SRV record; a path is the web server’s affair.',
  remedy: 'Keep the host’s name alone. To send visitors to a page, set up a redirect on the web server.',
  silences: ['cname/target-missing', 'name/final-dot-missing', 'name/doubled-zone'],
  bad: ['www CNAME https://site.northlight.example/', 'www CNAME site.northlight.example:8443', 'www CNAME site.northlight.example./ferries'],
  good: ['www CNAME site.northlight.example.'],
  visit: {
    set: {
      [TYPE.CNAME]: {
        when: ODD_TARGET,
        visit(set, cx) {
          for (const record of set.records) {
            if (!(cx.zones.tree.oddness(cx.zones.target(record)) & ODD_COLON_OR_SLASH)) continue
            const written = writtenValue(cx.zones, record, 0)
            const part = urlPart(written)
            if (!part || parseAddress(written)) continue
            const host = written
              .replace(/^[a-z][a-z0-9+.-]*:\/\//i, '')
              .replace(/[/:].*$/, '')
              .replace(/\.$/, '')
            cx.report({
              record,
              part: 0,
              message: `the target of ${cx.name(set.owner)} is ${part}, ${written}; a name alone must stand there`,
              consequence: `It is read as the name ${cx.name(cx.zones.target(record))}, which does not exist.`,
              fix: [`${cx.name(set.owner)} CNAME ${host}.`],
            })
          }
        },
      },
    },
  },
}
