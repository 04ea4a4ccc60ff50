/** What of a zone that comes in is kept, and what is left out: by patterns, or set by set at the terminal. */

import { editKept } from '../../../core/change/edit.ts'
import type { Zone, Zones } from '../../../core/model/zones.ts'
import { bare, foldName, relativeName } from '../../../core/names/name.ts'
import { namePattern } from '../../../core/names/pattern.ts'
import { printable } from '../../../core/printable.ts'
import { parseType, TYPE, typeText } from '../../../core/records/types.ts'
import { isRefused } from '../../../core/result.ts'
import { byPurpose, PURPOSE_TITLES, type PurposedSet } from '../../../core/view/purpose.ts'
import { RecordView } from '../../../core/view/record-set.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { today } from '../../clock.ts'
import { answered, canAsk } from '../../output/ask.ts'
import { counted } from '../../output/page.ts'
import { print } from '../../output/terminal.ts'
import type { Arrived } from './arrived.ts'

export interface ChoiceOptions {
  choose?: boolean
  keep?: string[]
  leave?: string[]
}

/** The zone without what is left out; the whole of it goes along, for the backup. */
export async function chosenOf(arrived: Arrived, options: ChoiceOptions): Promise<Arrived> {
  if (!options.choose && !options.keep && !options.leave) return arrived
  if (options.choose && !canAsk())
    throw new Trouble('--choose needs a terminal; without one, use --keep PATTERN or --leave PATTERN', 1)
  const { zones } = arrived
  const zone = zones.zones[0]!
  const sets = setsOf(zones, zone)
  const patterns = options.choose ? { keep: undefined, leave: undefined } : options
  const byPattern = sets.filter((set) => !isKept(set, zones, zone, sets, patterns))
  const left = options.choose ? await leftByHand(sets, zones) : byPattern
  if (left.length === 0) return arrived
  const edited = editKept(
    zones,
    zone,
    left.map(({ owner, type }) => ({ owner: zones.tree.text(owner), type, data: [] })),
    { now: today() },
  )
  if (isRefused(edited)) throw new Trouble(`${arrived.given}: ${edited.refused}; nothing was adopted`)
  return {
    ...arrived,
    file: { ...arrived.file, octets: edited.octets },
    zones: edited.zones,
    whole: arrived.file.octets,
    notes: [
      ...arrived.notes,
      `${counted(left.length, 'record set')} left out: ${left.map((set) => nameOf(set, zones, zone)).join(', ')}.`,
    ],
  }
}

/** What can be chosen: all but the zone’s own SOA and NS; a set of several purposes once. */
function setsOf(zones: Zones, zone: Zone): PurposedSet[] {
  const seen = new Set<string>()
  return byPurpose(zones, zone).filter(({ owner, type }) => {
    if (owner === zone.apex && (type === TYPE.SOA || type === TYPE.NS)) return false
    const key = `${owner} ${type}`
    return !seen.has(key) && seen.add(key)
  })
}

const nameOf = ({ owner, type }: PurposedSet, zones: Zones, zone: Zone): string =>
  `${relativeName(foldName(zones.tree.text(owner)), foldName(zone.name))} ${typeText(type)}`

function isKept(
  set: PurposedSet,
  zones: Zones,
  zone: Zone,
  sets: readonly PurposedSet[],
  { keep, leave }: ChoiceOptions,
): boolean {
  const fits = (option: string) => (pattern: string) => {
    const matches = matcher(pattern, option, zones, zone)
    if (!sets.some(matches)) throw new Trouble(`${option} ${pattern}: no record set of ${bare(zone.name)} matches`)
    return matches(set)
  }
  // Every pattern is looked at, so that one that matches nothing is told.
  const isStated = (keep ?? []).map(fits('--keep')).includes(true)
  const isLeft = (leave ?? []).map(fits('--leave')).includes(true)
  return !isLeft && (keep === undefined || isStated)
}

/** `NAME`, or `NAME TYPE`; the name relative or full, `*` for anything in it, dots too. */
function matcher(pattern: string, option: string, zones: Zones, zone: Zone): (set: PurposedSet) => boolean {
  const [stated = '', mnemonic, ...more] = pattern.trim().split(/\s+/)
  const type = mnemonic === undefined ? undefined : parseType(mnemonic.toUpperCase())
  if (stated === '' || more.length > 0 || (mnemonic !== undefined && type === undefined))
    throw new Trouble(`${option} “${pattern}” must be a name, or a name and a type, as in "*._domainkey TXT"`)
  const fits = namePattern(stated)
  return ({ owner, type: own }) => {
    const full = foldName(zones.tree.text(owner))
    return (type === undefined || own === type) && (fits(full) || fits(relativeName(full, foldName(zone.name))))
  }
}

const CHOICES = '[yes/no, all/none: the rest of these]'

/** Asks for each set; an empty answer keeps it. */
async function leftByHand(sets: readonly PurposedSet[], zones: Zones): Promise<PurposedSet[]> {
  const left: PurposedSet[] = []
  let purpose: string | undefined
  let rest: boolean | undefined
  for (const set of sets) {
    if (set.purpose !== purpose) {
      purpose = set.purpose
      rest = undefined
      print(`\n${PURPOSE_TITLES[set.purpose]}\n`)
    }
    const values = set.records.map((record) => new RecordView(set.type, zones.rdata(record)).value)
    print(printable(`  ${nameOf(set, zones, zones.zones[0]!)}  ${values.join(', ')}`).slice(0, 400) + '\n')
    const answer = rest === undefined ? ((await answered(`  Keep it? ${CHOICES}`)) ?? '').toLowerCase() : ''
    if (answer.startsWith('a')) rest = true
    else if (/^(?:none|l)/.test(answer)) rest = false
    const isLeft = rest === undefined ? answer.startsWith('n') : !rest
    if (isLeft) left.push(set)
  }
  print('\n')
  return left
}
