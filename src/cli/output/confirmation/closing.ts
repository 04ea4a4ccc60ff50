import { PASSING } from '../../../core/confirm/causes.ts'
import { STATUSES, statusCounts } from '../../../core/confirm/status.ts'
import { timeText } from '../../../core/confirm/time-text.ts'
import { bare } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { callText } from '../../call.ts'
import { counted } from '../page.ts'
import type { Confirmed, ZonePlan } from './confirmed.ts'
import { statusOfZone } from './json.ts'

/** How what is intended gets to the servers. */
function publishing([first, ...more]: readonly ZonePlan[]): string {
  const name = bare(first!.zone.name)
  if (more.length === 0 && first!.hosted) return `bramblefront sheet ${name} --changes`
  if (more.length === 0 && first!.delivered) return `bramblefront publish ${name}`
  return 'publish the zone file on the primary server and check that it loads'
}

/** `3 unreachable, 1 wrong`: the worst first; nothing where all are confirmed. */
function othersText(counts: ReturnType<typeof statusCounts>): string {
  return STATUSES.filter((word) => word !== 'confirmed' && counts[word] > 0)
    .reverse()
    .map((word) => `${counts[word]} ${word.replace('-', ' ')}`)
    .join(', ')
}

/** What it comes to, and what to do next. `fixed`: whether a fix is shown above. */
export function closing({ plans, confirmations, watching }: Confirmed, fixed: boolean): string {
  const again = `bramblefront ${printable(callText())}`
  const sets = confirmations.flatMap((each) => each.sets)
  const counts = statusCounts(sets)
  const zones = statusCounts(confirmations.map(statusOfZone))
  const others = [othersText(counts), zonesText(zones, confirmations.length)].filter(Boolean).join('; ')
  const some = sets.length > 0 ? `${counts.confirmed} of ${counted(sets.length, 'set')} confirmed` : ''
  const parts = [some, others].filter(Boolean).join('; ')
  const all = parts.slice(0, 1).toUpperCase() + parts.slice(1)
  const failed = counts.wrong + counts.split + counts.overdue + zones.wrong
  const waiting = watching ? '' : counts.settling > 0 ? 'Waiting will not mend all of it. ' : 'Waiting will not help. '
  const lost = plans.reduce((sum, { unread }) => sum + unread.length, 0)
  if (lost > 0)
    return `${all}; ${counted(lost, 'entry', 'entries')} of the file could not be read. Next: correct ${lost === 1 ? 'it' : 'them'} (bramblefront check says what would be right), publish, and run: ${again}`
  if (fixed && sets.some(({ causes }) => causes.some(({ kind }) => !PASSING.includes(kind))))
    return `${all}. ${waiting}Next: apply the fix shown above, then: ${again}`
  if (counts['not-published'] > 0)
    return `${all}.${spared({ plans, confirmations })} Next: ${unpublished({ plans, confirmations })}, then: ${again}`
  if (failed > 0) return `${all}. ${waiting}Next: see above what was received instead, and where.`
  if (confirmations.some(({ remarks }) => remarks.some(({ wrong }) => wrong)))
    return `${all}; but see the notes about the zone’s servers above.`
  if (counts.unreachable + zones.unreachable > 0)
    return `${all}: not all servers and resolvers could be reached. No problem was found.`
  if (counts.settling > 0) return settling(all, again, { plans, confirmations })
  return confirmedBy({ plans, confirmations })
}

type Part = Pick<Confirmed, 'plans' | 'confirmations'>

/** Zones that are not confirmed at their servers, whatever sets they have. */
function zonesText(counts: ReturnType<typeof statusCounts>, total: number): string {
  const others = othersText(counts)
  if (others === '') return ''
  return total === 1
    ? `the zone’s own SOA and NS records: ${others.replace(/^1 /, '')}`
    : `of ${total} zones at their servers: ${others}`
}

function spared({ plans, confirmations }: Part): string {
  const isSpared =
    plans.some(({ early }) => !early) &&
    confirmations.some((each) => each.parties.some(({ role }) => role === 'resolver'))
  return isSpared ? ' Resolvers were not asked for unpublished sets, so that they do not cache negative answers.' : ''
}

function unpublished({ plans, confirmations }: Part): string {
  const isBehind = confirmations.some(({ remarks }) => remarks.some(({ what }) => what === 'not-published'))
  return isBehind || plans.every(({ hosted }) => hosted)
    ? publishing(plans)
    : 'check that the server loaded this file and that its serial was advanced'
}

function settling(all: string, again: string, { confirmations }: Part): string {
  const last = confirmations
    .flatMap((each) => each.sets)
    .filter(({ status }) => status.word === 'settling')
    .reduce((latest, { status }) => Math.max(latest, status.until ?? 0), 0)
  const by = last > 0 ? `, done by ${timeText(last, confirmations[0]!.at)}` : ''
  return `${all}${by}. No problem was found. To wait for it: ${again}${again.includes(' --watch') ? '' : ' --watch'}`
}

function confirmedBy({ confirmations }: Part): string {
  const sets = confirmations.flatMap((each) => each.sets)
  const parties = new Set(confirmations.flatMap((each) => each.parties.map(({ label }) => label)))
  const led = confirmations.reduce((sum, { nowhere }) => sum + nowhere.length, 0)
  const nowhere = led > 0 ? ` But ${led === 1 ? 'one of them leads' : `${led} of them lead`} nowhere: see above.` : ''
  if (sets.length === 0)
    return confirmations.length === 1
      ? `The zone has no record sets besides SOA and NS; ${parties.size === 1 ? 'its server answers' : `all ${parties.size} asked answer`} for it.`
      : `${confirmations.length} zones without record sets besides SOA and NS; all of their servers answer for them.`
  const by = parties.size === 1 ? 'the server or resolver' : `all ${parties.size} servers and resolvers`
  return `${sets.length === 1 ? 'The record set is' : `All ${sets.length} record sets are`} confirmed by ${by} asked.${nowhere}`
}
