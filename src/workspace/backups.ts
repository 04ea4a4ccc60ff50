/** Kept copies: how zones were before they were changed. */
import { existsSync, readdirSync, statSync } from 'node:fs'
import { basename, join } from 'node:path'
import type { Earlier } from '../core/confirm/questions.ts'
import { foldName } from '../core/names/name.ts'
import { backupFolder } from './commit.ts'
import { readFileOrTrouble } from './files.ts'
import { loadZones, type ZoneFile } from './workspace.ts'

/** So many copies are looked at, the newest first, and no more of them than have so many octets together (the newest always). */
const COPIES = 40
const OCTETS = 1 << 26

/** 2026-11-23T08-00-00-123Z, perhaps with a number behind it, then the file’s own name. */
const NAME = /^(\d{4}-\d\d-\d\dT)(\d\d)-(\d\d)-(\d\d)-(\d{3}Z)(?:-\d+)?_(.+)$/

/** What is known of how a zone was. */
export interface History {
  /** Newest first. */
  states: Earlier[]
  /** Whether there are older ones that were not looked at. */
  more: boolean
}

/** How the zone of a file was before its last changes. Files that it includes are taken as they are now. `folder` is where copies are kept. */
export function earlierStates(folder: string, file: ZoneFile, includeAnywhere = false): History {
  const kept = backupFolder(folder, file)
  if (!existsSync(kept)) return { states: [], more: false }
  let names: string[]
  try {
    names = readdirSync(kept)
  } catch {
    return { states: [], more: false }
  }
  const states: Earlier[] = []
  let octets = 0
  for (const name of names.sort().reverse()) {
    const [, day, hours, minutes, seconds, rest, of] = NAME.exec(name) ?? []
    if (of !== basename(file.file)) continue
    const path = join(kept, name)
    octets += statSync(path).size
    if (states.length > 0 && (octets > OCTETS || states.length >= COPIES)) return { states, more: true }
    const zones = loadZones([{ ...file, octets: readFileOrTrouble(path) }], includeAnywhere)
    const zone = zones.zones.find((each) => foldName(each.name) === foldName(file.zone))!
    states.push({ until: Date.parse(`${day}${hours}:${minutes}:${seconds}.${rest}`) / 1000, zones, zone })
  }
  return { states, more: false }
}
