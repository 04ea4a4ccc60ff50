/** The commands and their options. Each command's code is in commands/, and is loaded when it is called. */
import { Command, CommanderError, Option } from 'commander'
import { Trouble } from '../workspace/trouble.ts'
import { printable } from './output/printable.ts'

/** What the exit status says, for every command. */
const STATUS_HELP = `
Exit status: 0 all well; 1 something is wrong; 2 the call or a file cannot be used;
3 the outside could not be reached, and nothing is known to be wrong; 4 still settling.`

const workspaceOption = (): Option =>
  new Option('--workspace <folder>', 'the workspace (default: the one that this folder is in)')
const jsonOption = (): Option => new Option('--json', 'print one JSON document (see docs/json.md)')
const includeOption = (): Option =>
  new Option('--include-anywhere', 'let $INCLUDE read files outside the folder of the file that names them')
const zoneOption = (): Option =>
  new Option('--zone <name>', 'the zone that a bare file is for, or the zone that relative names are in')

const AT_HELP =
  'whom to ask: a label of bramblefront.yaml, authoritative, system, ADDRESS[:PORT], “ADDRESS tls NAME”, or an https:// URL (may be given again; default: the workspace’s vantages)'

/** An option that may be given several times. */
const collect = (value: string, before: string[] = []): string[] => [...before, value]

function changeOptions(command: Command): Command {
  return command
    .addOption(zoneOption())
    .option('--file <file>', 'a bare zone file instead of the workspace’s')
    .addOption(workspaceOption())
    .addOption(includeOption())
    .option('--dry-run', 'show what would change, and change nothing')
    .option('--force', 'write even what adds an error')
    .addOption(jsonOption())
}

/** The options of those that may ask for names outside the kept zones. */
function liveOptions(command: Command): Command {
  return command
    .option('--live', 'ask at the vantages for what is not in a kept zone')
    .option('--at <whom>', AT_HELP, collect)
    .option('--timeout <seconds>', 'how long to try for one answer', '5')
}

/** The options of those that state values, too. */
function writeOptions(command: Command): Command {
  return changeOptions(command)
    .option('--ttl <time>', 'TTL of the set, in seconds or with units as in 1h30m')
    .option('--add', 'add the values to the set instead of replacing it')
    .option('--remove <value>', 'take one value out of the set (may be given again)', collect)
}

function build(version: string): Command {
  const program = new Command('bramblefront')
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

  program
    .command('init')
    .description('make a workspace in a folder: bramblefront.yaml, zones/, keys/, backups/')
    .argument('[folder]', 'where (default: here)')
    .addOption(jsonOption())
    .action(async (folder, options, command) => (await import('./commands/init.ts')).init(folder, options, command))

  const write = program
    .command('write')
    .description('write one record set: shows it before and after, checks the result, keeps a copy of the file')
  const kind = (name: string, argument: string, description: string, example: string) =>
    writeOptions(
      write
        .command(name)
        .description(description)
        .argument('<name>', 'the owner; @ for the zone itself')
        .argument('[values...]', argument),
    )
      .addHelpText('after', `\nFor example:\n  bramblefront write ${name} ${example}\n`)
      .action(async (owner, values, options, command) =>
        (await import('./commands/write.ts')).write(name, owner, values, options, command),
      )
  kind(
    'mx',
    'PREFERENCE EXCHANGE, each as one argument',
    'mail exchanges',
    'hollowmere.example "10 mail" "20 mx.larkpost.example."',
  )
  kind('cname', 'the target', 'an alias', 'www.hollowmere.example site.northlight.example.')
  kind(
    'srv',
    'PRIORITY WEIGHT PORT TARGET, each as one argument',
    'the hosts of a service',
    '_imaps._tcp.hollowmere.example "0 1 993 mail"',
  )
  kind(
    'address',
    'IPv4 and IPv6 addresses',
    'addresses (A, AAAA); a family that is not named stays as it is',
    'mail.hollowmere.example 192.0.2.25 2001:db8::25',
  )
  kind(
    'txt',
    'texts, each as one argument',
    'texts; added to those there are, unless --replace',
    'hollowmere.example "ferry-proof=41c2"',
  ).option('--replace', 'replace all texts at the name')
  kind(
    'record',
    'TYPE, then the values in presentation form',
    'a record set of any type',
    'hollowmere.example NS ns1.upland-dns.example. ns2.upland-dns.example.',
  )

  const mail = (
    name: string,
    arguments_: [string, string] | undefined,
    description: string,
    example: string,
  ): Command => {
    const command = changeOptions(
      write.command(name).description(description).argument('<name>', 'the domain; @ for the zone itself'),
    )
    if (arguments_) command.argument(...arguments_)
    return command
      .option('--ttl <time>', 'TTL of what is written, in seconds or with units as in 1h30m')
      .addHelpText('after', `\nFor example:\n  bramblefront write ${name} ${example}\n`)
  }
  const load = () => import('./commands/write-mail.ts')
  liveOptions(
    mail(
      'spf',
      ['[records...]', 'whole records, to be joined with the one there is'],
      'who may send: joins senders and records with the one SPF record that there is',
      'hollowmere.example --allow include:_spf.quillwing.example',
    ),
  )
    .option(
      '--allow <sender>',
      'let it send: mx, an address or range, include:NAME, a:HOST (may be given again)',
      collect,
    )
    .option('--remove <sender>', 'take it out (may be given again)', collect)
    .option('--end <result>', 'what of everybody else: fail (-all), softfail (~all) or neutral (?all)')
    .option('--replace', 'begin anew instead of joining')
    .option(
      '--spell-out <include>',
      'replace an include by the addresses that it has now; they change without notice',
      collect,
    )
    .action(async (name, records, options, command) => (await load()).writeSpf(name, records, options, command))
  mail(
    'dkim',
    undefined,
    'the key that mail is signed with: a new one, one that is handed over, or an alias to a service’s',
    'hollowmere.example --selector ferry1',
  )
    .option('--selector <selector>', 'the name of the key')
    .option('--kind <kind>', 'rsa or ed25519 (default: rsa)')
    .option('--bits <bits>', 'of an RSA key: 2048, 3072 or 4096 (default: 2048)')
    .option('--key <key>', 'publish this key: a file, - for standard input, base64, or a record as it was sent')
    .option('--alias <selector=target>', 'an alias to a sending service’s key (may be given again)', collect)
    .option('--rotate', 'the next key, beside the present one')
    .option('--revoke', 'empty the key at the selector')
    .action(async (name, options, command) => (await load()).writeDkim(name, options, command))
  mail(
    'dmarc',
    ['[tags...]', 'tags to change, as in p=quarantine sp=reject; a tag without value goes'],
    'the policy for mail that fails',
    'hollowmere.example --next --reports dmarc@hollowmere.example',
  )
    .option('--next', 'the next step: watch, then quarantine, then reject')
    .option('--percent <number>', 'apply the policy to so many of 100 messages')
    .option('--reports <address>', 'where reports go (may be given again)', collect)
    .option('--replace', 'begin anew instead of changing tags')
    .action(async (name, tags, options, command) => (await load()).writeDmarc(name, tags, options, command))
  mail(
    'no-mail',
    undefined,
    'a domain that neither sends nor receives: null MX, v=spf1 -all, p=reject',
    'lakepass.example --empty-keys',
  )
    .option('--empty-keys', 'an empty key at every selector, too')
    .option('--reports <address>', 'where reports of attempts go (may be given again)', collect)
    .action(async (name, options, command) => (await load()).writeNoMail(name, options, command))
  mail(
    'mta-sts',
    undefined,
    'that mail must come encrypted: the record, and the policy’s text from the MX set',
    'hollowmere.example --mode testing',
  )
    .option('--mode <mode>', 'testing, enforce or none (default: as it is, at first testing)')
    .option('--max-age <time>', 'how long senders keep the policy (default: as it is, at first 1w)')
    .option('--also <host>', 'list this host too, before it is in the MX set (may be given again)', collect)
    .action(async (name, options, command) => (await load()).writeSts(name, options, command))
  mail(
    'tls-rpt',
    ['[addresses...]', 'mail or https: addresses'],
    'where reports of failed encryption go',
    'hollowmere.example tls@hollowmere.example',
  ).action(async (name, addresses, options, command) =>
    (await load()).writeTlsReports(name, addresses, options, command),
  )

  changeOptions(
    program
      .command('remove')
      .description('remove a record set, single records of it, or all that a name has')
      .argument('<name>', 'the owner; @ for the zone itself')
      .argument('[type]', 'the type of the set')
      .argument('[values...]', 'only these values'),
  )
    .option('--all', 'everything at the name')
    .action(async (owner, type, values, options, command) =>
      (await import('./commands/remove.ts')).remove(owner, type, values, options, command),
    )

  program
    .command('adopt')
    .description('bring an existing zone into the workspace')
    .requiredOption('--file <file>', 'a zone file; it is copied as it is')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(async (options, command) => (await import('./commands/adopt.ts')).adopt(options, command))

  liveOptions(
    program
      .command('show')
      .description('a zone at a glance, by purpose; or as zone file, JSON, CSV or in the generic form'),
  )
    .option(
      '--format <format>',
      'zone (tidy, sorted), canonical (one absolute record a line), generic (RFC 3597), json, csv',
    )
    .argument('[what]', 'a zone file, or a zone of the workspace')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(async (what, options, command) => (await import('./commands/show.ts')).show(what, options, command))

  liveOptions(program.command('check').description('check zone files, or the whole workspace, against the rules'))
    .argument('[what...]', 'zone files (default: the workspace), and names to look at')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .option('--with-workspace', 'check the files given, with the other zones of the workspace known')
    .addOption(includeOption())
    .option('--severity <least>', 'show nothing below error, warning or advice (default: advice)')
    .option('--only <codes>', 'these rules or families alone, separated by commas', collect)
    .option('--except <codes>', 'all but these rules or families', collect)
    .option('--all', 'show each finding, also those that say the same of several names')
    .option('--published <folder>', 'the zone files as they were published: to see that serials were advanced')
    .option('--fix', 'put right what has exactly one right answer: shows the difference, and asks')
    .option('--yes', 'write without asking')
    .option('--fail-on <severity>', 'exit status 1 from error, warning or advice on (default: error)')
    .option('--format <format>', 'text, json, or sarif (SARIF 2.1.0)')
    .addOption(jsonOption())
    .action(async (what, options, command) => (await import('./commands/check.ts')).check(what, options, command))

  program
    .command('explain')
    .description('what a rule means, what happens in practice, and how to put it right')
    .argument('[code]', 'a rule’s code, as in mx/target-is-alias (default: list them all)')
    .addOption(jsonOption())
    .action(async (code, options, command) => (await import('./commands/explain.ts')).explain(code, options, command))

  liveOptions(
    program
      .command('sender')
      .description('would mail from this address pass SPF, DKIM and DMARC: by the intended data, or as published')
      .argument('<address>', 'the address that the mail comes from')
      .requiredOption('--envelope <address>', 'the envelope sender, as in news@hollowmere.example; <> for a bounce')
      .option('--from <address>', 'the address in From: (default: the envelope’s)')
      .option('--helo <name>', 'the name that the sender says it has (default: the envelope’s domain)')
      .option(
        '--signed-by <domain:selector>',
        'who signs it; the signature is taken to be sound (may be given again)',
        collect,
      )
      .option('--as-published', 'ask the vantages for everything, kept zones too')
      .option('--offline', 'ask nobody: names outside the kept zones are unknown')
      .option('--file <file>', 'a bare zone file instead of the workspace’s')
      .addOption(zoneOption())
      .addOption(workspaceOption())
      .addOption(includeOption())
      .addOption(jsonOption()),
  ).action(async (address, options, command) =>
    (await import('./commands/sender.ts')).sender(address, options, command),
  )

  program
    .command('confirm')
    .description('ask servers and resolvers, and compare their answers with what is intended')
    .argument('[what]', 'a zone file, or a zone or name of the workspace (default: all zones)')
    .addOption(zoneOption())
    .option('--at <whom>', AT_HELP, collect)
    .option('--only-authoritative', 'ask the zone’s own servers alone')
    .option(
      '--early',
      'ask resolvers even for what not all authoritative servers have yet: they may then keep the denial',
    )
    .option('--samples <number>', 'how often to ask each resolver: several caches may answer at one address', '1')
    .option('--watch', 'ask again whenever something can have changed, until everything is confirmed')
    .option('--deadline <time>', 'with --watch: stop after this time, as in 30m')
    .option(
      '--rate <number>',
      'questions a second to each vantage; none for your own servers (default: 50, no limit for loopback and private addresses)',
    )
    .option('--timeout <seconds>', 'how long to try for one answer', '5')
    .option('--all', 'list every set, however many')
    .addOption(workspaceOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(async (what, options, command) => (await import('./commands/confirm.ts')).confirm(what, options, command))

  program
    .command('timing')
    .description('when to lower a TTL before a change, and when a change is through')
    .argument('<zone>', 'a zone file, or a zone of the workspace')
    .argument('[name]', 'the owner; @ for the zone itself')
    .argument('[type]', 'the type of the set')
    .option('--lower-to <time>', 'what to lower a TTL to before a change', '5m')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(async (zone, name, type, options, command) =>
      (await import('./commands/timing.ts')).timing(zone, name, type, options, command),
    )

  program
    .command('demo')
    .description('play a whole story in a temporary folder, against a stand-in server on loopback')
    .option('--keep', 'leave the folder there afterwards')
    .addOption(jsonOption())
    .action(async (options, command) => (await import('./commands/demo.ts')).demo(options, command))
  return program
}

/** Runs the program; sets the exit status. */
export async function run(args: string[], version: string): Promise<void> {
  const program = build(version)
  program.configureOutput({
    writeErr: (text) => process.stderr.write(printable(text.replace(/^error: /, 'bramblefront: '))),
  })
  for (const command of [program, ...program.commands, ...program.commands.flatMap((each) => each.commands)])
    command.exitOverride().configureOutput(program.configureOutput())
  try {
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
  }
}
