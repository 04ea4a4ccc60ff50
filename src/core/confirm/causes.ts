/** What it looks like, when a set is not there or other than intended: the usual causes, each told by what a few more questions bring. */
import { answer } from '../knowledge/answer.ts'
import { isDmarc } from '../mail/dmarc/record.ts'
import { isSpf } from '../mail/spf/record.ts'
import type { Message } from '../message/message.ts'
import type { Zone, Zones } from '../model/zones.ts'
import { bare, foldName, labelsOf, type Name, toName } from '../names/name.ts'
import { type Rdata, rdataFields, rdataText } from '../records/rdata.ts'
import { TYPE, typeText } from '../records/types.ts'
import { joined } from '../records/views.ts'
import type { Earlier, Question } from './questions.ts'
import { sameness } from './sameness.ts'

export type CauseKind =
  | 'zone-doubled'
  | 'at-top'
  | 'below-top'
  | 'underscore-missing'
  | 'quotes-inside'
  | 'cut-at-255'
  | 'preference-in-target'
  | 'dot-missing'
  | 'old-delegation'
  | 'second-record'
  | 'wildcard-answers'
  | 'secondary-behind'
  | 'denied-above'
  | 'answers-itself'
  | 'signatures-broken'
  | 'follow-drifted'

/** Causes that are of the whole zone, and not of its data. */
export const OF_ZONE: readonly CauseKind[] = ['secondary-behind', 'old-delegation', 'signatures-broken']
/** Those that may be waited for. */
export const PASSING: readonly CauseKind[] = ['secondary-behind', 'old-delegation']

export interface Cause {
  kind: CauseKind
  /** What it looks like, in one sentence. */
  text: string
  /** What was seen. */
  evidence: string
  fix: string
}

/** A further question: what is at another name, where the set may have landed. */
export interface Probe {
  kind: CauseKind
  name: Name
  type: number
}

/** Labels under which a set for the zone's own name is entered by mistake. */
const INSTEAD_OF_TOP = ['@', 'www', 'mail', '_spf', 'spf']

/** What to ask about a set that is not as intended. `fresh` is a label that cannot exist. */
export function probesFor(zones: Zones, zone: Zone, { owner, type }: Question, fresh: string): Probe[] {
  const probes: Probe[] = []
  const add = (kind: CauseKind, text: string, of = type): void => {
    const name = toName(text)
    if (name !== undefined && foldName(name) !== foldName(owner)) probes.push({ kind, name, type: of })
  }
  const top = foldName(owner) === foldName(zone.name)
  const labels = labelsOf(owner)
  const parent = labels.slice(1).join('.')
  // Both are needed to tell what a wildcard brings: beside the name, and beside everything.
  if (!top) add('wildcard-answers', `${fresh}.${parent}.`)
  if (parent !== bare(zone.name) || top) add('wildcard-answers', `${fresh}.${zone.name}`)
  add('zone-doubled', `${owner}${zone.name}`)
  if (top) {
    for (const label of INSTEAD_OF_TOP) add('below-top', `${label}.${zone.name}`)
    add('below-top', `${labels[0]}.${zone.name}`)
  } else add('at-top', zone.name)
  const underscored = labels.flatMap((label, i) => (label.startsWith('_') ? [i] : []))
  const without = (indices: number[]): string =>
    labels.map((label, i) => (indices.includes(i) ? label.slice(1) : label)).join('.')
  for (const i of underscored) add('underscore-missing', `${without([i])}.`)
  if (underscored.length > 1) add('underscore-missing', `${without(underscored)}.`)
  // Names above that exist only because of what is below them.
  for (let i = 1; i < labels.length; i++) {
    const above = `${labels.slice(i).join('.')}.`
    if (foldName(above) === foldName(zone.name)) break
    if (answer(zones, above, type).kind === 'no-data') add('denied-above', above)
  }
  return probes
}

/** What is known for telling causes. */
export interface Evidence {
  /** The answer to a probe; undefined where none came. */
  found(probe: Probe): Message | undefined
  /** Data of the type that came for the set itself, where it was other than intended. */
  came: readonly Rdata[]
  /** Whether the set itself was denied, and as a name that exists. */
  denied: boolean
  nodata?: boolean
  /** Whether the zone's servers have it, and only a resolver does not. */
  published: boolean
  /** How the zone was before: what stood somewhere then did not land there by accident. */
  before: readonly Earlier[]
}

export function causesOf(
  zones: Zones,
  zone: Zone,
  question: Question,
  probes: readonly Probe[],
  evidence: Evidence,
): Cause[] {
  const { intended, owner, type } = question
  if (!intended) return []
  const causes: Cause[] = []
  const wanted = new Set(intended.data.map((data) => sameness(question, data)))
  const keys = (data: readonly Rdata[]): string[] => data.map((each) => sameness(question, each))
  const dataAt = (probe: Probe): Rdata[] =>
    (evidence.found(probe)?.answers ?? [])
      .filter((each) => each.type === type && foldName(each.owner) === foldName(probe.name))
      .map(({ data }) => data)
  const byWildcard = new Set(
    probes.filter(({ kind }) => kind === 'wildcard-answers').flatMap((probe) => keys(dataAt(probe))),
  )
  const record = (name: Name, data: Rdata): string => `${name} ${typeText(type)} ${rdataText(type, data)}`
  const right = intended.data.map((data) => record(owner, data)).join('; ')
  // At another name: the intended data, which is not intended there, and which no wildcard brings.
  const seen = new Set<CauseKind>()
  for (const probe of probes) {
    const says = ELSEWHERE[probe.kind]
    if (!says || seen.has(probe.kind)) continue
    const states = [zones, ...evidence.before.map((each) => each.zones)]
    const there = new Set(
      states.flatMap((state) => answer(state, probe.name, type).answers.flatMap(({ data }) => keys(data))),
    )
    const hit = dataAt(probe).find(
      (data) =>
        wanted.has(sameness(question, data)) &&
        !there.has(sameness(question, data)) &&
        !byWildcard.has(sameness(question, data)),
    )
    if (!hit) continue
    seen.add(probe.kind)
    causes.push({
      kind: probe.kind,
      text: says(zone),
      evidence: `found there: ${record(probe.name, hit)}`,
      fix: `remove that, and publish ${right}`,
    })
  }
  const extra = evidence.came.filter((data) => !wanted.has(sameness(question, data)))
  const lacking = intended.data.filter((data) => !keys(evidence.came).includes(sameness(question, data)))
  for (const data of extra) {
    const like = lacking.flatMap((missing) => insideOf(zone, question, missing, data) ?? [])[0]
    if (like) causes.push({ ...like, evidence: `published: ${record(owner, data)}`, fix: `publish ${right}` })
    else if (lacking.length === 0 && type === TYPE.TXT && isSecond(intended.data, data))
      causes.push({
        kind: 'second-record',
        text: 'there is a second record next to the intended one; where only one is allowed, both are ignored',
        evidence: `published: ${record(owner, data)}`,
        fix: 'remove it: it may be an earlier record, or one that a service added',
      })
  }
  const wild = probes.find(
    (probe) =>
      probe.kind === 'wildcard-answers' &&
      extra.length > 0 &&
      extra.every((data) => keys(dataAt(probe)).includes(sameness(question, data))),
  )
  // Where a wildcard has other types, a missing name is answered as one that exists: just as one that cannot exist is.
  const hidden =
    evidence.denied && evidence.nodata
      ? probes.find((probe) => {
          const found = evidence.found(probe)
          return probe.kind === 'wildcard-answers' && found?.rcode === 0 && found.answers.length === 0
        })
      : undefined
  if (wild ?? hidden)
    causes.push({
      kind: 'wildcard-answers',
      text: 'a wildcard answers: the name itself does not exist',
      evidence: wild
        ? `the same data is returned for ${bare(wild.name)}, which does not exist`
        : `${bare(hidden!.name)}, which does not exist, is also answered as if it did`,
      fix: `publish ${right}`,
    })
  if (evidence.published && evidence.denied)
    for (const probe of probes.filter(({ kind }) => kind === 'denied-above'))
      if (evidence.found(probe)?.rcode === 3) {
        causes.push({
          kind: 'denied-above',
          text: `a server of the zone says that ${bare(probe.name)} does not exist, although there are names below it: resolvers may then treat those as missing, too (RFC 8020)`,
          evidence: `${probe.name} ${typeText(type)} was answered NXDOMAIN`,
          fix: 'this is a bug in the server’s software: report it to its operator, or write a TXT record at that name',
        })
        break
      }
  return causes
}

const ELSEWHERE: Partial<Record<CauseKind, (zone: Zone) => string>> = {
  'zone-doubled': (zone) =>
    `the zone’s name appears twice: the full name was entered in a form that adds ${bare(zone.name)}`,
  'at-top': () => 'the record is at the zone apex instead of the name below it',
  'below-top': () => 'the record is at a name below instead of the zone apex',
  'underscore-missing': () => 'the record is at a name without its underscore',
}

/** What a value looks like that came instead of an intended one; undefined where it looks like nothing known. */
function insideOf(
  zone: Zone,
  { type }: Question,
  intended: Rdata,
  came: Rdata,
): Pick<Cause, 'kind' | 'text'> | undefined {
  if (type === TYPE.TXT) {
    const [wanted, got] = [joined(intended), joined(came)]
    const plain = (text: string): string => text.replace(/["\\]/g, '')
    if (plain(wanted) === plain(got) && /["\\]/.test(got))
      return {
        kind: 'quotes-inside',
        text: 'quotes or backslashes are part of the text: they were entered in a form that needs none',
      }
    if (
      wanted.length > got.length &&
      wanted.startsWith(got) &&
      got.length >= 254 &&
      (got.length % 255 === 0 || got.length <= 256)
    )
      return {
        kind: 'cut-at-255',
        text: `the text is truncated after ${got.length} of ${wanted.length} characters: enter it as several strings of at most 255`,
      }
    return undefined
  }
  const [wanted, got] = [rdataFields(type, intended), rdataFields(type, came)]
  const last = wanted.length - 1
  if (last < 0 || got.length !== wanted.length || !/\.$/.test(wanted[last]!)) return undefined
  const [target, there] = [foldName(wanted[last]!), foldName(got[last]!)]
  const zoneName = foldName(zone.name)
  const relative = target.endsWith(`.${zoneName}`) ? target.slice(0, -zoneName.length) : target
  if (there === `${target}${zoneName}`)
    return { kind: 'dot-missing', text: `the target has no final dot, so ${bare(zone.name)} was appended to it` }
  const stripped = there.replace(/^(?:\d+\\032)+/, '')
  if (stripped !== there && [target, `${relative}${zoneName}`, `${target}${zoneName}`].includes(stripped))
    return { kind: 'preference-in-target', text: 'the number before the target was entered as part of it' }
  return undefined
}

/** Whether a text is a second one of a purpose of which there may be one. */
function isSecond(intended: readonly Rdata[], data: Rdata): boolean {
  const text = joined(data)
  const purposes: ((text: string) => boolean)[] = [
    isSpf,
    isDmarc,
    (each) => /^v=STSv1\s*;/i.test(each),
    (each) => /^v=TLSRPTv1\s*;/i.test(each),
  ]
  return purposes.some((is) => is(text) && intended.some((each) => is(joined(each))))
}
