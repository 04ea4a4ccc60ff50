/** Runs the rules over the kept zones in one walk, and joins what the reader found. */

import { DROPPED, GENERATED, type RecordId, type Source, type Zones } from '../model/zones.ts'
import { type NameId, NONE } from '../names/tree.ts'
import { rdataFields } from '../records/rdata.ts'
import type { Problem } from '../records/tokens.ts'
import { rowOf, TYPE, typeText } from '../records/types.ts'
import { CATALOGUE } from './catalogue.ts'
import { type Findings, Reports, type Speaker, standingAlone } from './reports.ts'
import type { Context, Exception, Finding, Report, Rule, SetView, SetVisit, Severity, Surroundings } from './rule.ts'
import type { Packing } from './texts.ts'
import { Traits } from './traits.ts'

/** What a check finds, each finding made when it is looked at: there may be millions. */
export interface Examined {
  findings: Findings
  /** Findings that an exception accepts. They are not in `findings`, nor counted. */
  excepted: { finding: Finding; reason: string }[]
  counts: Record<Severity, number>
}

/** The same as values. */
export interface CheckResult extends Examined {
  findings: Finding[]
}

/** Types are numbers of 16 bits. */
const TYPES = 65_536

export interface CheckOptions extends Surroundings {
  /** Only what stands at these names, and what concerns whole zones: for comparing before and after a change (see `affectedBy`). What the reader found is left out. */
  about?: ReadonlySet<NameId>
  /** The rules, where others than those of the catalogue are wanted. */
  catalogue?: readonly Rule[]
  /** Makes the texts of findings small, where there may be very many. */
  packing?: Packing
}

/** Checks sealed zones by every rule of the catalogue. Findings come in the order of the files and of their lines. */
export async function check(zones: Zones, options: CheckOptions = {}): Promise<CheckResult> {
  const { findings, excepted, counts } = await examine(zones, options)
  return {
    findings: Array.from(findings, standingAlone),
    excepted: excepted.map(({ finding, reason }) => ({ finding: standingAlone(finding), reason })),
    counts,
  }
}

/** The same, for as many findings as there may be. */
export async function examine(zones: Zones, options: CheckOptions = {}): Promise<Examined> {
  const walk = new Walk(zones, options.catalogue ?? CATALOGUE, options)
  if (!options.about) walk.readProblems()
  walk.zones()
  walk.sets()
  walk.records()
  await walk.finish()
  const { findings, excepted } = walk.findings()
  return { findings, excepted, counts: countsOf(findings) }
}

/** How many findings there are of each severity. */
export function countsOf(findings: Iterable<Finding>): Record<Severity, number> {
  const counts: Record<Severity, number> = { error: 0, warning: 0, advice: 0 }
  for (const finding of findings) counts[finding.severity]++
  return counts
}

class Walk {
  private readonly reports: Reports
  private current: Rule | undefined
  private readonly memories = new Map<Rule, unknown>()
  /** The memory asked for last: a rule that is visited for every record asks every time. */
  private remembering: Rule | undefined
  private remembered: unknown
  private readonly cx: Context
  private readonly model: Zones
  private rules: readonly Rule[]
  /** All of them, those that share a visit too. */
  private readonly byCode: ReadonlyMap<string, Rule>
  private readonly about: ReadonlySet<NameId> | undefined

  private readonly exceptions: readonly Exception[]
  /** By rule and name, the first of those that say the same. */
  private readonly exceptionAt: ReadonlyMap<string, Exception>

  constructor(zones: Zones, rules: readonly Rule[], options: CheckOptions) {
    const { about, catalogue: _, packing, ...around } = options
    this.model = zones
    this.reports = new Reports(zones, packing)
    this.rules = rules
    this.byCode = new Map(rules.map((rule) => [rule.code, rule]))
    this.about = about
    this.exceptions = options.exceptions ?? []
    const at = new Map<string, Exception>()
    for (const each of this.exceptions) if (!at.has(placeOf(each))) at.set(placeOf(each), each)
    this.exceptionAt = at
    this.cx = {
      zones,
      around,
      report: (report) => {
        const rule = (report.code === undefined ? undefined : this.byCode.get(report.code)) ?? this.current!
        const { code, source } = rule
        this.reports.add({ rule, code, source, severity: report.severity ?? rule.severity }, report)
      },
      name: (id) => zones.tree.text(id),
      where: (record, besides) => this.reports.where(record, besides),
      record: (record) => `${typeText(zones.type(record))} ${zones.rdataText(record)}`,
      withTarget: (record, target) => {
        const type = zones.type(record)
        const values = rdataFields(type, zones.rdata(record))
        values[rowOf(type)!.target!] = target
        return `${typeText(type)} ${values.join(' ')}`
      },
      eachRecord: (visit) => {
        if (about) {
          for (const name of about)
            for (let record = zones.first(name); record !== NONE; record = zones.next(record)) visit(record)
        } else for (let record = 0; record < zones.count; record++) if (!(zones.flags(record) & DROPPED)) visit(record)
      },
      eachName: (visit) => {
        if (about) for (const name of about) visit(name)
        else for (let name = 0; name < zones.tree.count; name++) visit(name)
      },
      isAbout: (name) => about?.has(name) ?? true,
      sourcesOf: (zone) => this.reports.sourcesOf(zone),
      rewriting: (record, part, text) => {
        if (zones.flags(record) & GENERATED) return undefined
        const [start, end] = this.reports.stretchOf(record, part)
        return { at: { source: zones.source(record), start, end }, text }
      },
      memory: <T>(start: () => T): T => {
        const rule = this.current!
        if (this.remembering === rule) return this.remembered as T
        if (!this.memories.has(rule)) this.memories.set(rule, start())
        this.remembering = rule
        this.remembered = this.memories.get(rule)
        return this.remembered as T
      },
    }
    // A visit that several rules share is made once.
    const visits = new Set<Rule['visit']>()
    this.rules = rules.filter(
      (rule) =>
        !visits.has(rule.visit) &&
        visits.add(rule.visit) &&
        (this.guarded(rule, () => rule.visit.applies?.(this.cx)) ?? true),
    )
  }

  readProblems(): void {
    const claimants = this.rules.filter((rule) => rule.visit.problem)
    for (const source of this.model.sources)
      for (const problem of source.problems) {
        const claimed = claimants.some((rule) =>
          this.guarded(rule, () => rule.visit.problem!(problem, source, this.cx)),
        )
        if (!claimed) this.reports.add(...unclaimed(problem, source, this.model))
      }
  }

  zones(): void {
    const rules = this.rules.filter((rule) => rule.visit.zone)
    for (const zone of this.model.zones) for (const rule of rules) this.offer(rule, rule.visit.zone!, zone)
  }

  sets(): void {
    const { model } = this
    /** By type: whom to offer its sets, and what any of them looks for. */
    const byType = new Array<{ any: number; visits: { rule: Rule; when: number; visit: SetVisit }[] } | undefined>(
      TYPES,
    )
    for (const rule of this.rules)
      for (const [type, stated] of Object.entries(rule.visit.set ?? {})) {
        const offered = (byType[Number(type)] ??= { any: 0, visits: [] })
        const { when, visit } = typeof stated === 'function' ? { when: ~0, visit: stated } : stated!
        offered.visits.push({ rule, when, visit })
        offered.any |= when
      }
    const traits = new Traits(model)
    const several = this.rules.filter((rule) => rule.visit.several)
    const view: SetView = { zone: model.zones[0]!, owner: NONE, type: 0, records: [] }
    const offer = (crowded: boolean): void => {
      if (hidden(model, view)) return
      const offered = byType[view.type]
      if (offered) {
        const bits = traits.ofSet(view, crowded)
        const { any, visits } = offered
        for (let i = 0; any & bits && i < visits.length; i++)
          if (visits[i]!.when & bits) this.offer(visits[i]!.rule, visits[i]!.visit, view)
      }
      if (view.records.length > 1) for (const rule of several) this.offer(rule, rule.visit.several!, view)
    }
    const alone: RecordId[] = [NONE]
    const about = this.about && [...this.about]
    const names = about ? about.length : model.tree.count
    for (let i = 0; i < names; i++) {
      const owner = about ? about[i]! : i
      const first = model.first(owner)
      if (first === NONE) continue
      view.owner = owner
      if (model.next(first) === NONE) {
        view.type = model.type(first)
        if (!byType[view.type]) continue
        view.zone = model.zoneOfRecord(first)
        alone[0] = first
        view.records = alone
        offer(false)
        continue
      }
      const records: RecordId[] = []
      for (let record = first; record !== NONE; record = model.next(record)) records.push(record)
      this.offerEach(records, view, offer)
    }
  }

  /** Offers each record to the rules that look for its traits. */
  records(): void {
    const { rules, cx } = this
    const visits = rules.flatMap((rule) => (rule.visit.record ? [{ rule, ...rule.visit.record }] : []))
    const traits = new Traits(this.model)
    cx.eachRecord((record) => {
      const bits = traits.ofRecord(record)
      if (bits === 0) return
      for (const { rule, when, visit } of visits) if (when & bits) this.offer(rule, visit, record)
    })
  }

  /** Offers the sets of one owner’s records. */
  private offerEach(records: RecordId[], view: SetView, offer: (crowded: boolean) => void): void {
    const { model } = this
    const groups = new Map<number, RecordId[]>()
    for (const record of records) {
      const key = model.zoneOfRecord(record).index * 65_536 + model.type(record)
      const group = groups.get(key)
      if (group) group.push(record)
      else groups.set(key, [record])
    }
    for (const [key, group] of groups) {
      view.type = key % 65_536
      view.zone = model.zones[(key - view.type) / 65_536]!
      view.records = group
      offer(true)
    }
  }

  async finish(): Promise<void> {
    for (const rule of this.rules)
      if (rule.visit.finish) {
        this.current = rule
        try {
          await rule.visit.finish(this.cx)
        } catch (error) {
          this.failed(rule, error)
        }
      }
  }

  /** A rule that fails is a bug. It is told once, and everything else is still found. */
  private offer<About>(rule: Rule, visit: (about: About, cx: Context) => void, about: About): void {
    this.current = rule
    try {
      visit(about, this.cx)
    } catch (error) {
      this.failed(rule, error)
    }
  }

  private guarded<T>(rule: Rule, work: () => T): T | undefined {
    this.current = rule
    try {
      return work()
    } catch (error) {
      this.failed(rule, error)
      return undefined
    }
  }

  private readonly broken = new Set<Rule>()
  private failed(rule: Rule, error: unknown): void {
    if (this.broken.has(rule)) return
    this.broken.add(rule)
    this.reports.add(...internalError(rule, error))
  }

  /** What stands, in order, and what an exception accepts. */
  findings(): Pick<Examined, 'findings' | 'excepted'> {
    const { reports } = this
    const matched = new Map<string, number>()
    const excepted: Examined['excepted'] = []
    const all = reports.standing()
    const standing =
      this.exceptions.length === 0
        ? all
        : all.filter((number) => !this.allow(reports.finding(number), matched, excepted))
    const unused = this.unused(matched)
    const numbers = new Int32Array(standing.length + unused.length)
    numbers.set(standing)
    numbers.set(unused, standing.length)
    return { findings: reports.findings(reports.inOrder(numbers)), excepted }
  }

  private allow(finding: Finding, matched: Map<string, number>, excepted: Examined['excepted']): boolean {
    const found = [`${finding.rule} `, `${finding.rule} ${finding.owner}`].filter((place) =>
      this.exceptionAt.has(place),
    )
    for (const place of found) matched.set(place, (matched.get(place) ?? 0) + 1)
    if (found.length > 0) excepted.push({ finding, reason: this.exceptionAt.get(found[0]!)!.reason })
    return found.length > 0
  }

  /** What the rules say of the exceptions, by its numbers. */
  private unused(matched: ReadonlyMap<string, number>): number[] {
    const before = this.reports.length
    for (const rule of this.rules)
      if (rule.visit.exception) {
        // Of some names alone, nobody can say that an exception matches nothing.
        for (const each of this.about ? [] : this.exceptions)
          this.guarded(rule, () => rule.visit.exception!(each, matched.get(placeOf(each)) ?? 0, this.cx))
      }
    return Array.from({ length: this.reports.length - before }, (_, i) => before + i)
  }
}

/** What an exception accepts: a rule, and the name where; everywhere, where it states none. */
const placeOf = ({ rule, at }: Exception): string => `${rule} ${at ?? ''}`

/** Whether a set is never answered from the zone that it stands in: below a cut, or in the file of a zone that is not its own. Rules about its meaning are silent then. */
function hidden(zones: Zones, set: SetView): boolean {
  const zone = zones.zoneOf(set.owner)
  // A delegation to a kept zone is the parent's to give.
  if (zone !== set.zone)
    return !(zone?.apex === set.owner && (set.type === TYPE.NS || set.type === TYPE.DS) && set.owner !== set.zone.apex)
  const cut = zones.cut(set.owner)
  return cut !== NONE && (cut !== set.owner || (set.type !== TYPE.NS && set.type !== TYPE.DS))
}

/** The code of what is said where a rule fails. */
export const INTERNAL_ERROR = 'internal/error'

function internalError(rule: Rule, error: unknown): [Speaker, Report] {
  return [
    { rule: undefined, code: INTERNAL_ERROR, source: 'practice', severity: 'error' },
    {
      message: `internal error in ${rule.code}, please report it: ${error instanceof Error ? error.message : String(error)}`,
      effect: 'This rule was not applied everywhere; all others were.',
      fix: ['report it together with the record'],
    },
  ]
}

/** A problem of the reader that no rule speaks of: a finding of the family `file/`. */
function unclaimed(problem: Problem, source: Source, zones: Zones): [Speaker, Report] {
  const shown = problem.value === '' ? '' : ` (here: ${problem.value})`
  return [
    {
      rule: undefined,
      code: `file/${problem.kind}`,
      source: 'RFC 1035 §5.1',
      severity: problem.severity ?? 'error',
    },
    {
      zone: zones.zones[source.zone],
      owner: problem.owner,
      type: problem.type,
      at: { source, start: problem.start, end: problem.end },
      message: problem.message + shown,
      effect:
        problem.kind === 'no-ttl'
          ? 'Some servers refuse the file; others choose a TTL that nobody intended.'
          : 'Name servers refuse the whole file, or leave out this entry.',
      fix: [problem.wanted],
    },
  ]
}
