/** Commands that are known by their name and summary until one of them is called. */
import type { Command } from 'commander'

/** A command as lists of commands show it. Its file says the rest: arguments, options, and what it does. */
export interface Listed {
  name: string
  summary: string
  load: () => Promise<{
    /** Completes the command; `args` are those behind its name. */
    define: (command: Command, args: readonly string[]) => Command | Promise<void>
  }>
}

/** Adds the commands to `parent`, and completes the one that `args` call, or ask help for. */
export async function offer(parent: Command, all: readonly Listed[], args: readonly string[]): Promise<void> {
  const at = args.findIndex((each) => !each.startsWith('-') && each !== 'help')
  for (const { name, summary, load } of all) {
    const command = parent.command(name).description(summary)
    if (args[at]?.toLowerCase() !== name) continue
    // However it is typed: MX is mx.
    if (args[at] !== name) command.alias(args[at]!)
    await (await load()).define(command, args.slice(at + 1))
  }
}
