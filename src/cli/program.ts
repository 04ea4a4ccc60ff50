/** The program: its commands, each in a file of commands/ that says its options and is loaded when it is called. */

import { Command, CommanderError } from 'commander'
import { jsonText, printable } from '../core/printable.ts'
import { notices, Trouble } from '../workspace/trouble.ts'
import type { ProblemDocument } from './documents/problem.ts'
import { type Listed, offer } from './listed.ts'
import { hasPrinted, holdBack, print, printNote } from './output/terminal.ts'
import { verbosity, withoutVerbosity } from './verbosity.ts'

/** What the exit status says, for every command. */
const STATUS_HELP = `
Exit status: 0 all well; 1 a problem was found; 2 usage or input error;
3 a server or resolver could not be reached, no problem found; 4 still settling.`

const COMMANDS: readonly Listed[] = [
  {
    name: 'init',
    summary: 'create a workspace: bramblefront.yaml, zones/, keys/, backups/',
    load: () => import('./commands/init.ts'),
  },
  {
    name: 'write',
    summary: 'write a record set: shows before and after, checks the result, keeps a backup',
    load: () => import('./commands/write/index.ts'),
  },
  {
    name: 'remove',
    summary: 'remove a record set, single records, or everything at a name',
    load: () => import('./commands/remove.ts'),
  },
  {
    name: 'adopt',
    summary: 'bring existing zone files into the workspace',
    load: () => import('./commands/adopt/index.ts'),
  },
  {
    name: 'transcribe',
    summary: 'take over records from an email, a table or a list that was pasted',
    load: () => import('./commands/transcribe.ts'),
  },
  {
    name: 'recipe',
    summary: 'write the usual records of a service in one go',
    load: () => import('./commands/recipe/index.ts'),
  },
  {
    name: 'follow',
    summary: 'keep the addresses of a name at an apex, where a CNAME cannot be',
    load: () => import('./commands/follow.ts'),
  },
  {
    name: 'show',
    summary: 'show a zone by purpose, or as zone file, JSON or CSV',
    load: () => import('./commands/show.ts'),
  },
  {
    name: 'check',
    summary: 'check zone files, or the whole workspace, against the rules',
    load: () => import('./commands/check.ts'),
  },
  {
    name: 'explain',
    summary: 'explain a rule: what it means, what happens in practice, how to fix it',
    load: () => import('./commands/explain.ts'),
  },
  {
    name: 'sender',
    summary: 'test whether mail from an IP address would pass SPF, DKIM and DMARC',
    load: () => import('./commands/sender.ts'),
  },
  {
    name: 'confirm',
    summary: 'ask servers and resolvers, and compare their answers with the intended data',
    load: () => import('./commands/confirm/index.ts'),
  },
  {
    name: 'sheet',
    summary: 'what to type into the web form of a hosting company',
    load: () => import('./commands/sheet/index.ts'),
  },
  {
    name: 'timing',
    summary: 'when to lower a TTL before a change, and when a change has reached everyone',
    load: () => import('./commands/timing.ts'),
  },
  {
    name: 'history',
    summary: 'what was changed, published and confirmed, and when',
    load: () => import('./commands/history/index.ts'),
  },
  {
    name: 'restore',
    summary: 'bring back a record set, a name or a zone as it was',
    load: () => import('./commands/restore.ts'),
  },
  {
    name: 'diff',
    summary: 'where the intended data differ from servers, a file, or an earlier state',
    load: () => import('./commands/diff.ts'),
  },
  {
    name: 'publish',
    summary: 'put what is intended in place: by dynamic update, or as files; never over others’ changes',
    load: () => import('./commands/publish/index.ts'),
  },
  {
    name: 'rehearse',
    summary: 'serve what is intended on this machine, to try it before it is public',
    load: () => import('./commands/rehearse.ts'),
  },
  {
    name: 'demo',
    summary: 'run a complete example in a temporary folder, with simulated servers',
    load: () => import('./commands/demo/index.ts'),
  },
]

const build = (version: string): Command =>
  new Command('bramblefront')
    .description(
      'Writes mail, service and alias record sets, checks them against the standards, and confirms that resolvers return what was intended.',
    )
    .version(version, '-V, --version', 'print the version')
    .option('--no-color', 'print without color (same as NO_COLOR=1)')
    .option('--quiet', 'print nothing if all is well (exit status 0)')
    .option('--verbose', 'print everything in full')
    .helpOption('-h, --help', 'show this help')
    .addHelpText('after', STATUS_HELP)
    .exitOverride()
    .showHelpAfterError(false)
    .enablePositionalOptions()
    .configureOutput({
      writeOut: (text) => print(text),
      writeErr: (text) => printNote(printable(text.replace(/^error: /, 'bramblefront: '))),
    })

/** Whether a call asks for JSON; what follows `--` is data. */
const isJson = (args: readonly string[]): boolean =>
  args.slice(0, args.includes('--') ? args.indexOf('--') : undefined).includes('--json')

/** Help is asked for a command that there is. */
async function mustBeCommand(word: string): Promise<void> {
  const names = COMMANDS.map(({ name }) => name)
  if (names.includes(word.toLowerCase())) return
  const { nearestThen } = await import('../workspace/nearest.ts')
  throw new Trouble(
    `there is no command ${word}; ${nearestThen(word, names, 'commands', 'All of them: bramblefront help')}`,
  )
}

/** Runs the program; sets the exit status. */
export async function run(words: string[], version: string): Promise<void> {
  const [first, ...others] = withoutVerbosity(words)
  // “help write mx” is “write mx --help”.
  const args =
    first === 'help' && others.length > 0
      ? [...others, '--help']
      : [first, ...others].filter((each) => each !== undefined)
  const program = build(version)
  const release = verbosity.quiet ? holdBack() : undefined
  try {
    if (first === 'help' && others[0] !== undefined) await mustBeCommand(others[0])
    await offer(program, COMMANDS, args)
    await program.parseAsync(args, { from: 'user' })
  } catch (error) {
    if (error instanceof CommanderError) {
      process.exitCode = error.exitCode === 0 ? 0 : 2
      return
    }
    if (error instanceof Trouble) {
      printNote(`bramblefront: ${printable(error.message)}\n`)
      process.exitCode = error.status
      if (error.status === 1 && isJson(args) && !hasPrinted()) {
        const document: ProblemDocument = { format: 1, problem: error.message, status: error.status }
        print(`${jsonText(document, 2)}\n`)
      }
      return
    }
    printNote(
      `bramblefront: internal error, please report it: ${printable(String((error as Error)?.message ?? error))}\n`,
    )
    if (process.env.BRAMBLEFRONT_DEBUG) printNote(`${printable(String((error as Error)?.stack ?? ''))}\n`)
    process.exitCode = 2
  } finally {
    release?.()
    for (const notice of notices) printNote(`bramblefront: ${printable(notice)}\n`)
  }
}
