/** Where reports go to another organization, that must say that it takes them (RFC 9990 §4). */
import type { Command } from 'commander'
import type { ZonePart } from '../../../core/change/change-set.ts'
import type { MailChange } from '../../../core/change/mail/text.ts'
import { joinedParts } from '../../../core/change/reverse.ts'
import type { SetChange } from '../../../core/file/edit/changes.ts'
import { locateName, UNKNOWN } from '../../../core/knowledge/answer.ts'
import { dataOf, findIntended } from '../../../core/knowledge/find.ts'
import { consentName } from '../../../core/mail/dmarc/discovery.ts'
import { isDmarc, readDmarc } from '../../../core/mail/dmarc/record.ts'
import { setAt, type Zone, type Zones } from '../../../core/model/zones.ts'
import { foldName, isAtOrBelow, type Name } from '../../../core/names/name.ts'
import { TYPE } from '../../../core/records/types.ts'
import { joined, textData } from '../../../core/records/views.ts'
import { textLine } from '../../../core/rules/text.ts'
import { zoneNamed } from '../../../workspace/workspace.ts'
import { change } from '../change/apply.ts'
import type { ChangeOptions } from '../change/target.ts'
import type { Place } from './place.ts'

/** A policy to be written: where, and what. */
export interface Policy {
  place: Place
  text: string
  planOf(zones: Zones, zone: Zone): MailChange
}

/** Writes policies, in one change, and with them what others must say so that they get the reports: in your zones; the lines for others are handed over. */
export async function withConsents(
  policies: readonly Policy[],
  options: ChangeOptions,
  command: Command,
): Promise<void> {
  const { target, loaded } = policies[0]!.place
  const known = await Promise.all(policies.map(({ place, text }) => consents(loaded, place.name, text)))
  await change(target, loaded, options, command, (zones) => ({
    parts: joinedParts([
      // The destinations say first that they take the reports.
      ...known.flatMap(({ kept }, i) =>
        kept.map(({ owner, zone }): ZonePart => {
          const destination = zoneNamed(zones, zone.name)
          return {
            zone: destination,
            sets: [consentAt(zones, destination, owner)],
            notes: [`With this, ${destination.name} consents to DMARC reports about ${policies[i]!.place.name}`],
          }
        }),
      ),
      ...policies.map(({ place, planOf }, i): ZonePart => {
        const zone = zoneNamed(zones, place.zone.name)
        const made = planOf(zones, zone)
        const lines = known[i]!.lines.map(
          (line) =>
            `The reports go to another organization, which must consent. Give this line to the administrator of its zone: ${line}`,
        )
        return { zone, sets: made.changes, notes: [...made.notes, ...lines] }
      }),
    ]),
  }))
}

/** Where other organizations must say that they take the reports: in kept zones, and as lines to hand over. */
async function consents(
  zones: Zones,
  domain: Name,
  text: string,
): Promise<{ kept: { owner: Name; zone: Zone }[]; lines: string[] }> {
  const { organizationalDomain } = await import('../../../core/names/public-suffix.ts')
  const { rua, ruf } = readDmarc(text).record
  const kept: { owner: Name; zone: Zone }[] = []
  const lines: string[] = []
  const destinations = new Map(
    [...rua, ...ruf].flatMap((each) => (each.domain ? [[foldName(each.domain), each.domain] as const] : [])),
  )
  for (const destination of destinations.values()) {
    if (foldName(organizationalDomain(destination)) === foldName(organizationalDomain(domain))) continue
    const owner = consentName(domain, destination)
    if (
      dataOf(findIntended(zones, owner, TYPE.TXT))
        .map(joined)
        .some(isDmarc)
    )
      continue
    const zone =
      locateName(zones, owner) === UNKNOWN
        ? undefined
        : zones.zones.filter((each) => isAtOrBelow(owner, each.name)).sort((a, b) => b.wire.length - a.wire.length)[0]
    if (zone) kept.push({ owner, zone })
    else lines.push(textLine(owner, 'v=DMARC1'))
  }
  return { kept, lines }
}

function consentAt(zones: Zones, zone: Zone, owner: Name): SetChange {
  return { owner, type: TYPE.TXT, data: [...(setAt(zones, zone, owner, TYPE.TXT)?.data ?? []), textData('v=DMARC1')] }
}
