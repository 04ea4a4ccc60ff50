/** Pages on disk: a file that is there already is replaced only if it is a page of this program. */
import { existsSync, readFileSync, statSync } from 'node:fs'
import { dirname } from 'node:path'
import { systemText, Trouble } from './trouble.ts'
import { replaceFile } from './write.ts'

/** Writes a page, whole or not at all. `generator` is by what a page is known again. */
export function writePage(file: string, html: string, generator: string): void {
  const folder = dirname(file)
  if (!existsSync(folder) || !statSync(folder).isDirectory())
    throw new Trouble(`cannot write ${file}: there is no folder ${folder}`)
  if (existsSync(file) && !isPage(file, generator))
    throw new Trouble(`${file} is there already, and is no page of this program: name another file, or remove it`)
  try {
    replaceFile(file, html)
  } catch (error) {
    throw new Trouble(`cannot write ${file}: ${systemText(error)}`)
  }
}

function isPage(file: string, generator: string): boolean {
  try {
    return readFileSync(file, 'utf8').slice(0, 20_000).includes(`<meta name="generator" content="${generator}"`)
  } catch {
    return false
  }
}
