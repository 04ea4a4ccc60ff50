/** All documents that commands print, by their names. Commands use their types alone: nothing of this is loaded to print one. */
import type { AnyObject, AnySchema, Schema } from 'yup'
import { asJsonSchema } from '../../workspace/json-schema.ts'
import { change } from './change.ts'
import { confirm } from './confirm.ts'
import { demo } from './demo.ts'
import { diff, diffSeveral } from './diff.ts'
import { explain } from './explain.ts'
import { check, fix } from './findings.ts'
import { follow } from './follow.ts'
import { history, prune } from './history.ts'
import { problem } from './problem.ts'
import { publish, publishSeveral } from './publish.ts'
import { recipe, recipeList, recipeWriteSeveral } from './recipe.ts'
import { rehearse } from './rehearse.ts'
import { sender } from './sender.ts'
import { sheet } from './sheet.ts'
import { show } from './show.ts'
import { timing } from './timing.ts'
import { transcribe } from './transcribe.ts'
import { adopt, adoptSeveral, init } from './workspace.ts'

const DOCUMENTS: Record<string, { of: string; schema: AnySchema }> = {
  adopt: { of: 'adopt', schema: adopt },
  'adopt-several': { of: 'adopt, of several files', schema: adoptSeveral },
  change: { of: 'write, remove, restore', schema: change },
  check: { of: 'check', schema: check },
  'check-fix': { of: 'check --fix', schema: fix },
  confirm: { of: 'confirm', schema: confirm },
  diff: { of: 'diff', schema: diff },
  'diff-several': { of: 'diff, of several zones', schema: diffSeveral },
  demo: { of: 'demo', schema: demo },
  explain: { of: 'explain', schema: explain },
  follow: { of: 'follow', schema: follow },
  history: { of: 'history', schema: history },
  'history-prune': { of: 'history --prune', schema: prune },
  init: { of: 'init', schema: init },
  problem: { of: 'any call that a problem stopped', schema: problem },
  publish: { of: 'publish', schema: publish },
  'publish-several': { of: 'publish, of several zones or deliveries', schema: publishSeveral },
  recipe: { of: 'recipe show, recipe from', schema: recipe },
  'recipe-list': { of: 'recipe list', schema: recipeList },
  'recipe-write-several': { of: 'recipe write --in', schema: recipeWriteSeveral },
  rehearse: { of: 'rehearse', schema: rehearse },
  sender: { of: 'sender', schema: sender },
  sheet: { of: 'sheet', schema: sheet },
  show: { of: 'show', schema: show },
  timing: { of: 'timing', schema: timing },
  transcribe: { of: 'transcribe, recipe write', schema: transcribe },
}

/** The JSON Schema (draft 2020-12) of each document. */
export const documentSchemas = (): Record<string, object> =>
  Object.fromEntries(
    Object.entries(DOCUMENTS).map(([name, { of, schema }]) => [
      name,
      {
        $schema: 'https://json-schema.org/draft/2020-12/schema',
        title: `bramblefront ${of} --json`,
        ...asJsonSchema(schema as Schema<unknown, AnyObject>),
      },
    ]),
  )
