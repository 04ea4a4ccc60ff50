/** `history --prune`: removes the backups that the workspace need not keep any longer. */

import { join } from 'node:path'
import type { Command } from 'commander'
import { entriesOf, neededCopies } from '../../../core/history/states.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { backupFolder, type Copy, copiesIn, dispensable, removeCopies } from '../../../workspace/backups.ts'
import { readLog } from '../../../workspace/log.ts'
import { shownPath, type Workspace, type ZoneFile } from '../../../workspace/workspace.ts'
import { now } from '../../clock.ts'
import type { PruneDocument } from '../../documents/history.ts'
import { agreedTo, canAsk } from '../../output/ask.ts'
import { counted, Page, printJson } from '../../output/page.ts'

export async function prune(
  workspace: Workspace,
  files: readonly ZoneFile[],
  options: { yes?: boolean; json?: boolean },
  command: Command,
): Promise<void> {
  const { folder, retention } = workspace
  const lines = readLog(folder)
  const found = files.flatMap((file) => {
    const entries = entriesOf(lines, file.zone).filter((each) => each.view === file.view)
    const kept = neededCopies(entries).map((each) => join(folder, each))
    return dispensable(copiesIn(backupFolder(folder, file)), retention, new Set(kept), now()).map((copy) => ({
      file,
      copy,
    }))
  })
  const copies = found.map(({ copy }) => copy)
  const isAsking = !options.json && canAsk()
  const page = new Page(command)
  if (found.length > 0 && !options.json) shown(page, found)
  const isAgreed =
    found.length > 0 &&
    (options.yes === true || (isAsking && (await agreedTo(`Remove ${counted(found.length, 'backup')}?`))))
  if (isAgreed) await removeCopies(folder, copies)
  process.exitCode = found.length > 0 && !isAgreed ? 1 : 0
  if (options.json) {
    const document: PruneDocument = {
      format: 1,
      removed: isAgreed,
      backups: found.map(({ file, copy }) => ({
        zone: foldName(file.zone),
        path: shownPath(copy.stored),
        octets: copy.octets,
      })),
    }
    return printJson(document)
  }
  if (retention.days === undefined && retention.copies === undefined)
    page.text(
      'All backups are kept: bramblefront.yaml sets no limit. To set one, as in: backups: {days: 365, copies: 100}',
    )
  else if (found.length === 0) page.text('No backup is beyond the limits of bramblefront.yaml: nothing to remove.')
  else
    page.text(
      isAgreed
        ? `Removed: ${counted(found.length, 'backup')}, ${sizeText(copies)}.`
        : 'Nothing was removed. To remove them without being asked, use --yes.',
    )
  page.print()
}

function shown(page: Page, found: readonly { file: ZoneFile; copy: Copy }[]): void {
  const files = [...new Set(found.map(({ file }) => file))]
  page.text(`${counted(found.length, 'backup')}, ${sizeText(found.map(({ copy }) => copy))}, can be removed:`)
  for (const file of files) {
    const of = found.filter((each) => each.file === file)
    const days = of.map(({ copy }) => new Date(copy.at * 1000).toISOString().slice(0, 10))
    page.text(`${bare(file.zone)}: ${counted(of.length, 'backup')}, from ${days[0]} to ${days.at(-1)}`, '    ', '  ')
  }
  page.print()
}

function sizeText(copies: readonly Copy[]): string {
  const octets = copies.reduce((sum, copy) => sum + copy.octets, 0)
  return octets < 1e6 ? `${Math.ceil(octets / 1000)} kB` : `${(octets / 1e6).toFixed(1)} MB`
}
