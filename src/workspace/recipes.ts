/** Files of recipes: those of a workspace, and those that come with the program. */
import { existsSync, readdirSync } from 'node:fs'
import { basename, join } from 'node:path'
import { stringify } from 'yaml'
import { array, boolean, object, string } from 'yup'
import { textOf } from '../core/names/octets.ts'
import { faultsIn } from '../core/recipe/fill.ts'
import { BLANK_KINDS, type Recipe } from '../core/recipe/recipe.ts'
import { readFileOrTrouble } from './files.ts'
import { asJsonSchema } from './json-schema.ts'
import { mistakesIn } from './mistakes.ts'
import { nearestThen } from './nearest.ts'
import { Trouble } from './trouble.ts'
import { YamlText } from './yaml-text.ts'

export const RECIPE_FOLDER = 'recipes'

const word = string().matches(
  /^[A-Za-z][\w-]*$/,
  '${path} must begin with a letter, with letters, digits, - and _ behind it',
)

const blankEntry = object({
  name: word.required().meta({ says: 'what --fill calls it, and ${NAME} in the records' }),
  what: string().required().meta({ says: 'what it is, for people' }),
  kind: string()
    .oneOf(BLANK_KINDS)
    .required()
    .meta({ says: 'which values fit: a name of several labels is absolute; a key is base64' }),
  default: string().meta({ says: 'the value where none is given' }),
  example: string().meta({ says: 'a value to show' }),
  optional: boolean().meta({ says: 'without a value, the records that need it are left out' }),
  choices: array(string().required()).meta({ says: 'the values of a choice' }),
}).noUnknown()

const schema = object({
  label: word.required().meta({ says: 'what calls name it by' }),
  title: string().required().meta({ says: 'what it is for, in a line' }),
  about: string().meta({ says: 'when to use it, and what else is to be done' }),
  blanks: array(blankEntry.required()).default([]).meta({ says: 'what differs from domain to domain' }),
  records: array(string().required())
    .min(1)
    .required()
    .meta({ says: 'lines of a zone file: OWNER [TTL] TYPE VALUE, with ${NAME} where a blank goes' }),
}).noUnknown()

const WORDS = {
  keys: { '': Object.keys(schema.fields), blanks: Object.keys(blankEntry.fields) },
  examples: { records: '- "@ MX 10 ${host}"', blanks: '- {name: NAME, what: WHAT, kind: name}' },
}

/** The file as a JSON Schema (draft 2020-12). */
export const recipeSchema = (): object => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'A recipe of Bramblefront',
  ...asJsonSchema(schema),
})

/** A recipe, and the file that it is in. */
export type RecipeFile = Recipe & { file: string; isShipped: boolean }

/** Reads the text of a recipe; trouble names each mistake, with its place. */
export function parseRecipe(text: string, file: string): Recipe {
  const yaml = new YamlText(text, file)
  const mistakes = mistakesIn(schema, yaml.value, [], WORDS)
  if (mistakes.length === 0)
    for (const { record, blank, says } of faultsIn(schema.cast(yaml.value) as Recipe))
      mistakes.push({ path: record === undefined ? ['blanks', blank!] : ['records', record], says })
  if (mistakes.length > 0)
    throw new Trouble(mistakes.map(({ path, says }) => `${yaml.place(path)}: ${says}`).join('\n'))
  return schema.cast(yaml.value) as Recipe
}

/** All recipes there are, by label: those of a workspace stand before shipped ones of the same label. */
export function recipesIn(shipped: string, folder: string | undefined): RecipeFile[] {
  const own = folder === undefined ? [] : readFolder(join(folder, RECIPE_FOLDER), false)
  const labels = new Map(own.map((each) => [each.label, each]))
  const twice = own.find((each) => labels.get(each.label) !== each)
  if (twice)
    throw new Trouble(
      `${labels.get(twice.label)!.file} and ${twice.file} both have the label ${twice.label}; rename one`,
    )
  return [...own, ...readFolder(shipped, true).filter(({ label }) => !labels.has(label))].sort((a, b) =>
    a.label < b.label ? -1 : 1,
  )
}

function readFolder(folder: string, isShipped: boolean): RecipeFile[] {
  if (!existsSync(folder)) return []
  return readdirSync(folder)
    .filter((name) => /\.ya?ml$/.test(name))
    .sort()
    .map((name) => {
      const file = join(folder, name)
      return { ...parseRecipe(textOf(readFileOrTrouble(file)), isShipped ? basename(file) : file), file, isShipped }
    })
}

export function recipeNamed(recipes: readonly RecipeFile[], label: string): RecipeFile {
  const found = recipes.find((each) => each.label === label)
  if (found) return found
  const known = recipes.map((each) => each.label)
  throw new Trouble(
    `there is no recipe ${label}; ${nearestThen(label, known, 'recipes', 'All of them: bramblefront recipe list')}`,
  )
}

/** The text of a recipe’s file. */
export const recipeText = ({ label, title, about, blanks, records }: Recipe): string =>
  stringify({ label, title, about, blanks: [...blanks], records: [...records] }, { lineWidth: 0 })
