/** What is to be published, and what came of it, for people. */
import type { Command } from 'commander'
import type { SetPreview } from '../../../core/change/change-set.ts'
import { changeOf, excludes, type Plan } from '../../../core/change/plan.ts'
import { endpoint } from '../../../core/confirm/vantage.ts'
import { bothWays } from '../../../core/names/idna.ts'
import { bare } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { typeText } from '../../../core/records/types.ts'
import { setName } from '../../../core/view/record-set.ts'
import { viewText } from '../../call.ts'
import { counted, Page } from '../../output/page.ts'
import { allSides, sides } from '../change/report.ts'
import { type Job, type Outcome, statusOf } from './job.ts'
import { inPlaceText } from './send.ts'

/** Shows what will be sent, and what follows of it. */
export function printPlan(command: Command, job: Job, outcome: Outcome): void {
  const { past, delivery } = job
  const page = new Page(command)
  const { colour } = page
  const { before } = outcome.serial
  const there = before === undefined ? (delivery.by === 'file' ? 'nothing' : 'serial unknown') : `serial ${before}`
  const view = past.file.view === undefined ? '' : `, view ${past.file.view}`
  page.line(
    `${colour.bold(printable(bothWays(bare(past.zone.name))))}  ${colour.dim(printable(`to ${outcome.where} (${delivery.label}${view}); ${there} there`))}`,
  )
  for (const set of outcome.changes) block(page, set)
  if (outcome.isTextOnly)
    page.text('The record sets are the same; other text of the files (comments, the serial) is not.')
  foreign(page, job, outcome)
  if (outcome.partial || (outcome.unseen ?? 0) > 0) {
    page.line()
    page.text(limitsText(outcome))
  }
  if (delivery.by === 'file' && delivery.after) {
    page.line()
    page.text(`Afterwards: ${delivery.after.join(' ')} PATH`)
  }
  page.line()
  page.print()
}

function block(page: Page, set: SetPreview): void {
  page.line()
  page.line(page.colour.bold(printable(setName(bothWays(set.owner), set.type))))
  sides(page, set, 'here', 'there')
}

/** What could not be looked at. */
function limitsText({ where, partial, compared = 0, unseen = 0 }: Outcome): string {
  const known = partial
    ? `${where} does not allow a zone transfer: only the ${counted(compared, 'record set')} known here were compared; whatever else is there was not looked at.`
    : ''
  const blind =
    unseen > 0
      ? `For ${counted(unseen, 'record set')} it could not be seen what ${where} has; nothing is sent for ${unseen === 1 ? 'it' : 'them'}.`
      : ''
  return [known, blind].filter((each) => each !== '').join(' ')
}

/** Whether bramblefront.yaml has the delivery: else it is the server that the SOA record names. */
const isStated = ({ delivery, source }: Job): boolean =>
  source.workspace!.deliveries.some(({ label }) => label === delivery.label)

/** The zone as a call names it. */
const inCall = ({ past }: Job): string => `${bare(past.zone.name)}${viewText(past.file.view)}`

/** What a delivery is called in a call. */
const calledIn = (job: Job): string =>
  job.delivery.by === 'update' && !isStated(job) ? endpoint(job.delivery.server) : job.delivery.label

function foreign(page: Page, job: Job, { foreign: all }: Outcome): void {
  if (all.length === 0) return
  const see = `To see it: bramblefront diff ${inCall(job)} --with ${calledIn(job)}`
  const changed = all.filter(({ was }) => was !== undefined)
  const extra = all.filter(({ was }) => was === undefined)
  page.line()
  if (extra.length > 0)
    page.text(`On the server but not in your zone, left as is (--remove-extra removes it): ${shortList(extra)}.`)
  if (changed.length > 0) page.text(`Changed by others, left as is: ${shortList(changed)}.`)
  page.text(see)
}

const shortList = (sets: Outcome['foreign']): string => {
  const names = sets.map(({ owner, type }) => `${bare(owner)} ${typeText(type)}`)
  return `${names.slice(0, 8).join(', ')}${names.length > 8 ? `, and ${names.length - 8} more` : ''}`
}

/** A set that both changed; or one of others', which excludes what comes to its name. */
export function printConflict(
  page: Page,
  { owner, type, base, now, intended }: Plan['conflicts'][number],
  changes: Plan['changes'],
): void {
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
export function printOutcome(command: Command, job: Job, outcome: Outcome): void {
  const { changes, conflicts, refused } = outcome
  const page = new Page(command)
  for (const each of conflicts) printConflict(page, each, [...changes, ...conflicts.map(changeOf)])
  if (conflicts.length > 0) page.line()
  if (refused?.owner !== undefined) {
    page.line()
    page.line(page.colour.bold(printable(setName(bothWays(refused.owner), refused.type!))))
    const set = { owner: refused.owner, type: refused.type!, before: refused.expected, after: refused.now }
    sides(page, set, 'there', 'expected')
    page.line()
  }
  for (const each of endTexts(job, outcome)) page.text(each)
  if (changes.length === 0 && conflicts.length === 0) foreign(page, job, outcome)
  page.print()
}

/** How it ended, and what follows. */
function endTexts(job: Job, outcome: Outcome): string[] {
  const { past, options } = job
  const zone = bare(past.zone.name)
  const { changes, conflicts, refused, unreached, readBack, after, where, isTextOnly } = outcome
  if (conflicts.length > 0) return conflictTexts(job, outcome)
  if (unreached !== undefined) return [`${zone} to ${where}: ${unreached}. ${inPlaceText(outcome)}`]
  if (refused) return [`Refused: ${refused.why}. ${inPlaceText(outcome)}`]
  if (changes.length === 0 && !isTextOnly && !after) return [nothingText(job, outcome)]
  if (options.dryRun) return ['Dry run: nothing was sent.']
  if (!outcome.written && !after) return ['Nothing was sent. To send it without being asked, use --yes.']
  if (readBack === false)
    return [
      `${where} acknowledged the change, but does not show it. If it forwards updates to another server, it will show them after its next transfer; otherwise its log may say why. What differs: bramblefront diff ${inCall(job)} --with ${calledIn(job)}`,
    ]
  return doneTexts(job, outcome)
}

function doneTexts(job: Job, outcome: Outcome): string[] {
  const { past, delivery } = job
  const zone = bare(past.zone.name)
  const { serial, messages, sent, after, where, written, pending = 0 } = outcome
  const sets = new Set(sent.map(({ owner, type }) => `${owner} ${type}`)).size
  const how =
    delivery.by === 'update'
      ? `, ${counted(sets, 'record set')} in ${counted(messages, 'message')}, read back`
      : ` to ${where}`
  const what = written
    ? `Published: ${zone}${how}${serial.after === undefined ? '' : `; serial ${serial.before ?? '(none)'} → ${serial.after}`}.`
    : `${where} had ${zone} already; only the command afterwards was left to do.`
  const failed =
    after && after.status !== 0
      ? `The command afterwards failed (${after.status === null ? 'it took too long' : `status ${after.status}`}), so ${zone} does not count as delivered; the next call runs it again. It printed: ${after.said || '(nothing)'}`
      : undefined
  if (failed) return [what, failed]
  return [
    what,
    ...(after ? [`The command afterwards succeeded${after.said ? `. It printed: ${after.said}` : '.'}`] : []),
    ...(pending > 0
      ? [`${counted(pending, 'record set')} still to be published: bramblefront publish ${inCall(job)}`]
      : []),
    `Next: bramblefront confirm ${inCall(job)}`,
  ]
}

function nothingText({ past, only }: Job, outcome: Outcome): string {
  const zone = bare(past.zone.name)
  const { where, partial, compared, unseen = 0, pending = 0 } = outcome
  const what = only ? `${only.map(bare).join(', ')} of ${zone}` : zone
  const left = pending > 0 ? ` ${counted(pending, 'record set')} of other names still to be published.` : ''
  if (!partial && unseen === 0) return `Nothing to publish: ${where} has ${what} as intended.${left}`
  const seen = `Nothing to publish for ${what}, as far as it can be seen.`
  return `${seen} ${limitsText({ ...outcome, compared: compared ?? 0 })}${left}`
}

function conflictTexts(job: Job, { conflicts }: Outcome): string[] {
  const { past, delivery } = job
  const zone = bare(past.zone.name)
  const [{ owner, type }] = conflicts as [Plan['conflicts'][number]]
  return [
    `Nothing was sent: ${counted(conflicts.length, 'record set')} of ${zone} would overwrite what others did.`,
    ...(delivery.by === 'update'
      ? [
          `To take over what is there: bramblefront adopt ${zone} ${bare(owner)}. ${typeText(type)} --from ${calledIn(job)}${viewText(past.file.view)}`,
        ]
      : []),
    `To replace it with yours: bramblefront publish ${inCall(job)}${isStated(job) ? ` --to ${delivery.label}` : ''} --overwrite`,
  ]
}

/** One summary of many zones: what was done, what was not, and what there was nothing to do about. */
export function printSummary(command: Command, all: readonly { job: Job; outcome: Outcome }[], dryRun?: boolean): void {
  const page = new Page(command)
  const of = (is: (outcome: Outcome) => boolean): number => all.filter(({ outcome }) => is(outcome)).length
  const isNothing = (each: Outcome): boolean =>
    each.changes.length === 0 && !each.isTextOnly && !each.written && statusOf(each, dryRun) === 0
  const parts: [number, string][] = [
    [of((each) => each.written && statusOf(each) === 0), 'published'],
    [of(isNothing), 'with nothing to publish'],
    [of((each) => each.conflicts.length > 0), 'changed on both sides'],
    [of((each) => each.conflicts.length === 0 && statusOf(each, dryRun) === 1), 'not published'],
    [of((each) => statusOf(each, dryRun) === 3), 'not reached or not seen whole'],
    [
      dryRun ? of((each) => (each.changes.length > 0 || each.isTextOnly === true) && statusOf(each, dryRun) === 0) : 0,
      'to be published',
    ],
  ]
  const counts = parts.filter(([count]) => count > 0).map(([count, word]) => `${count} ${word}`)
  const others = of((each) => each.foreign.length > 0)
  const partial = of((each) => each.partial === true)
  page.text(
    `${counted(all.length, 'delivery', 'deliveries')} of ${counted(new Set(all.map(({ job }) => job.past.zone.name)).size, 'zone')}: ${counts.join(', ')}.${others > 0 ? ` ${others} with record sets of others, left as they are.` : ''}${partial > 0 ? ` ${partial} compared only as far as they are known here.` : ''}`,
  )
  page.print()
}
