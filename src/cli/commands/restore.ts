/** Brings back how a zone was: a set, a name, or all of it. */
import type { Command } from 'commander'
import type { ZonePart } from '../../core/change/change-set.ts'
import { differences, type Sets, setsOf } from '../../core/change/difference.ts'
import { typedName } from '../../core/change/typed.ts'
import type { SetChange } from '../../core/file/edit/changes.ts'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { bare, foldName, type Name } from '../../core/names/name.ts'
import { notAType } from '../../core/records/host-types.ts'
import { parseType, TYPE, typeText } from '../../core/records/types.ts'
import type { KeptState } from '../../workspace/states.ts'
import { orTrouble, Trouble } from '../../workspace/trouble.ts'
import { fileOf, loadZones, zoneNamed } from '../../workspace/workspace.ts'
import { changeOptions } from '../options.ts'
import { canAsk } from '../output/ask.ts'
import { change } from './change/apply.ts'
import { agreedToReplace, withExcluded } from './change/replacing.ts'
import { agreedAfterShowing, reportOpen } from './change/report.ts'
import { type ChangeOptions, targetNamed } from './change/target.ts'
import { pastOf, stateAsOf, stateFrom } from './past.ts'

export const define = (command: Command): Command =>
  changeOptions(
    command
      .argument('<zone>', 'the zone')
      .argument('[name]', 'only this name of it; @ is the apex')
      .argument('[type]', 'only its record set of this type'),
  )
    .option('--from <id>', 'what the backup of this entry of its history holds: of a change, the state before it')
    .option('--as-of <time>', 'the state at this time, as in 2026-11-20 or 2026-11-20T14:00 (UTC)')
    .option('--replace', 'remove what cannot exist next to it by now: an alias (CNAME), or the records next to one')
    .option('--yes', 'write without asking')
    .action(restore)

interface RestoreOptions extends ChangeOptions {
  from?: string
  asOf?: string
  yes?: boolean
  replace?: boolean
}

async function restore(
  stated: string,
  name: string | undefined,
  typeWord: string | undefined,
  options: RestoreOptions,
  command: Command,
): Promise<void> {
  const { from, asOf } = options
  if ((from === undefined) === (asOf === undefined))
    throw new Trouble('give one of --from ID (see bramblefront history ZONE) and --as-of TIME')
  if (options.file) throw new Trouble('restore needs a workspace: nothing is remembered of a bare file')
  const target = await targetNamed(options)
  const loaded = loadZones(target.files, options.includeAnywhere)
  const zone = zoneNamed(loaded, stated)
  const type = typeWord === undefined ? undefined : parseType(typeWord)
  if (typeWord !== undefined && type === undefined) throw new Trouble(notAType(typeWord))
  const owner = name === undefined ? undefined : orTrouble(typedName(name, zone, [zone]))
  const past = pastOf(target.folder, fileOf(target, zone.name)!, loaded, zone)
  const state =
    from === undefined
      ? stateAsOf(past, '--as-of', asOf!, options.includeAnywhere)
      : stateFrom(past, from, options.includeAnywhere)
  const wanted = { owner: owner && foldName(owner), type }
  if (owner !== undefined && !isKnown(state.sets, wanted) && !isKnown(setsOf(loaded, zone), wanted))
    throw new Trouble(
      `${bare(owner)} had no ${type === undefined ? 'record sets' : typeText(type)} then, and has none now`,
    )
  const isAsking = !options.json && !options.dryRun && canAsk()
  const isReplacing =
    options.replace || (await agreedToReplace(loaded, zone, backTo(loaded, zone, state, wanted).sets, options))
  await change(
    target,
    loaded,
    options,
    command,
    (zones) => {
      const part = backTo(zones, zoneNamed(zones, zone.name), state, wanted)
      const { changes, notes } = withExcluded(zones, part.zone, part.sets, isReplacing)
      return { parts: [{ ...part, sets: changes, notes: [...(part.notes ?? []), ...notes] }] }
    },
    {
      what: 'restored',
      agree: async (outcome) =>
        options.yes === true || (isAsking && (await agreedAfterShowing(outcome, options, command, 'Restore'))),
      tell: (outcome) => reportOpen(outcome, options, command),
    },
  )
}

interface Wanted {
  owner?: Name
  type?: number
}

const isMeant = ({ owner, type }: { owner: Name; type: number }, wanted: Wanted): boolean =>
  (wanted.owner === undefined || foldName(owner) === wanted.owner) &&
  (wanted.type === undefined || type === wanted.type)

const isKnown = (sets: Sets, wanted: Wanted): boolean => [...sets.values()].some((set) => isMeant(set, wanted))

/** The change that gives a zone its former sets again; where all of it is wanted, its former file, with the serial of now. */
function backTo(zones: Zones, zone: Zone, { sets, octets }: KeptState, wanted: Wanted): ZonePart {
  const back = differences(setsOf(zones, zone), sets).filter((each) => isMeant(each, wanted))
  const changes = back.map(
    ({ owner, type, after }): SetChange => ({
      owner,
      type,
      data: after?.data ?? [],
      ...(after ? { ttl: after.ttl } : {}),
    }),
  )
  const isWhole = wanted.owner === undefined && wanted.type === undefined
  const notes =
    isWhole && octets === undefined
      ? [
          'The record sets are as they were then; comments, the order of lines and the SOA timers stay as they are in the file now.',
        ]
      : []
  return {
    zone,
    sets: changes,
    octets: isWhole ? octets : undefined,
    notes: back.some(({ type }) => type === TYPE.NS)
      ? [...notes, 'The NS records change, too: see that the delegation still matches.']
      : notes,
  }
}
