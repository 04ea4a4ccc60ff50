/** A zone of which only the name is known: its name servers are looked up, asked to hand it over, and else asked for what it has. */
import { existsSync } from 'node:fs'
import { bare, foldName } from '../../../core/names/name.ts'
import { statedZone } from '../../../workspace/files.ts'
import type { Workspace } from '../../../workspace/workspace.ts'
import { printNote } from '../../output/terminal.ts'
import { verbosity } from '../../verbosity.ts'
import type { Arrived } from './arrived.ts'
import { type AskingOptions, byAsking, serversOf } from './by-asking.ts'
import { type FromOptions, transferred } from './from-server.ts'

/** Whether a word is a zone's name, and no file: one with dots that is not there. */
export const isZoneName = (word: string): boolean =>
  word !== '-' &&
  !existsSync(word) &&
  /^(?:[\w-]+\.)+[\w-]+\.?$/.test(word) &&
  !/\.(?:zone|txt|csv|ya?ml|json|db|html?)$/i.test(word)

/** Servers that do not hand a zone over say so at once; those that are silent are not waited for as long as one that does. */
const LONGEST = '10'

/** Says what it does, step by step, on standard error. */
export async function byName(
  stated: string,
  options: AskingOptions & FromOptions,
  workspace: Workspace,
): Promise<Arrived> {
  const zone = foldName(statedZone(stated))
  const say = (text: string): void => void (verbosity.quiet || printNote(`${text}\n`))
  const servers = await serversOf(zone, options, workspace)
  say(`Name servers of ${bare(zone)}: ${servers.map(({ label }) => label).join(', ')}.`)
  for (const server of servers) {
    const vantage = { ...server, transport: 'tcp' as const }
    const came = await transferred(zone, vantage, undefined, server.label, options.timeout ?? LONGEST)
    if (!('failed' in came)) return came
    say(`${server.label}: no zone transfer (${came.failed}).`)
  }
  say('Asking them for the names that zones usually have …')
  return byAsking(stated, options, workspace, servers)
}
