import type { Command } from 'commander'
import { typedName } from '../../../core/change/typed.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare, isAtOrBelow, type Name } from '../../../core/names/name.ts'
import { namePattern } from '../../../core/names/pattern.ts'
import { fill } from '../../../core/recipe/fill.ts'
import { type Blank, valueFor } from '../../../core/recipe/recipe.ts'
import { isRefused } from '../../../core/result.ts'
import type { Instructions } from '../../../core/transcribe/instructions.ts'
import { type RecipeFile, recipeNamed } from '../../../workspace/recipes.ts'
import { orTrouble, Trouble } from '../../../workspace/trouble.ts'
import { loadZones, zoneNamed } from '../../../workspace/workspace.ts'
import type { RecipeWriteSeveralDocument } from '../../documents/recipe.ts'
import { collect, joinOptions } from '../../options.ts'
import { printJson } from '../../output/page.ts'
import { isOpen, transcriptionJson } from '../../output/transcription.ts'
import { type JoinOptions, joinAndWrite, type Told } from '../change/joining.ts'
import { targetOf } from '../change/target.ts'
import { recipesKnown } from './known.ts'

export const define = (command: Command): Command =>
  joinOptions(command.argument('<recipe>', 'its label').argument('[zone]', 'the zone; without it, --in'))
    .option('--in <pattern>', 'all your zones with such a name; * matches anything (repeatable)', collect)
    .option('--under <name>', 'put the records below this name of the zone instead of its apex')
    .action(write)

interface WriteOptions extends JoinOptions {
  in?: string[]
  under?: string
}

async function write(
  label: string,
  stated: string | undefined,
  options: WriteOptions,
  command: Command,
): Promise<void> {
  const recipe = recipeNamed(recipesKnown(options), label)
  if (stated === undefined && options.in === undefined && options.file === undefined)
    throw new Trouble(`say which zone it is for: bramblefront recipe write ${label} ZONE, or --in PATTERN`)
  if (stated !== undefined && options.in !== undefined) throw new Trouble('give a zone or --in PATTERN, not both')
  const filled = new Filled(recipe, options.under)
  for (const each of options.fill ?? []) filled.mustFit(each)
  const target = await targetOf(options.file === undefined ? options : { ...options, zone: options.zone ?? stated })
  const loaded = loadZones(target.files, options.includeAnywhere)
  const into = options.in
    ? zonesIn(loaded, options.in)
    : [stated === undefined ? loaded.zones[0]! : zoneNamed(loaded, stated)]
  await joinAndWrite(
    {
      read: (zone, given) => filled.for(zone, given),
      asks: ({ name }) => questionFor(recipe.blanks.find((each) => each.name === name)!),
      refuses: (name, value) => filled.refusal(name, value),
      // Blanks were looked at before a zone was read.
      check: () => {},
      tellJson: (told) =>
        options.in ? tellSeveral(told) : printJson(transcriptionJson(told[0]!.told, told[0]!.outcome)),
    },
    target,
    loaded,
    into,
    options,
    command,
  )
}

/** A recipe with the values that were given for its blanks. */
class Filled {
  private readonly recipe: RecipeFile
  private readonly under: string | undefined

  constructor(recipe: RecipeFile, under: string | undefined) {
    this.recipe = recipe
    this.under = under
  }

  /** `--fill` must name a blank, and fit it. */
  mustFit(stated: string): void {
    const at = stated.indexOf('=')
    if (at < 1) throw new Trouble(`--fill ${stated} must be NAME=VALUE, as in --fill selector=s1`)
    const name = stated.slice(0, at)
    const { label, blanks } = this.recipe
    if (!blanks.some((each) => each.name === name))
      throw new Trouble(
        `--fill ${name}: the recipe ${label} has no such blank${blanks.length > 0 ? `; it has: ${blanks.map((each) => each.name).join(', ')}` : ''}`,
      )
    const why = this.refusal(name, stated.slice(at + 1))
    if (why !== undefined) throw new Trouble(why, 1)
  }

  refusal(name: string, value: string): string | undefined {
    const blank = this.recipe.blanks.find((each) => each.name === name)!
    const made = valueFor(blank, value)
    return isRefused(made) ? `the blank ${name} (${blank.what}) cannot have this value: ${made.refused}` : undefined
  }

  for(zone: Zone, given: ReadonlyMap<string, string>): Instructions {
    const { recipe } = this
    const values = new Map<string, string>()
    for (const blank of recipe.blanks) {
      const stated = given.get(blank.name) ?? blank.default
      const made = stated === undefined ? undefined : valueFor(blank, stated)
      if (made !== undefined && !isRefused(made)) values.set(blank.name, made)
    }
    const made = fill(recipe, values, this.baseIn(zone))
    if (isRefused(made)) throw new Trouble(`recipe ${recipe.label}, ${made.refused}`, 1)
    return {
      rows: made.rows,
      blanks: made.open.map(({ blank: { name, what, example }, line }) => ({
        line,
        text: `\${${name}}`,
        name,
        what: `${name}: ${what}${example === undefined ? '' : `, e.g. ${example}`}`,
      })),
      unread: [],
      notes: [],
      intents: [],
      features: [],
      secrets: [],
      asked: new Set(recipe.blanks.map(({ name }) => name)),
    }
  }

  /** Where the records go: the apex, or the stated name in the zone. */
  private baseIn(zone: Zone): Name {
    if (this.under === undefined) return zone.name
    const base = orTrouble(typedName(this.under, zone, [zone]))
    if (isAtOrBelow(base, zone.name)) return base
    throw new Trouble(`--under ${this.under}: it is not a name in ${bare(zone.name)}`)
  }
}

function questionFor({ name, what, example, choices }: Blank): string {
  const shown = choices ? ` (${choices.join(', ')})` : example === undefined ? '' : `, e.g. ${example}`
  return `${name}: ${what}${shown}?`
}

/** Zones by patterns of their names, in which `*` stands for anything, dots too. */
function zonesIn(zones: Zones, patterns: readonly string[]): Zone[] {
  const found = new Set<Zone>()
  for (const pattern of patterns) {
    const fits = namePattern(pattern)
    const fit = zones.zones.filter((zone) => fits(zone.name))
    if (fit.length === 0) throw new Trouble(`--in ${pattern}: none of your zones has such a name`)
    for (const zone of fit) found.add(zone)
  }
  return [...found]
}

function tellSeveral(all: readonly Told[]): void {
  const zones = all.map(({ told, outcome }) => transcriptionJson(told, outcome))
  const written = zones.filter((each) => each.written).length
  const refused = all.filter(
    ({ told, outcome }, i) => !zones[i]!.written && (isOpen(told) || outcome.refused || zones[i]!.changes.length > 0),
  ).length
  const counts = { written, unchanged: zones.length - written - refused, refused }
  const document: RecipeWriteSeveralDocument = { format: 1, zones, counts }
  printJson(document)
}
