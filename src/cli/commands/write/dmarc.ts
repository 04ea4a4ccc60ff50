/** Writes the policy for mail that fails. */

import type { Command } from 'commander'
import { dmarcChange, type PolicyChange } from '../../../core/change/mail/dmarc.ts'
import { stepTime, tooEarly } from '../../../core/change/mail/step-time.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare } from '../../../core/names/name.ts'
import { readLog } from '../../../workspace/log.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { now } from '../../clock.ts'
import { collect } from '../../options.ts'
import { agreedTo, answered, canAsk } from '../../output/ask.ts'
import { Page } from '../../output/page.ts'
import { withConsents } from './consents.ts'
import { type Common, mailOptions, type Place, placeOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  mailOptions(command, 'example.com --next --reports dmarc@example.com')
    .argument('[tags...]', 'tags to change, as in p=quarantine sp=reject; a tag without a value is removed')
    .option('--next', 'take the next step: none, then quarantine, then reject')
    .option('--percent <number>', 'apply the policy to this many of 100 messages')
    .option('--reports <address>', 'where reports go (repeatable)', collect)
    .option('--replace', 'replace the record instead of changing tags')
    .action(writeDmarc)

interface DmarcOptions extends Common {
  next?: boolean
  percent?: string
  reports?: string[]
  replace?: boolean
}

async function writeDmarc(typed: string, values: string[], options: DmarcOptions, command: Command): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options, '_dmarc')
  const percent = options.percent === undefined ? undefined : Number(options.percent)
  if (percent !== undefined && !(Number.isInteger(percent) && percent >= 1 && percent <= 100))
    throw new Trouble(`--percent ${options.percent} must be a number from 1 to 100`)
  if (!options.next && values.length === 0 && !options.reports && percent === undefined)
    throw new Trouble(`say what to write: --next for the next step, or tags as in p=none rua=mailto:ADDRESS`)
  const wishes = {
    tags: tagsOf(values),
    reports: options.reports ?? [],
    next: options.next === true,
    percent,
    replace: options.replace === true,
    force: options.force === true,
    ttl: ttlOf(options),
  }
  if (options.next && values.length > 0) throw new Trouble('--next chooses the tags itself: leave them out')
  const planOf = (zones: Zones, at: Zone) => {
    const made = dmarcChange(zones, at, name, wishes)
    if ('missing' in made)
      throw new Trouble(`nobody would get the reports: give an address, as in --reports dmarc@${bare(name)}`)
    const { conditions, notes, ...rest } = orTrouble(made)
    // People are told of the conditions before.
    return {
      ...rest,
      conditions,
      notes: [...(options.json ? conditions.map((each) => `Condition for this step: ${each}.`) : []), ...notes],
    }
  }
  let first = dmarcChange(loaded, zone, name, wishes)
  if ('missing' in first) {
    const address = await answered('Where should the reports go? Email address:')
    if (address) wishes.reports = [address]
    first = planOf(loaded, zone)
  }
  const made = orTrouble(first)
  if (options.next) await stepAgreed({ target, loaded, zone, name }, made, options, command)
  await withConsents([{ place: { target, loaded, zone, name }, text: made.text, planOf }], options, command)
}

/** Says what must be true before a step is taken, and whether it is too early for it by the log; a person is asked, else it is refused then (status 1). */
async function stepAgreed(
  { target, zone, name }: Place,
  { conditions, isFirst }: PolicyChange,
  options: DmarcOptions,
  command: Command,
): Promise<void> {
  if (conditions.length === 0) return
  const log = target.bareFile || isFirst ? [] : readLog(target.folder)
  const early = tooEarly(stepTime(log, `_dmarc.${name}`, zone.view), target.stepDays ?? 14, now())
  if (!options.json) {
    const page = new Page(command)
    page.text('Conditions for this step:')
    for (const each of conditions) page.text(`${each}.`, '    ', '  - ')
    if (early) page.text(`Too early: ${early}`)
    page.line()
    page.print()
  }
  if (options.dryRun || options.force || isFirst) return
  if (!options.json && canAsk()) {
    if (await agreedTo(early ? 'Take this step all the same?' : 'Are these conditions met?')) return
    throw new Trouble('nothing was written', 1)
  }
  if (early)
    throw new Trouble(
      `too early for the next step of ${bare(name)}: ${early}. Nothing was written; --force takes it anyway`,
      1,
    )
}

function tagsOf(values: readonly string[]): Record<string, string | undefined> {
  const tags: Record<string, string | undefined> = {}
  for (const value of values
    .flatMap((each) => each.split(';'))
    .map((each) => each.trim())
    .filter((each) => each !== '' && !/^v\s*=\s*DMARC1$/.test(each))) {
    const [, name, rest] = /^([a-z]+)\s*=\s*(\S[\s\S]*)?$/i.exec(value) ?? []
    if (name === undefined)
      throw new Trouble(`“${value}” is not a DMARC tag (expected e.g. p=none or rua=mailto:ADDRESS)`)
    tags[name.toLowerCase()] = rest
  }
  return tags
}
