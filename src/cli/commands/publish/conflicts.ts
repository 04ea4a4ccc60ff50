/** Conflicts, decided at the terminal: what is there is taken over, or what is here is sent. */

import type { Command } from 'commander'
import { setKey } from '../../../core/change/difference.ts'
import { changeOf, type Plan } from '../../../core/change/plan.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { printable } from '../../../core/printable.ts'
import { typeText } from '../../../core/records/types.ts'
import { zoneNamed } from '../../../workspace/workspace.ts'
import { answered } from '../../output/ask.ts'
import { Page } from '../../output/page.ts'
import { print } from '../../output/terminal.ts'
import { takeOver } from '../adopt/sets.ts'
import { pastOf } from '../past.ts'
import { choose } from '../source.ts'
import type { Job, Outcome } from './job.ts'
import { printConflict } from './told.ts'

type Conflict = Plan['conflicts'][number]

/** Asks for each which side is right. Returns the job to be done then; undefined where one was left open. */
export async function decided(job: Job, { conflicts, changes }: Outcome, command: Command): Promise<Job | undefined> {
  const ours = new Set<string>()
  const theirs: Conflict[] = []
  for (const each of conflicts) {
    const page = new Page(command)
    printConflict(page, each, [...changes, ...conflicts.map(changeOf)])
    page.print()
    const name = `${bare(each.owner)} ${typeText(each.type)}`
    const answer = (
      (await answered(printable(`${name}: which one is right? [there/here, or stop]`))) ?? ''
    ).toLowerCase()
    if (/^t(?:here)?$/.test(answer)) theirs.push(each)
    else if (/^h(?:ere)?$/.test(answer)) ours.add(setKey(each))
    else return undefined
  }
  const { past, options } = job
  if (theirs.length > 0) {
    const present = new Map(theirs.flatMap((each) => (each.now ? [[setKey(each), each.now]] : [])))
    const meant = theirs.map(({ owner, type }) => ({ owner: foldName(owner), type }))
    await takeOver(present, meant, past.zone, { ...options, yes: true }, command)
    print('\n')
  }
  const source = await choose(bare(past.zone.name), options)
  const zone = zoneNamed(source.zones, past.zone.name)
  const file = source.workspace!.files.find((each) => each.file === past.file.file)!
  return { ...job, source, past: pastOf(past.folder, file, source.zones, zone), isOurs: (set) => ours.has(setKey(set)) }
}
