/**
 * Which zone is in which file, and what of other zones each is tied to: so that a command about one zone reads few files, however many there are.
 * It is kept in the workspace’s folder for speed alone. What it says of a file counts only while that is the very same file, of the same size and time;
 * everything else is read again. An index that is missing or damaged is one that says nothing.
 */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Tie } from '../core/change/ties.ts'
import type { Name } from '../core/names/name.ts'
import { sumOf } from './backups.ts'
import { replaceFile } from './write.ts'

const INDEX_FILE = '.bramblefront.index'
/** Fewer files than this are read as fast as an index. */
export const LEAST_FILES = 64
/** What is known of a file. */
export interface Indexed {
  stamp: string
  /** Null where the file does not say it. */
  zone: Name | null
  /** Undefined where they were not looked at. */
  ties?: Tie[]
  /** The files that it includes, with their stamps. */
  included?: Record<string, string>
}

/** By their whole paths: where the workspace was moved, nothing is known. */
export type ZoneIndex = Map<string, Indexed>

export function readIndex(folder: string): ZoneIndex {
  try {
    const [sum, text] = readFileSync(join(folder, INDEX_FILE), 'utf8').split('\n', 2) as [string, string]
    if (sum === sumOf(Buffer.from(text))) return new Map(Object.entries(JSON.parse(text) as Record<string, Indexed>))
  } catch {
    // It is made anew.
  }
  return new Map()
}

export function writeIndex(folder: string, index: ZoneIndex): void {
  const text = JSON.stringify(Object.fromEntries(index))
  try {
    replaceFile(join(folder, INDEX_FILE), `${sumOf(Buffer.from(text))}\n${text}\n`)
  } catch {
    // Whoever may not write here does without.
  }
}
