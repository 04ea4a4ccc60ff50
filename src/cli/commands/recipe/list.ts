import type { Command } from 'commander'
import { shownPath } from '../../../workspace/workspace.ts'
import type { RecipeListDocument } from '../../documents/recipe.ts'
import { jsonOption, workspaceOption } from '../../options.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { table } from '../../output/table.ts'
import { recipesKnown } from './known.ts'

export const define = (command: Command): Command =>
  command.addOption(workspaceOption()).addOption(jsonOption()).action(list)

function list(options: { workspace?: string; json?: boolean }, command: Command): void {
  const recipes = recipesKnown(options)
  if (options.json) {
    const document: RecipeListDocument = {
      format: 1,
      recipes: recipes.map(({ label, title, blanks, records, file, isShipped }) => ({
        label,
        title,
        blanks: blanks.map(({ name }) => name),
        records: records.length,
        file: isShipped ? null : shownPath(file),
      })),
    }
    printJson(document)
    return
  }
  const page = new Page(command)
  table(page, [
    ['recipe', 'records', 'what it is for'],
    ...recipes.map(({ label, title, records, isShipped }) => [
      isShipped ? label : `${label} (yours)`,
      String(records.length),
      title,
    ]),
  ])
  page.line()
  page.text(`${counted(recipes.length, 'recipe')}. Next: bramblefront recipe show RECIPE`)
  page.print()
}
