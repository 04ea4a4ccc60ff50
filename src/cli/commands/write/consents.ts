/** Where reports go to another organization, that must say that it takes them (RFC 9990 §4). */
import type { Command } from 'commander'
import type { MailChange } from '../../../core/change/mail.ts'
import { textData } from '../../../core/change/typed.ts'
import { locateName, UNKNOWN } from '../../../core/knowledge/answer.ts'
import { consentName } from '../../../core/mail/dmarc/discovery.ts'
import { isDmarc, readDmarc } from '../../../core/mail/dmarc/record.ts'
import { findKept } from '../../../core/mail/lookup.ts'
import { setAt, type Zone, type Zones } from '../../../core/model/zones.ts'
import { foldName, isAtOrBelow, type Name } from '../../../core/names/name.ts'
import { TYPE } from '../../../core/records/types.ts'
import { textLine } from '../../../core/rules/text.ts'
import { loadZones } from '../../../workspace/workspace.ts'
import { applyChange, type ChangeOptions, type Plan, type Result, render } from '../change.ts'
import type { Place } from './place.ts'

/** Writes a policy, and before it what others must say so that they get its reports: in kept zones; the lines for others are handed over. */
export async function withConsents(
  { target, loaded, zone, name }: Place,
  text: string,
  options: ChangeOptions,
  command: Command,
  planOf: (zones: Zones, zone: Zone) => MailChange,
): Promise<void> {
  const { lines, kept } = await consents(loaded, name, text)
  /** The destinations say first that they take the reports. */
  const all = async (model: Zones, how: ChangeOptions): Promise<Result[]> => {
    const results: Result[] = []
    for (const {
      owner,
      zone: { index },
    } of kept) {
      const destination = model.zones[index]!
      const notes = [`With it, ${destination.name} says that it takes the reports of ${name}`]
      results.push(
        await applyChange(target, model, destination, how, (zones, at) => ({
          changes: [consentAt(zones, at, owner)],
          notes,
        })),
      )
    }
    const main = await applyChange(target, model, model.zones[zone.index]!, how, (zones, at) => {
      const made = planOf(zones, at)
      return {
        ...made,
        notes: [
          ...made.notes,
          ...lines.map(
            (line) =>
              `Reports go to another organization, which must say that it takes them. Hand this line to whoever keeps its zone: ${line}`,
          ),
        ],
      }
    })
    return [...results, main]
  }
  // All of it is tried before any of it is written.
  const tried =
    kept.length === 0 ? [] : await all(loadZones(target.files, options.includeAnywhere), { ...options, dryRun: true })
  render(tried.some(({ refused }) => refused) ? tried : await all(loaded, options), options, command)
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
    const found = findKept(zones, owner, 'TXT')
    if (found && 'data' in found && found.data.some(isDmarc)) continue
    const zone =
      locateName(zones, owner) === UNKNOWN
        ? undefined
        : zones.zones.filter((each) => isAtOrBelow(owner, each.name)).sort((a, b) => b.wire.length - a.wire.length)[0]
    if (zone) kept.push({ owner, zone })
    else lines.push(textLine(owner, 'v=DMARC1'))
  }
  return { kept, lines }
}

function consentAt(zones: Zones, zone: Zone, owner: Name): Plan['changes'][number] {
  return { owner, type: TYPE.TXT, data: [...(setAt(zones, zone, owner, TYPE.TXT)?.data ?? []), textData('v=DMARC1')] }
}
