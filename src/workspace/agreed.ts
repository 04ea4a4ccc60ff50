/** What a person agreed to on this machine, kept outside of workspaces: one that was cloned must not bring its own commands. */
import { createHash } from 'node:crypto'
import { mkdirSync, readFileSync, realpathSync } from 'node:fs'
import { homedir } from 'node:os'
import { dirname, join } from 'node:path'
import { systemText, Trouble } from './trouble.ts'
import { replaceFile } from './write.ts'

/** A command of a delivery of a workspace, in these very words; `sum` is that of its program’s content, where that counts. */
export interface Agreement {
  folder: string
  label: string
  command: readonly string[]
  sum?: string
}

const agreedFile = (): string =>
  join(process.env.XDG_STATE_HOME || join(homedir(), '.local', 'state'), 'bramblefront', 'agreed.json')

const keyOf = ({ folder, label, command, sum }: Agreement): string =>
  createHash('sha256')
    .update(JSON.stringify([realpathSync(folder), label, command, ...(sum === undefined ? [] : [sum])]))
    .digest('hex')

function known(): string[] {
  try {
    const read: unknown = JSON.parse(readFileSync(agreedFile(), 'utf8'))
    return Array.isArray(read) ? read.filter((each) => typeof each === 'string') : []
  } catch {
    return []
  }
}

/** Whether it was agreed to. */
export const isAgreed = (agreement: Agreement): boolean => known().includes(keyOf(agreement))

export function rememberAgreed(agreement: Agreement): void {
  const file = agreedFile()
  try {
    mkdirSync(dirname(file), { recursive: true, mode: 0o700 })
    replaceFile(file, `${JSON.stringify([...new Set([...known(), keyOf(agreement)])])}\n`)
  } catch (error) {
    throw new Trouble(`cannot write ${file}: ${systemText(error)}`)
  }
}
