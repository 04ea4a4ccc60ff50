/** What an SPF record still allows of a provider whose mail exchangers a change takes away. */
import type { SetChange } from '../../file/edit/changes.ts'
import { isSpf, readSpf } from '../../mail/spf/record.ts'
import { setAt, type Zone, type Zones } from '../../model/zones.ts'
import { bare, foldName, type Name, wireToName } from '../../names/name.ts'
import type { Rdata } from '../../records/rdata.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'

/** Whether a change takes mail exchangers away from a name: then it is worth looking whose they are. */
export const takesExchangersAway = (zones: Zones, zone: Zone, changes: readonly SetChange[]): boolean =>
  changes.some((change) => change.type === TYPE.MX && removedTargets(zones, zone, change).length > 0)

/** The targets of MX records that a change takes from a name. */
function removedTargets(zones: Zones, zone: Zone, { owner, data }: SetChange): Name[] {
  const targets = (all: readonly Rdata[]): Name[] => all.map((each) => foldName(wireToName(each, 2)))
  const stay = new Set(targets(data))
  return targets(setAt(zones, zone, owner, TYPE.MX)?.data ?? []).filter((target) => !stay.has(target) && target !== '.')
}

/**
 * For people, of each include that stays in the SPF record of a name whose mail exchangers of that organization all go. `organizationOf` tells whose a name is.
 * `zones` are those before the change.
 */
export function leftBehind(
  zones: Zones,
  zone: Zone,
  changes: readonly SetChange[],
  organizationOf: (name: Name) => Name,
): string[] {
  return changes
    .filter(({ type }) => type === TYPE.MX)
    .flatMap((change) => {
      const stays = new Set(change.data.map((each) => organizationOf(wireToName(each, 2))))
      const went = new Set(removedTargets(zones, zone, change).map(organizationOf))
      const texts = changes.find(({ owner, type }) => type === TYPE.TXT && foldName(owner) === foldName(change.owner))
      const data = texts?.data ?? setAt(zones, zone, change.owner, TYPE.TXT)?.data ?? []
      const record = data.map(joined).find(isSpf)
      if (record === undefined) return []
      return readSpf(record)
        .record.mechanisms.filter(({ name }) => name === 'include')
        .flatMap(({ domain = '' }) => {
          const organization = organizationOf(domain.endsWith('.') ? domain : `${domain}.`)
          if (!went.has(organization) || stays.has(organization)) return []
          return [
            `The SPF record of ${bare(change.owner)} still has include:${bare(domain)}, and the MX records at ${bare(organization)} go: if nobody sends from there any more, bramblefront write spf ${bare(change.owner)} --remove include:${bare(domain)}`,
          ]
        })
    })
}
