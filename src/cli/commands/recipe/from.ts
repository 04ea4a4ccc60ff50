import { existsSync } from 'node:fs'
import { join } from 'node:path'
import type { Command } from 'commander'
import { typedName } from '../../../core/change/typed.ts'
import { type RecordSet, setAt, typesAt, type Zone, type Zones } from '../../../core/model/zones.ts'
import { bare, foldName } from '../../../core/names/name.ts'
import { recipeOf } from '../../../core/recipe/made-of.ts'
import { TYPE } from '../../../core/records/types.ts'
import { commit } from '../../../workspace/commit.ts'
import { parseRecipe, RECIPE_FOLDER, recipeText } from '../../../workspace/recipes.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones, shownPath, zoneNamed } from '../../../workspace/workspace.ts'
import { callText } from '../../call.ts'
import { today } from '../../clock.ts'
import type { RecipeDocument } from '../../documents/recipe.ts'
import { jsonOption, viewOption, workspaceOption } from '../../options.ts'
import { counted, Page, printJson } from '../../output/page.ts'
import { finished } from '../change/target.ts'
import { needWorkspace, type SourceOptions } from '../source.ts'

export const define = (command: Command): Command =>
  command
    .argument('<zone>', 'one of your zones')
    .argument('<names...>', 'names of it whose record sets are taken; @ is the apex')
    .requiredOption('--label <label>', 'the label of the new recipe')
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(jsonOption())
    .action(from)

interface FromOptions extends SourceOptions {
  label: string
  json?: boolean
}

async function from(stated: string, names: string[], options: FromOptions, command: Command): Promise<void> {
  const { label } = options
  if (!/^[A-Za-z][\w-]*$/.test(label))
    throw new Trouble(`--label ${label} must begin with a letter, with letters, digits, - and _ behind it`)
  const workspace = await needWorkspace(options)
  const { folder } = workspace
  await finished(folder, {})
  const path = join(folder, RECIPE_FOLDER, `${label}.yaml`)
  const there = (): never => {
    throw new Trouble(`${shownPath(path)} already exists; nothing was changed. Choose another --label`)
  }
  if (existsSync(path)) there()
  const zones = loadZones(workspace.files)
  const zone = zoneNamed(zones, stated)
  const recipe = recipeOf(
    label,
    zone.name,
    names.flatMap((name) => setsAt(zones, zone, name)),
  )
  const text = recipeText(recipe)
  const { title, blanks, records } = parseRecipe(text, path)
  const beside = [{ path, content: text }]
  await commit(
    { root: folder, backups: folder, logged: false },
    { zones: [], beside, command: callText(), now: today() },
    async () => there(),
  )
  if (options.json) {
    const document: RecipeDocument = {
      format: 1,
      label,
      title,
      about: null,
      blanks: blanks.map(({ name, what, kind, default: value, example }) => ({
        name,
        what,
        kind,
        default: value ?? null,
        example: example ?? null,
        choices: null,
      })),
      records: [...records],
      file: shownPath(path),
    }
    return printJson(document)
  }
  const page = new Page(command)
  page.text(`Created ${shownPath(path)}: ${counted(records.length, 'record')}, ${counted(blanks.length, 'blank')}.`)
  page.text(`Look it over: title, blanks and what they are. Next: bramblefront recipe show ${label}`)
  page.print()
}

/** The record sets at a name; those that every zone has of its own are none of a recipe’s. */
function setsAt(zones: Zones, zone: Zone, stated: string): RecordSet[] {
  const name = orTrouble(typedName(stated, zone, [zone]))
  const isApex = foldName(name) === foldName(zone.name)
  const sets = [...typesAt(zones, zone, name)]
    .filter((type) => type !== TYPE.SOA && !(type === TYPE.NS && isApex))
    .map((type) => setAt(zones, zone, name, type)!)
  if (sets.length === 0) throw new Trouble(`${stated} has no record sets in ${bare(zone.name)}`)
  return sets
}
