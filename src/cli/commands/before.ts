/** How a zone was before, as commands need it. */

import { dirname } from 'node:path'
import type { Zone } from '../../core/model/zones.ts'
import { earlierStates, type History } from '../../workspace/states.ts'
import { bareFiles, fileOf, type ZoneFile } from '../../workspace/workspace.ts'
import type { Chosen, SourceOptions } from './source.ts'

/** The states of a zone before its last changes, by its backups: of the workspace, or beside the bare file. */
export function statesBefore(
  what: string | undefined,
  options: SourceOptions,
  { workspace }: Chosen,
  zone: Zone,
): History {
  const file: ZoneFile | undefined = workspace
    ? fileOf(workspace, zone.name)
    : what === undefined
      ? undefined
      : bareFiles([what], options.zone)[0]
  return file
    ? earlierStates(workspace?.folder ?? dirname(file.file), file, options.includeAnywhere)
    : { states: [], more: false }
}
