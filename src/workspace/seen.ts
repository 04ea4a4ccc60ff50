/** What was seen of zones, for the log: with what was edited by hand before, and a copy of each zone that all of its servers have. */
import { mkdirSync } from 'node:fs'
import { basename, relative, resolve } from 'node:path'
import { editKept } from '../core/change/edit.ts'
import type { LogLine } from '../core/confirm/memory.ts'
import { inOnePiece } from '../core/file/forms.ts'
import { serialOf } from '../core/file/serial.ts'
import type { Entry, Published } from '../core/history/states.ts'
import { foldName } from '../core/names/name.ts'
import type { Base } from '../core/publish/base.ts'
import { backupFolder, copyName, freshId, sumOf } from './backups.ts'
import { type BaseNotes, baseBeside, writeBase } from './bases.ts'
import { commit, type ZoneWrite } from './commit.ts'
import { handEdits } from './hand-edits.ts'
import { appendLog } from './log.ts'
import { IN_ONE_PIECE } from './states.ts'
import { Trouble } from './trouble.ts'
import { loadZones, type ZoneFile } from './workspace.ts'
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
      // It was done before anybody was asked what came of it.
      const at = [now.toISOString(), ...lines.map((line) => line.at)].sort()[0]!
      return [
        ...(edit ? [{ id: freshId(now), at, zone: foldName(file.zone), command, ...edit, ...copy }] : []),
        ...lines.map((line) => ({ id, ...line, ...(line.what === 'published' && line.all ? copy : {}) })),
      ]
    })
  })
}

export interface Delivered {
  by: 'update' | 'file'
  /** Its label. */
  delivery: string
  /** The serial that the server has now. */
  serial?: number
  /** What the lines of the log of one publishing have in common. */
  run?: string
  /** The entries of the zone, oldest first, as they were read. */
  entries: readonly Entry[]
  /** The base of the delivery from now on. */
  base: Base
  notes: BaseNotes
  command: string
  now: Date
}

/**
 * Records that a zone was delivered as it is: its base, an entry of the log, and a copy of the zone. The file takes over a serial that the server made; that is
 * returned. `digest` is that of its data.
 */
export async function recordDelivered(
  folder: string,
  file: ZoneFile,
  digest: string,
  { by, delivery, serial, run, entries, base, notes, command, now }: Delivered,
  includeAnywhere?: boolean,
): Promise<number | undefined> {
  const zones = loadZones([file], includeAnywhere)
  const [zone] = zones.zones
  const kept = serialOf(zones, zone!)
  const isOther = serial !== undefined && kept !== undefined && serial !== kept && !zone!.hosted
  const beside = baseBeside(folder, { ...file, delivery }, base, notes)
  const last = entries.findLast(
    (each): each is Published =>
      each.what === 'published' && each.view === file.view && each.delivery === delivery && each.all === true,
  )
  if (!isOther && last?.digest === digest && last.serial === (serial ?? kept ?? null)) {
    if (beside) await writeBase(folder, { ...file, delivery }, base, notes, { command, now })
    return undefined
  }
  const whole = inOnePiece(zones, zone!)
  const edited = isOther ? editKept(zones, zone!, [], { serial }) : undefined
  if (edited && 'refused' in edited) throw new Trouble(`${file.file}: ${edited.refused}`)
  const view = file.view === undefined ? {} : { view: file.view }
  const write: ZoneWrite = {
    zone: file.zone,
    ...view,
    files: edited ? [{ file: file.file, before: file.octets, octets: edited.octets }] : [],
    entry: {
      what: 'published',
      by,
      delivery,
      ...(run === undefined ? {} : { run }),
      ...view,
      file: relative(folder, resolve(file.file)),
      serial: serial ?? kept ?? null,
      all: true,
      sets: [],
      digest,
    },
    copy: edited?.octets ?? file.octets,
    whole,
  }
  await commit(
    { root: folder, backups: folder, logged: true },
    { zones: [write], beside: beside ? [beside] : [], command, now },
    async () => {
      throw new Trouble(
        `${file.file} was changed while it was published: the server's state was not recorded; call again`,
      )
    },
  )
  return isOther ? serial : undefined
}

/** Keeps a copy of a zone, in one piece, too, where its file includes others; and says where. */
function copied(folder: string, { zone, view, file, octets }: ZoneFile, now: Date) {
  const kept = backupFolder(folder, { zone, view })
  mkdirSync(kept, { recursive: true })
  const keep = (name: string, content: Uint8Array): { path: string; sum: string } => {
    const path = copyName(kept, name, now, () => false)
    writeFresh(path, content)
    return { path: relative(folder, path), sum: sumOf(content) }
  }
  const own = keep(file, octets)
  const zones = loadZones([{ zone, file, octets }])
  const piece = inOnePiece(zones, zones.zones[0]!)
  const whole = piece && keep(basename(file) + IN_ONE_PIECE, piece)
  return { backup: own.path, sum: own.sum, ...(whole ? { whole: whole.path, wholeSum: whole.sum } : {}) }
}
