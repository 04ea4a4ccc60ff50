/** Writes that a domain neither sends nor receives. */

import type { Command } from 'commander'
import { noMailChange } from '../../../core/change/mail/no-mail.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { orTrouble } from '../../../workspace/trouble.ts'
import { collect } from '../../options.ts'
import { type Policy, withConsents } from './consents.ts'
import { type Common, mailOptions, placesOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  mailOptions(command, 'example.com example.net --empty-keys', true)
    .option('--empty-keys', 'also revoke every DKIM selector (empty key at a wildcard)')
    .option('--reports <address>', 'where DMARC reports go (repeatable)', collect)
    .action(writeNoMail)

async function writeNoMail(
  typed: string[],
  options: Common & { emptyKeys?: boolean; reports?: string[] },
  command: Command,
): Promise<void> {
  const wishes = {
    emptyKeys: options.emptyKeys === true,
    force: options.force === true,
    reports: options.reports ?? [],
    ttl: ttlOf(options),
  }
  const policies = (await placesOf(typed, options)).map((place): Policy => {
    const planOf = (zones: Zones, at: Zone) => orTrouble(noMailChange(zones, at, place.name, wishes))
    return { place, text: planOf(place.loaded, place.zone).text, planOf }
  })
  await withConsents(policies, options, command)
}
