import { BLANK_KINDS } from '../../core/recipe/recipe.ts'
import { format, list, type Printed, shape, text, whole, word } from './kinds.ts'
import { transcribe } from './transcribe.ts'

/** `recipe list`. The file is that of a recipe of yours. */
export const recipeList = shape({
  ...format,
  recipes: list(
    shape({ label: text(), title: text(), blanks: list(text()), records: whole(), file: text().nullable() }),
  ),
})
export type RecipeListDocument = Printed<typeof recipeList>

/** `recipe show`, and `recipe from`. */
export const recipe = shape({
  ...format,
  label: text(),
  title: text(),
  about: text().nullable(),
  blanks: list(
    shape({
      name: text(),
      what: text(),
      kind: word(BLANK_KINDS),
      default: text().nullable(),
      example: text().nullable(),
      choices: list(text()).nullable(),
    }),
  ),
  records: list(text()),
  file: text().nullable(),
})
export type RecipeDocument = Printed<typeof recipe>

/** `recipe write --in`. */
export const recipeWriteSeveral = shape({
  ...format,
  zones: list(transcribe),
  counts: shape({ written: whole(), unchanged: whole(), refused: whole() }),
})
export type RecipeWriteSeveralDocument = Printed<typeof recipeWriteSeveral>
