/** The recipes that a call can name. */
import { realpathSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { type RecipeFile, recipesIn } from '../../../workspace/recipes.ts'
import { findWorkspace } from '../../../workspace/workspace.ts'

/** Those of the workspace that the call names or stands in, and those that come with the program. */
export function recipesKnown(options: { workspace?: string }): RecipeFile[] {
  const shipped = join(dirname(realpathSync(process.argv[1]!)), '..', 'recipes')
  return recipesIn(shipped, options.workspace ?? findWorkspace(process.cwd()))
}
