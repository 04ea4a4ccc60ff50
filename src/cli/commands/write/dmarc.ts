/** Writes the policy for mail that fails. */

import type { Command } from 'commander'
import { dmarcChange } from '../../../core/change/mail/dmarc.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare } from '../../../core/names/name.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { collect } from '../../options.ts'
import { answered } from '../../output/ask.ts'
import { withConsents } from './consents.ts'
import { type Common, mailOptions, placeOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  mailOptions(command, 'hollowmere.example --next --reports dmarc@hollowmere.example')
    .argument('[tags...]', 'tags to change, as in p=quarantine sp=reject; a tag without value goes')
    .option('--next', 'the next step: watch, then quarantine, then reject')
    .option('--percent <number>', 'apply the policy to so many of 100 messages')
    .option('--reports <address>', 'where reports go (may be given again)', collect)
    .option('--replace', 'begin anew instead of changing tags')
    .action(writeDmarc)

interface DmarcOptions extends Common {
  next?: boolean
  percent?: string
  reports?: string[]
  replace?: boolean
}

async function writeDmarc(typed: string, values: string[], options: DmarcOptions, command: Command): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options)
  const percent = options.percent === undefined ? undefined : Number(options.percent)
  if (percent !== undefined && !(Number.isInteger(percent) && percent >= 1 && percent <= 100))
    throw new Trouble(`--percent ${options.percent} must be a number from 1 to 100`)
  if (!options.next && values.length === 0 && !options.reports && percent === undefined)
    throw new Trouble(
      `say what the policy shall be: --next for the next step, or tags as in p=none rua=mailto:dmarc@hollowmere.example`,
    )
  const wishes = {
    tags: tagsOf(values),
    reports: options.reports ?? [],
    next: options.next === true,
    percent,
    replace: options.replace === true,
    force: options.force === true,
    ttl: ttlOf(options),
  }
  if (options.next && values.length > 0)
    throw new Trouble('--next takes the next step by itself: state no tags with it')
  const planOf = (zones: Zones, at: Zone) => {
    const made = dmarcChange(zones, at, name, wishes)
    if ('missing' in made)
      throw new Trouble(
        `nobody would get the reports: state an address with --reports, as in --reports dmarc@${bare(name)}`,
      )
    return orTrouble(made)
  }
  let first = dmarcChange(loaded, zone, name, wishes)
  if ('missing' in first) {
    const address = await answered('Where shall the reports go? A mail address:')
    if (address) wishes.reports = [address]
    first = planOf(loaded, zone)
  }
  const { text } = orTrouble(first)
  await withConsents({ target, loaded, zone, name }, text, options, command, planOf)
}

function tagsOf(values: readonly string[]): Record<string, string | undefined> {
  const tags: Record<string, string | undefined> = {}
  for (const value of values
    .flatMap((each) => each.split(';'))
    .map((each) => each.trim())
    .filter((each) => each !== '' && !/^v\s*=\s*DMARC1$/.test(each))) {
    const [, name, rest] = /^([a-z]+)\s*=\s*(.*)$/i.exec(value) ?? []
    if (name === undefined)
      throw new Trouble(`${value} is no tag of a policy: write them as in p=none rua=mailto:dmarc@hollowmere.example`)
    tags[name.toLowerCase()] = rest === '' ? undefined : rest
  }
  return tags
}
