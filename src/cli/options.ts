/** The options that several commands have. */
import { type Command, Option } from 'commander'

export const workspaceOption = (): Option =>
  new Option('--workspace <folder>', 'the workspace (default: the one that this folder is in)')
export const viewOption = (): Option =>
  new Option('--view <label>', 'which version of the zones, where bramblefront.yaml has several views of one')
export const jsonOption = (): Option => new Option('--json', 'print one JSON document (see docs/json.md)')
export const includeOption = (): Option =>
  new Option('--include-anywhere', 'let $INCLUDE read files outside the folder of the file that names them')
export const zoneOption = (): Option =>
  new Option('--zone <name>', 'the zone that a bare file is for, or the zone that relative names are in')

export const AT_HELP =
  'whom to ask: a label of bramblefront.yaml, authoritative, system, ADDRESS[:PORT], “ADDRESS tls NAME”, or an https:// URL (may be given again; default: the workspace’s vantages)'

/** An option that may be given several times. */
export const collect = (value: string, before: string[] = []): string[] => [...before, value]

export function changeOptions(command: Command): Command {
  return command
    .addOption(zoneOption())
    .option('--file <file>', 'a bare zone file instead of the workspace’s')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .option('--dry-run', 'show what would change, and change nothing')
    .option('--force', 'write even what adds an error')
    .addOption(jsonOption())
}

/** The options of those that may ask for names outside the kept zones. */
export function liveOptions(command: Command): Command {
  return command
    .option('--live', 'ask at the vantages for what is not in a kept zone')
    .option('--at <whom>', AT_HELP, collect)
    .option('--timeout <seconds>', 'how long to try for one answer', '5')
}

/** The options of those that state values, too. */
export function writeOptions(command: Command): Command {
  return changeOptions(command)
    .option('--ttl <time>', 'TTL of the set, in seconds or with units as in 1h30m')
    .option('--add', 'add the values to the set instead of replacing it')
    .option('--remove <value>', 'take one value out of the set (may be given again)', collect)
}
