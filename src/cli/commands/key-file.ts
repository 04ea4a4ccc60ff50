import { statSync } from 'node:fs'
import { type Key, parseKey } from '../../core/message/key.ts'
import { textOf } from '../../core/names/octets.ts'
import { isRefused } from '../../core/result.ts'
import { readFileOrTrouble } from '../../workspace/files.ts'
import { notices, Trouble } from '../../workspace/trouble.ts'

/** The key in a file; one that others can read is told. */
export function keyIn(file: string): Key {
  const key = parseKey(textOf(readFileOrTrouble(file)))
  if (isRefused(key)) throw new Trouble(`${file}: ${key.refused}`)
  if (process.platform !== 'win32' && (statSync(file).mode & 0o044) !== 0)
    notices.add(`${file} is readable by other users. Fix: chmod go-rw ${file}`)
  return key
}
