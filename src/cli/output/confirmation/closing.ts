import { OF_ZONE } from '../../../core/confirm/causes.ts'
import { STATUSES, statusCounts } from '../../../core/confirm/status.ts'
import { timeText } from '../../../core/confirm/time-text.ts'
import { bare } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { callText } from '../../call.ts'
import { counted } from '../page.ts'
import type { Confirmed, ZonePlan } from './confirmed.ts'

/** How what is intended gets to the servers. */
function publishing([first, ...more]: readonly ZonePlan[]): string {
  const name = bare(first!.zone.name)
  if (more.length === 0 && first!.hosted) return `bramblefront sheet ${name} --changes`
  if (more.length === 0 && first!.delivered) return `bramblefront publish ${name}`
  return 'publish the zone file on the primary server and check that it loads'
}

/** What it comes to, and what to do next. */
export function closing({ plans, confirmations }: Confirmed): string {
  const again = `bramblefront ${printable(callText())}`
  const sets = confirmations.flatMap((each) => each.sets)
  const counts = statusCounts(sets)
  const parties = new Set(confirmations.flatMap((each) => each.parties.map(({ label }) => label)))
  const last = sets
    .filter(({ status }) => status.word === 'settling')
    .reduce((latest, { status }) => Math.max(latest, status.until ?? 0), 0)
  const at = confirmations[0]!.at
  const others = STATUSES.filter((word) => word !== 'confirmed' && counts[word] > 0).reverse()
  const all = [
    `${counts.confirmed} of ${counted(sets.length, 'set')} confirmed`,
    others.map((word) => `${counts[word]} ${word.replace('-', ' ')}`).join(', '),
  ]
    .filter(Boolean)
    .join('; ')
  const lost = plans.reduce((sum, { unread }) => sum + unread.length, 0)
  if (lost > 0)
    return `${all}; ${counted(lost, 'entry', 'entries')} of the file could not be read. Next: correct ${lost === 1 ? 'it' : 'them'} (bramblefront check says what would be right), publish, and run: ${again}`
  if (sets.length === 0) return 'The zone has no record sets besides its name servers, which are shown above.'
  if (sets.some(({ causes }) => causes.some(({ kind }) => !OF_ZONE.includes(kind))))
    return `${all}. Waiting will not help. Next: apply the fix shown above, publish, and run: ${again}`
  if (counts['not-published'] > 0) {
    const behind = confirmations.some(({ remarks }) => remarks.some(({ what }) => what === 'not-published'))
    const next = behind ? publishing(plans) : 'check that the server loaded this file and that its serial was advanced'
    const spared =
      plans.some(({ early }) => !early) &&
      confirmations.some((each) => each.parties.some(({ role }) => role === 'resolver'))
    return `${all}.${spared ? ' Resolvers were not asked for unpublished sets, so that they do not cache negative answers.' : ''} Next: ${next}, then: ${again}`
  }
  if (counts.wrong + counts.split + counts.overdue > 0)
    return `${all}. Waiting will not help. Next: see above what was received instead, and where.`
  if (confirmations.some(({ remarks }) => remarks.some(({ wrong }) => wrong)))
    return `${all}; but see the notes about the zone’s servers above.`
  if (counts.unreachable > 0) return `${all}: a server or resolver did not reply. No problem was found.`
  if (counts.settling > 0)
    return `${all}${last > 0 ? `, done by ${timeText(last, at)}` : ''}. No problem was found. To wait for it: ${again}${again.includes(' --watch') ? '' : ' --watch'}`
  const led = confirmations.reduce((sum, { nowhere }) => sum + nowhere.length, 0)
  const nowhere = led > 0 ? ` ${led === 1 ? 'One of them leads' : `${led} of them lead`} nowhere: see above.` : ''
  return `${sets.length === 1 ? 'The record set is' : `All ${sets.length} record sets are`} confirmed by ${parties.size === 1 ? 'the server or resolver' : `all ${parties.size} servers and resolvers`} asked.${nowhere}`
}
