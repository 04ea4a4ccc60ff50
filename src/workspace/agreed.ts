/** What a person agreed to on this machine, kept outside of workspaces: one that was cloned must not bring its own commands. */
import { createHash } from 'node:crypto'
import { mkdirSync, readFileSync, realpathSync } from 'node:fs'
import { homedir } from 'node:os'
import { dirname, join } from 'node:path'
import { systemText, Trouble } from './trouble.ts'
import { replaceFile } from './write.ts'

const agreedFile = (): string =>
  join(process.env.XDG_STATE_HOME || join(homedir(), '.local', 'state'), 'bramblefront', 'agreed.json')

const keyOf = (folder: string, label: string, command: readonly string[]): string =>
  createHash('sha256')
    .update(JSON.stringify([realpathSync(folder), label, command]))
    .digest('hex')

function known(): string[] {
  try {
    const read: unknown = JSON.parse(readFileSync(agreedFile(), 'utf8'))
    return Array.isArray(read) ? read.filter((each) => typeof each === 'string') : []
  } catch {
    return []
  }
}

/** Whether this very command of a delivery of a workspace was agreed to. */
export const isAgreed = (folder: string, label: string, command: readonly string[]): boolean =>
  known().includes(keyOf(folder, label, command))

export function rememberAgreed(folder: string, label: string, command: readonly string[]): void {
  const file = agreedFile()
  try {
    mkdirSync(dirname(file), { recursive: true, mode: 0o700 })
    replaceFile(file, `${JSON.stringify([...new Set([...known(), keyOf(folder, label, command)])])}\n`)
  } catch (error) {
    throw new Trouble(`cannot write ${file}: ${systemText(error)}`)
  }
}
