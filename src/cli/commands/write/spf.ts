/** Writes who may send. */

import type { Command } from 'commander'
import { spfChange } from '../../../core/change/mail/spf.ts'
import { orTrouble } from '../../../workspace/trouble.ts'
import { today } from '../../clock.ts'
import { collect, liveOptions } from '../../options.ts'
import { change, ofZone } from '../change/apply.ts'
import { askedSource, knownSpf, type LiveOptions } from '../live.ts'
import { type Common, mailOptions, placeOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  liveOptions(
    mailOptions(command, 'example.com --allow include:_spf.example.net').argument(
      '[records...]',
      'complete SPF records to merge into the existing one',
    ),
  )
    .option('--allow <sender>', 'allow a sender: mx, an address or range, include:NAME, a:HOST (repeatable)', collect)
    .option('--remove <sender>', 'remove a sender (repeatable)', collect)
    .option('--end <result>', 'result for everyone else: fail (-all), softfail (~all) or neutral (?all)')
    .option('--replace', 'replace the record instead of merging')
    .option(
      '--spell-out <include>',
      'replace an include with its current addresses, which can change without notice',
      collect,
    )
    .action(writeSpf)

interface SpfOptions extends Common, LiveOptions {
  allow?: string[]
  remove?: string[]
  end?: string
  replace?: boolean
  spellOut?: string[]
}

async function writeSpf(typed: string, records: string[], options: SpfOptions, command: Command): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options)
  const wishes = {
    records,
    allow: options.allow ?? [],
    remove: options.remove ?? [],
    end: options.end,
    replace: options.replace === true,
    spellOut: options.spellOut ?? [],
    ttl: ttlOf(options),
  }
  const day = today().toISOString().slice(0, 10)
  const live = await askedSource(options)
  try {
    const known = await knownSpf(loaded, live, (recordAt) => {
      spfChange(loaded, zone, name, wishes, recordAt, day)
    })
    await change(
      target,
      loaded,
      options,
      command,
      ofZone(zone, (zones, at) => orTrouble(spfChange(zones, at, name, wishes, known, day))),
    )
  } finally {
    live?.close()
  }
}
