/** Writes that mail must come encrypted, and the policy’s text. */

import type { Command } from 'commander'
import { stsChange } from '../../../core/change/mail/transport.ts'
import { typedName } from '../../../core/change/typed.ts'
import { STS_MODES, type StsMode } from '../../../core/mail/transport.ts'
import { keptPolicy, policyFileOf } from '../../../workspace/beside.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { today } from '../../clock.ts'
import { collect } from '../../options.ts'
import { change, ofZone } from '../change/apply.ts'
import { type Common, mailOptions, placeOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  mailOptions(command, 'example.com --mode testing')
    .option('--mode <mode>', 'testing, enforce or none (default: unchanged, at first testing)')
    .option('--max-age <time>', 'how long senders cache the policy (default: unchanged, at first 1w)')
    .option('--also <host>', 'also list this host, before it is in the MX set (repeatable)', collect)
    .action(writeSts)

async function writeSts(
  typed: string,
  options: Common & { mode?: string; maxAge?: string; also?: string[] },
  command: Command,
): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options, '_mta-sts')
  const mode = STS_MODES.find((each) => each === options.mode)
  if (options.mode !== undefined && mode === undefined)
    throw new Trouble(`--mode ${options.mode} must be one of ${STS_MODES.join(', ')}`)
  const also = (options.also ?? []).map((each) =>
    orTrouble(typedName(each.includes('.') && !each.endsWith('.') ? `${each}.` : each, zone, loaded.zones)),
  )
  const wishes = {
    mode: mode as StsMode | undefined,
    maxAge: ttlOf({ ttl: options.maxAge }),
    also,
    ttl: ttlOf(options),
  }
  await change(
    target,
    loaded,
    options,
    command,
    ofZone(zone, (zones, at) => {
      const made = orTrouble(stsChange(zones, at, name, wishes, keptPolicy(target.folder, name), today()))
      return { ...made, beside: made.changed ? [policyFileOf(target.folder, name, made.policy)] : [] }
    }),
  )
}
