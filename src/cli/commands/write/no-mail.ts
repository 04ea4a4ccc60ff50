/** Writes that a domain neither sends nor receives. */

import type { Command } from 'commander'
import { noMailChange } from '../../../core/change/mail/no-mail.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { orTrouble } from '../../../workspace/trouble.ts'
import { collect } from '../../options.ts'
import { withConsents } from './consents.ts'
import { type Common, mailOptions, placeOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  mailOptions(command, 'lakepass.example --empty-keys')
    .option('--empty-keys', 'an empty key at every selector, too')
    .option('--reports <address>', 'where reports of attempts go (may be given again)', collect)
    .action(writeNoMail)

async function writeNoMail(
  typed: string,
  options: Common & { emptyKeys?: boolean; reports?: string[] },
  command: Command,
): Promise<void> {
  const place = await placeOf(typed, options)
  const wishes = {
    emptyKeys: options.emptyKeys === true,
    force: options.force === true,
    reports: options.reports ?? [],
    ttl: ttlOf(options),
  }
  const planOf = (zones: Zones, at: Zone) => orTrouble(noMailChange(zones, at, place.name, wishes))
  await withConsents(place, planOf(place.loaded, place.zone).text, options, command, planOf)
}
