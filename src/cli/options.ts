/** The options that several commands have. */
import { type Command, Option } from 'commander'

export const workspaceOption = (): Option =>
  new Option('--workspace <folder>', 'the workspace (default: the one containing the current folder)')
export const viewOption = (): Option =>
  new Option('--view <label>', 'which view, if bramblefront.yaml has several for a zone')
export const jsonOption = (): Option => new Option('--json', 'print one JSON document (see docs/json.md)')
export const includeOption = (): Option =>
  new Option('--include-anywhere', 'let $INCLUDE read files outside the folder of the including file')
export const zoneOption = (): Option =>
  new Option('--zone <name>', 'the zone of a bare file, or the zone that relative names belong to')

export const AT_HELP =
  'whom to ask: a label from bramblefront.yaml, authoritative, system, ADDRESS[:PORT], “ADDRESS tls NAME”, or an https:// URL (repeatable; default: the workspace’s vantages)'

export const RATE_HELP =
  'queries per second to each vantage, or none for no limit (default: 50; no limit for loopback and private addresses)'

/** An option that may be given several times. */
export const collect = (value: string, before: string[] = []): string[] => [...before, value]

export function changeOptions(command: Command): Command {
  return command
    .addOption(zoneOption())
    .option('--file <file>', 'a bare zone file instead of the workspace')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .option('--dry-run', 'show what would change, but change nothing')
    .option('--force', 'write even if that adds an error')
    .addOption(jsonOption())
}

/** The options of those that join records with what a zone has. */
export function joinOptions(command: Command): Command {
  return changeOptions(command)
    .option('--fill <name=value>', 'fill in a placeholder (repeatable)', collect)
    .option('--ptr', 'write the PTR records of addresses in your reverse zones, too')
    .option('--replace', 'remove what cannot exist next to them: an alias (CNAME), or the records next to one')
    .option('--mx <how>', 'replace the MX records that are there, or add to them: replace or add')
    .option(
      '--answer <what=choice>',
      'answer a question: NAME/TYPE=CHOICE, or LINE=CHOICE, of several files FILE:LINE=CHOICE (repeatable)',
      collect,
    )
    .option('--yes', 'write without asking')
}

/** The options of those that may ask for names outside the kept zones. */
export function liveOptions(command: Command): Command {
  return command
    .option('--live', 'look up names outside your zones')
    .option('--at <whom>', AT_HELP, collect)
    .option('--timeout <seconds>', 'how long to wait for an answer', '5')
}

/** The options of those that state values, too. */
export function writeOptions(command: Command): Command {
  return changeOptions(command)
    .option('--ttl <time>', 'TTL, in seconds or with units as in 1h30m')
    .option('--add', 'add to the record set instead of replacing it')
    .option('--remove <value>', 'remove one value from the record set (repeatable)', collect)
}
