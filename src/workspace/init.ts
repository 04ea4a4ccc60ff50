/** Makes workspaces. */
import { existsSync, mkdirSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { ignoreFile } from './beside.ts'
import { commit, finishUnfinished } from './commit.ts'
import { systemText, Trouble } from './trouble.ts'
import { CONFIG_FILE, shownPath } from './workspace.ts'

export const SCHEMA_FILE = 'bramblefront.schema.json'

/** Makes a workspace of a folder; what is there already stays as it is. Returns the files that were made. */
export async function makeWorkspace(
  folder: string,
  { config, schema, command, now }: { config: string; schema: string; command: string; now: Date },
): Promise<string[]> {
  const root = resolve(folder)
  const file = join(root, CONFIG_FILE)
  if (existsSync(root)) await finishUnfinished(root)
  const there = (): never => {
    throw new Trouble(`${shownPath(file)} already exists: this is a workspace; nothing was changed`)
  }
  if (existsSync(file)) there()
  try {
    for (const part of ['zones', 'keys', 'backups'])
      mkdirSync(join(root, part), { recursive: true, mode: part === 'keys' ? 0o700 : 0o777 })
  } catch (error) {
    throw new Trouble(`cannot create a workspace in ${root}: ${systemText(error)}`)
  }
  const beside = [
    ...ignoreFile(root),
    ...(existsSync(join(root, SCHEMA_FILE)) ? [] : [{ path: join(root, SCHEMA_FILE), content: schema }]),
    { path: file, content: config },
  ]
  await commit({ root, backups: root, logged: false }, { zones: [], beside, command, now }, async () => there())
  return beside.map(({ path }) => path)
}
