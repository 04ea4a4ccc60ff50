/** Writes where reports of failed encryption go. */

import type { Command } from 'commander'
import { tlsReportsChange } from '../../../core/change/mail/transport.ts'
import { orTrouble } from '../../../workspace/trouble.ts'
import { change, ofZone } from '../change/apply.ts'
import { type Common, mailOptions, placeOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  mailOptions(command, 'example.com tls@example.com')
    .argument('[addresses...]', 'email addresses or https: URLs')
    .action(writeTlsReports)

async function writeTlsReports(typed: string, addresses: string[], options: Common, command: Command): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options, '_smtp._tls')
  await change(
    target,
    loaded,
    options,
    command,
    ofZone(zone, (zones, at) => orTrouble(tlsReportsChange(zones, at, name, addresses, ttlOf(options)))),
  )
}
