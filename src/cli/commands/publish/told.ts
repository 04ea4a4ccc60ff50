/** What is to be published, and what came of it, for people. */
import type { Command } from 'commander'
import type { SetPreview } from '../../../core/change/change-set.ts'
import { excludes, type Plan } from '../../../core/change/plan.ts'
import { bothWays } from '../../../core/names/idna.ts'
import { bare } from '../../../core/names/name.ts'
import { typeText } from '../../../core/records/types.ts'
import { setName } from '../../../core/view/record-set.ts'
import { counted, Page } from '../../output/page.ts'
import { printable } from '../../output/printable.ts'
import { allSides, sides } from '../change/report.ts'
import type { Job, Outcome } from './job.ts'

/** Shows what will be sent, and what follows of it. */
export function shown(command: Command, job: Job, outcome: Outcome): void {
  const { past, delivery } = job
  const page = new Page(command)
  const { colour } = page
  const { before } = outcome.serial
  const there = before === undefined ? (delivery.by === 'file' ? 'nothing' : 'serial unknown') : `serial ${before}`
  page.line(
    `${colour.bold(printable(bothWays(bare(past.zone.name))))}  ${colour.dim(printable(`to ${outcome.where} (${delivery.label}); ${there} there`))}`,
  )
  for (const set of outcome.changes) block(page, set)
  foreign(page, job, outcome)
  if (outcome.partial) {
    page.line()
    page.text(`${outcome.where} allows no zone transfer: only record sets that are known here were compared.`)
  }
  page.line()
  page.print()
}

function block(page: Page, set: SetPreview): void {
  page.line()
  page.line(page.colour.bold(printable(setName(bothWays(set.owner), set.type))))
  sides(page, set, 'here', 'there')
}

function foreign(page: Page, { past, delivery }: Job, outcome: Outcome): void {
  if (outcome.foreign.length === 0) return
  page.line()
  const compared = delivery.by === 'update' && delivery.server.transport === 'tcp' ? ` --with ${outcome.where}` : ''
  const names = outcome.foreign.map(({ owner, type }) => `${bare(owner)} ${typeText(type)}`)
  page.text(
    `Changed by others, left as it is: ${names.slice(0, 8).join(', ')}${names.length > 8 ? `, and ${names.length - 8} more` : ''}. To see it: bramblefront diff ${bare(past.zone.name)}${compared}`,
  )
}

/** A set that both changed; or one of others', which excludes what comes to its name. */
function conflict(
  page: Page,
  { owner, type, base, now, intended }: Plan['conflicts'][number],
  changes: Plan['changes'],
) {
  const { colour } = page
  const comes = changes.find((change) => intended === undefined && excludes(change, { owner, type }))
  const what = comes ? `conflicts with the ${typeText(comes.type)} record here` : 'changed on both sides'
  page.line()
  page.line(`${colour.bold(printable(setName(bothWays(owner), type)))}  ${colour.red(what)}`)
  allSides(page, [
    ['expected', base, colour.dim],
    ['there', now, colour.red],
    ['here', comes?.after ?? intended, colour.green],
  ])
}

/** Says how it ended. */
export function told(command: Command, { past, delivery, options }: Job, outcome: Outcome): void {
  const page = new Page(command)
  const { colour } = page
  const zone = bare(past.zone.name)
  const { changes, conflicts, refused, unreached, serial, readBack, messages, sent, after } = outcome
  for (const each of conflicts) conflict(page, each, changes)
  if (conflicts.length > 0) page.line()
  if (refused?.owner !== undefined) {
    page.line()
    page.line(colour.bold(printable(setName(bothWays(refused.owner), refused.type!))))
    sides(
      page,
      { owner: refused.owner, type: refused.type!, before: refused.expected, after: refused.now },
      'there',
      'expected',
    )
    page.line()
  }
  if (conflicts.length > 0)
    page.text(
      `Nothing was sent: ${counted(conflicts.length, 'record set')} of ${zone} would overwrite what others did. Take over what is right, or send yours all the same with --overwrite.`,
    )
  else if (unreached !== undefined) page.text(`${zone} to ${outcome.where}: ${unreached}. ${sentText(outcome)}`)
  else if (refused) page.text(`Refused: ${refused.why}. ${sentText(outcome)}`)
  else if (changes.length === 0 && !after) page.text(`Nothing to publish: ${outcome.where} has ${zone} as intended.`)
  else if (options.dryRun) page.text('Dry run: nothing was sent.')
  else if (!outcome.written) page.text('Nothing was sent. To send it without being asked, use --yes.')
  else if (readBack === false)
    page.text(
      `${outcome.where} said that all is done, but it still has something else: its log may say why. What differs: bramblefront diff ${zone}`,
    )
  else {
    const how =
      delivery.by === 'update'
        ? `, ${counted(sent.length, 'record set')} in ${counted(messages, 'message')}, read back`
        : ` to ${outcome.where}`
    page.text(
      `Published: ${zone}${how}${serial.after === undefined ? '' : `; serial ${serial.before ?? '(none)'} → ${serial.after}`}.`,
    )
    if (after && after.status !== 0)
      page.text(
        `The command afterwards failed (${after.status === null ? 'it took too long' : `status ${after.status}`}), so it does not count as delivered: ${after.said}`,
      )
    else page.text(`Next: bramblefront confirm ${zone}`)
  }
  page.print()
}

const sentText = ({ sent, changes }: Outcome): string =>
  sent.length === 0
    ? 'Nothing was changed there.'
    : `${sent.length} of ${counted(changes.length, 'record set')} are in place: ${sent
        .slice(0, 6)
        .map(({ owner, type }) => `${bare(owner)} ${typeText(type)}`)
        .join(', ')}${sent.length > 6 ? ', …' : ''}. The next call goes on from there.`
