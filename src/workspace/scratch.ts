/** A temporary folder to play a story in. */
import { appendFileSync, cpSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { replaceFile } from './write.ts'

export class Scratch {
  readonly folder = mkdtempSync(join(tmpdir(), 'bramblefront-'))

  path(...parts: string[]): string {
    return join(this.folder, ...parts)
  }

  /** Puts a file there; its folders are made. */
  put(path: string, text: string): void {
    mkdirSync(dirname(this.path(path)), { recursive: true })
    replaceFile(this.path(path), text)
  }

  /** Puts more behind what a file there has. */
  append(path: string, text: string): void {
    appendFileSync(this.path(path), text)
  }

  copy(from: string, path: string): void {
    mkdirSync(dirname(this.path(path)), { recursive: true })
    cpSync(from, this.path(path))
  }

  remove(path: string): void {
    rmSync(this.path(path))
  }

  /** Takes the folder away. */
  drop(): void {
    rmSync(this.folder, { recursive: true, force: true })
  }
}
