/** Recipes: the records of a service, written in one go. */
import type { Command } from 'commander'
import { type Listed, offer } from '../../listed.ts'

const COMMANDS: readonly Listed[] = [
  {
    name: 'list',
    summary: 'all recipes: yours in recipes/, and those that come along',
    load: () => import('./list.ts'),
  },
  { name: 'show', summary: 'a recipe: its blanks and records', load: () => import('./show.ts') },
  {
    name: 'write',
    summary: 'write the records of a recipe to a zone, or to several',
    load: () => import('./write.ts'),
  },
  { name: 'from', summary: 'make a recipe of record sets that a zone has', load: () => import('./from.ts') },
]

export const define = (command: Command, args: readonly string[]): Promise<void> => offer(command, COMMANDS, args)
