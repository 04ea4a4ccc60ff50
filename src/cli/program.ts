/** The program: its commands, each in a file of commands/ that says its options and is loaded when it is called. */
import { Command, CommanderError } from 'commander'
import { notices, Trouble } from '../workspace/trouble.ts'
import { type Listed, offer } from './listed.ts'
import { printable } from './output/printable.ts'

/** What the exit status says, for every command. */
const STATUS_HELP = `
Exit status: 0 all well; 1 something is wrong; 2 the call or a file cannot be used;
3 the outside could not be reached, and nothing is known to be wrong; 4 still settling.`

const COMMANDS: readonly Listed[] = [
  {
    name: 'init',
    summary: 'make a workspace in a folder: bramblefront.yaml, zones/, keys/, backups/',
    load: () => import('./commands/init.ts'),
  },
  {
    name: 'write',
    summary: 'write one record set: shows it before and after, checks the result, keeps a copy of the file',
    load: () => import('./commands/write/index.ts'),
  },
  {
    name: 'remove',
    summary: 'remove a record set, single records of it, or all that a name has',
    load: () => import('./commands/remove.ts'),
  },
  { name: 'adopt', summary: 'bring an existing zone into the workspace', load: () => import('./commands/adopt.ts') },
  {
    name: 'show',
    summary: 'a zone at a glance, by purpose; or as zone file, JSON, CSV or in the generic form',
    load: () => import('./commands/show.ts'),
  },
  {
    name: 'check',
    summary: 'check zone files, or the whole workspace, against the rules',
    load: () => import('./commands/check.ts'),
  },
  {
    name: 'explain',
    summary: 'what a rule means, what happens in practice, and how to put it right',
    load: () => import('./commands/explain.ts'),
  },
  {
    name: 'sender',
    summary: 'would mail from this address pass SPF, DKIM and DMARC: by the intended data, or as published',
    load: () => import('./commands/sender.ts'),
  },
  {
    name: 'confirm',
    summary: 'ask servers and resolvers, and compare their answers with what is intended',
    load: () => import('./commands/confirm/index.ts'),
  },
  {
    name: 'timing',
    summary: 'when to lower a TTL before a change, and when a change is through',
    load: () => import('./commands/timing.ts'),
  },
  {
    name: 'demo',
    summary: 'play a whole story in a temporary folder, against a stand-in server on loopback',
    load: () => import('./commands/demo.ts'),
  },
]

const build = (version: string): Command =>
  new Command('bramblefront')
    .description(
      'Writes mail, service and alias record sets, checks them against the standards, and confirms that resolvers return what was intended.',
    )
    .version(version, '-V, --version', 'print the version')
    .option('--no-color', 'print without colour (NO_COLOR does the same)')
    .helpOption('-h, --help', 'show this help')
    .addHelpText('after', STATUS_HELP)
    .exitOverride()
    .showHelpAfterError(false)
    .enablePositionalOptions()
    .configureOutput({
      writeErr: (text) => process.stderr.write(printable(text.replace(/^error: /, 'bramblefront: '))),
    })

/** Runs the program; sets the exit status. */
export async function run(args: string[], version: string): Promise<void> {
  const program = build(version)
  try {
    await offer(program, COMMANDS, args)
    await program.parseAsync(args, { from: 'user' })
  } catch (error) {
    if (error instanceof CommanderError) {
      process.exitCode = error.exitCode === 0 ? 0 : 2
      return
    }
    if (error instanceof Trouble) {
      process.stderr.write(`bramblefront: ${printable(error.message)}\n`)
      process.exitCode = error.status
      return
    }
    process.stderr.write(
      `bramblefront: a fault in the program itself: ${printable(String((error as Error)?.message ?? error))}\n`,
    )
    if (process.env.BRAMBLEFRONT_DEBUG) process.stderr.write(`${printable(String((error as Error)?.stack ?? ''))}\n`)
    process.exitCode = 2
  } finally {
    for (const notice of notices) process.stderr.write(`bramblefront: ${printable(notice)}\n`)
  }
}
