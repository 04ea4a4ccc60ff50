/** What was seen of zones, for the log: with what was edited by hand before, and a copy of each zone that all of its servers have. */
import { mkdirSync } from 'node:fs'
import { relative } from 'node:path'
import type { LogLine } from '../core/confirm/memory.ts'
import { foldName } from '../core/names/name.ts'
import { backupFolder, copyName, freshId, sumOf } from './backups.ts'
import { handEdits } from './hand-edits.ts'
import { appendLog } from './log.ts'
import type { ZoneFile } from './workspace.ts'
import { writeFresh } from './write.ts'

export interface Seen {
  file: ZoneFile
  /** Of its data. */
  digest: string
  /** Whether its data are other than the newest entry left them. */
  edited: boolean
  lines: readonly LogLine[]
}

/** Puts it into the log of a workspace. Trouble where that cannot be written. */
export async function noteSeen(folder: string, seen: readonly Seen[], now: Date, command: string): Promise<void> {
  if (!seen.some(({ edited, lines }) => edited || lines.length > 0)) return
  const id = freshId(now)
  await appendLog(folder, () => {
    const edited = seen.filter((each) => each.edited)
    const edits = handEdits(
      folder,
      edited.map(({ file, digest }) => ({
        zone: file.zone,
        view: file.view,
        files: [{ file: file.file, before: file.octets }],
        entry: { file: file.file, was: digest },
      })),
    )
    return seen.flatMap((each) => {
      const { file, lines } = each
      const edit = edits[edited.indexOf(each)]
      const isCopied = edit !== undefined || lines.some((line) => line.what === 'published' && line.all)
      const copy = isCopied ? copied(folder, file, now) : {}
      const at = now.toISOString()
      return [
        ...(edit ? [{ id: freshId(now), at, zone: foldName(file.zone), command, ...edit, ...copy }] : []),
        ...lines.map((line) => ({ id, ...line, ...(line.what === 'published' && line.all ? copy : {}) })),
      ]
    })
  })
}

/** Keeps a copy of a zone’s own file, and says where. */
function copied(folder: string, { zone, view, file, octets }: ZoneFile, now: Date): { backup: string; sum: string } {
  const kept = backupFolder(folder, { zone, view })
  mkdirSync(kept, { recursive: true })
  const path = copyName(kept, file, now, () => false)
  writeFresh(path, octets)
  return { backup: relative(folder, path), sum: sumOf(octets) }
}
