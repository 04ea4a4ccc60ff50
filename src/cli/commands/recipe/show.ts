import type { Command } from 'commander'
import { printable } from '../../../core/printable.ts'
import { recipeNamed } from '../../../workspace/recipes.ts'
import { shownPath } from '../../../workspace/workspace.ts'
import type { RecipeDocument } from '../../documents/recipe.ts'
import { jsonOption, workspaceOption } from '../../options.ts'
import { Page, printJson } from '../../output/page.ts'
import { table } from '../../output/table.ts'
import { recipesKnown } from './known.ts'

export const define = (command: Command): Command =>
  command.argument('<recipe>', 'its label').addOption(workspaceOption()).addOption(jsonOption()).action(show)

function show(label: string, options: { workspace?: string; json?: boolean }, command: Command): void {
  const { title, about, blanks, records, file, isShipped } = recipeNamed(recipesKnown(options), label)
  if (options.json) {
    const document: RecipeDocument = {
      format: 1,
      label,
      title,
      about: about ?? null,
      blanks: blanks.map(({ name, what, kind, default: stated, example, choices }) => ({
        name,
        what,
        kind,
        default: stated ?? null,
        example: example ?? null,
        choices: choices === undefined ? null : [...choices],
      })),
      records: [...records],
      file: isShipped ? null : shownPath(file),
    }
    printJson(document)
    return
  }
  const page = new Page(command)
  page.text(`${label}: ${title}`, '', '', page.colour.bold)
  if (about !== undefined) page.text(about)
  page.line()
  for (const record of records) page.line(`  ${printable(record)}`)
  page.line()
  if (blanks.length > 0) {
    table(
      page,
      [
        ['blank', 'kind', 'what it is', 'value if none is given'],
        ...blanks.map(({ name, what, kind, default: stated, example, choices }) => [
          name,
          choices ? choices.join(' or ') : kind,
          what,
          stated ?? (example === undefined ? 'must be given' : `must be given, e.g. ${example}`),
        ]),
      ],
      '  ',
      (cell, _column, row) => (row === 0 ? page.colour.dim(cell) : cell),
    )
    page.line()
  }
  const fills = blanks.filter((each) => each.default === undefined).map(({ name }) => ` --fill ${name}=VALUE`)
  page.text(`Next: bramblefront recipe write ${label} ZONE${fills.join('')}`)
  page.print()
}
