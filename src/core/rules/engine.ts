/** Runs the rules over the kept zones in one walk, and joins what the reader found. */

import { entryParts, type Stretch } from '../file/entry.ts'
import { LineIndex } from '../file/places.ts'
import { DROPPED, GENERATED, type RecordId, type Source, type Zone, type Zones } from '../model/zones.ts'
import { foldName } from '../names/name.ts'
import { textOf } from '../names/octets.ts'
import { type NameId, NONE } from '../names/tree.ts'
import { rdataFields } from '../records/rdata.ts'
import type { Problem } from '../records/tokens.ts'
import { rowOf, TYPE, typeText } from '../records/types.ts'
import { CATALOGUE } from './catalogue.ts'
import type {
  Context,
  Exception,
  Finding,
  Part,
  Report,
  Rule,
  SetView,
  SetVisit,
  Severity,
  Surroundings,
} from './rule.ts'
import { Traits } from './traits.ts'

export interface CheckResult {
  findings: Finding[]
  /** Findings that an exception accepts. They are not in `findings`, nor counted. */
  excepted: { finding: Finding; reason: string }[]
  counts: Record<Severity, number>
}

export const SEVERITIES: readonly Severity[] = ['error', 'warning', 'advice']

/** Types are numbers of 16 bits. */
const TYPES = 65_536

interface Raw {
  rule: Rule | undefined
  code: string
  source: string
  severity: Severity
  report: Report
}

export interface CheckOptions extends Surroundings {
  /** Only what stands at these names, and what concerns whole zones: for comparing before and after a change (see `affectedBy`). What the reader found is left out. */
  about?: ReadonlySet<NameId>
  /** The rules, where others than those of the catalogue are wanted. */
  catalogue?: readonly Rule[]
}

/** Checks sealed zones by every rule of the catalogue. Findings come in the order of the files and of their lines. */
export async function check(zones: Zones, options: CheckOptions = {}): Promise<CheckResult> {
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
export function countsOf(findings: readonly Finding[]): Record<Severity, number> {
  const counts: Record<Severity, number> = { error: 0, warning: 0, advice: 0 }
  for (const finding of findings) counts[finding.severity]++
  return counts
}

class Walk {
  private readonly raw: Raw[] = []
  private current: Rule | undefined
  private readonly memories = new Map<Rule, unknown>()
  /** The memory asked for last: a rule that is visited for every record asks every time. */
  private remembering: Rule | undefined
  private remembered: unknown
  private readonly lines = new Map<Source, LineIndex>()
  private readonly cx: Context
  private readonly model: Zones
  private rules: readonly Rule[]
  /** All of them, those that share a visit too. */
  private readonly byCode: ReadonlyMap<string, Rule>
  private readonly about: ReadonlySet<NameId> | undefined

  private readonly exceptions: readonly Exception[]
  /** The same by their rule and name. */
  private readonly exceptionsAt: ReadonlyMap<string, Exception[]>
  private sources: Source[][] | undefined

  constructor(zones: Zones, rules: readonly Rule[], options: CheckOptions) {
    const { about, catalogue: _, ...around } = options
    this.model = zones
    this.rules = rules
    this.byCode = new Map(rules.map((rule) => [rule.code, rule]))
    this.about = about
    this.exceptions = options.exceptions ?? []
    const at = new Map<string, Exception[]>()
    for (const each of this.exceptions) {
      const key = `${each.rule} ${each.at ?? ''}`
      at.set(key, [...(at.get(key) ?? []), each])
    }
    this.exceptionsAt = at
    this.cx = {
      zones,
      around,
      report: (report) => {
        const rule = (report.code === undefined ? undefined : this.byCode.get(report.code)) ?? this.current!
        this.raw.push({
          rule,
          code: rule.code,
          source: rule.source,
          severity: report.severity ?? rule.severity,
          report,
        })
      },
      name: (id) => zones.tree.text(id),
      where: (record, besides) => this.where(record, besides),
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
      sourcesOf: (zone) => this.sourcesOf(zone),
      rewriting: (record, part, text) => {
        if (zones.flags(record) & GENERATED) return undefined
        const [start, end] = this.stretchOf(record, part)
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
        if (!claimed) this.raw.push(unclaimed(problem, source, this.model))
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
    this.raw.push(internalError(rule, error))
  }

  /** Drops what another finding silences; that one takes over the severity of what it silenced, since it is the same fault. */
  findings(): Pick<CheckResult, 'findings' | 'excepted'> {
    const keyed = new Map<string, Raw[]>()
    for (const raw of this.raw) {
      if (raw.report.record === undefined) continue
      const key = `${raw.code}@${raw.report.record}`
      const same = keyed.get(key)
      if (same) same.push(raw)
      else keyed.set(key, [raw])
    }
    const dropped = new Set<Raw>()
    for (const raw of this.raw)
      for (const code of raw.rule?.silences ?? [])
        for (const record of [raw.report.record, ...(raw.report.also ?? [])])
          for (const other of keyed.get(`${code}@${record}`) ?? []) {
            dropped.add(other)
            if (SEVERITIES.indexOf(other.severity) < SEVERITIES.indexOf(raw.severity)) raw.severity = other.severity
          }
    const findings = this.raw.filter((raw) => !dropped.has(raw)).map((raw) => this.finding(raw))
    const matched = new Map<Exception, number>()
    const excepted: CheckResult['excepted'] = []
    const standing =
      this.exceptions.length === 0 ? findings : findings.filter((finding) => !this.allow(finding, matched, excepted))
    return { findings: this.inOrder([...standing, ...this.unused(matched)]), excepted }
  }

  private allow(finding: Finding, matched: Map<Exception, number>, excepted: CheckResult['excepted']): boolean {
    const found = ['', finding.owner].flatMap((at) => this.exceptionsAt.get(`${finding.rule} ${at}`) ?? [])
    for (const each of found) matched.set(each, (matched.get(each) ?? 0) + 1)
    if (found.length > 0) excepted.push({ finding, reason: found[0]!.reason })
    return found.length > 0
  }

  /** What the rules say of the exceptions. */
  private unused(matched: Map<Exception, number>): Finding[] {
    const before = this.raw.length
    for (const rule of this.rules)
      if (rule.visit.exception) {
        // Of some names alone, nobody can say that an exception matches nothing.
        for (const each of this.about ? [] : this.exceptions)
          this.guarded(rule, () => rule.visit.exception!(each, matched.get(each) ?? 0, this.cx))
      }
    return this.raw.slice(before).map((raw) => this.finding(raw))
  }

  private inOrder(findings: Finding[]): Finding[] {
    const order = new Map(this.model.sources.map((source, i) => [source.file, i]))
    return findings.sort(
      (a, b) =>
        (order.get(a.file) ?? -1) - (order.get(b.file) ?? -1) ||
        a.line - b.line ||
        a.column - b.column ||
        (a.rule < b.rule ? -1 : a.rule > b.rule ? 1 : 0),
    )
  }

  private sourcesOf(zone: Zone): readonly Source[] {
    if (!this.sources) {
      this.sources = this.model.zones.map(() => [])
      for (const source of this.model.sources) this.sources[source.zone]!.push(source)
    }
    return this.sources[zone.index]!
  }

  private finding(raw: Raw): Finding {
    const { report } = raw
    const { record } = report
    const { model } = this
    const source =
      report.at?.source ?? (record !== undefined ? model.source(record) : report.zone && this.sourcesOf(report.zone)[0])
    const [start, end] = report.at
      ? [report.at.start, report.at.end ?? report.at.start]
      : record === undefined
        ? [-1, -1]
        : this.stretchOf(record, report.part)
    const place = report.place ?? (source && start >= 0 ? this.index(source).place(start) : { line: 1, column: 1 })
    const owner = report.owner ?? (record === undefined ? report.zone?.apex : model.owner(record))
    const shown = source && start >= 0
    return {
      rule: raw.code,
      severity: raw.severity,
      owner: owner === undefined ? '' : foldName(model.tree.text(owner)),
      type:
        record !== undefined ? typeText(model.type(record)) : report.type === undefined ? null : typeText(report.type),
      zone: source && !report.place ? model.zones[source.zone]!.name : '',
      file: report.place?.file ?? source?.file ?? '',
      line: place.line,
      column: place.column,
      message: report.message,
      effect: report.effect ?? effectOf(raw),
      fix: report.fix ?? [],
      source: raw.source,
      text: report.place?.text ?? (shown ? this.index(source).lineText(start) : ''),
      length:
        report.place?.length ??
        (shown ? Math.max(1, textOf(onItsLine(source.octets, start, Math.min(end, start + 200))).length) : 0),
      repair: report.repair,
    }
  }

  private stretchOf(record: RecordId, part: Part = 'type'): Stretch {
    const parts = entryParts(this.model, record)
    const stretch =
      typeof part === 'number'
        ? parts.values[part]
        : part === 'owner'
          ? parts.owner
          : part === 'ttl'
            ? parts.ttl
            : parts.type
    return stretch ?? parts.type
  }

  private where(record: RecordId, besides?: RecordId): string {
    const source = this.model.source(record)
    const { line } = this.index(source).place(this.stretchOf(record)[0])
    return besides === undefined || this.model.source(besides) === source
      ? `line ${line}`
      : `line ${line} of ${source.file}`
  }

  private index(source: Source): LineIndex {
    let index = this.lines.get(source)
    if (!index) this.lines.set(source, (index = new LineIndex(source.octets)))
    return index
  }
}

/** Whether a set is never answered from the zone that it stands in: below a cut, or in the file of a zone that is not its own. Rules about its meaning are silent then. */
function hidden(zones: Zones, set: SetView): boolean {
  const zone = zones.zoneOf(set.owner)
  // A delegation to a kept zone is the parent's to give.
  if (zone !== set.zone)
    return !(zone?.apex === set.owner && (set.type === TYPE.NS || set.type === TYPE.DS) && set.owner !== set.zone.apex)
  const cut = zones.cut(set.owner)
  return cut !== NONE && (cut !== set.owner || (set.type !== TYPE.NS && set.type !== TYPE.DS))
}

/** What of a stretch is on the line that it begins on. */
function onItsLine(octets: Uint8Array, start: number, end: number): Uint8Array {
  const stretch = octets.subarray(start, end)
  const newline = stretch.indexOf(0x0a)
  return newline < 0 ? stretch : stretch.subarray(0, newline)
}

/** The code of what is said where a rule fails. */
export const INTERNAL_ERROR = 'internal/error'

function internalError(rule: Rule, error: unknown): Raw {
  return {
    rule: undefined,
    code: INTERNAL_ERROR,
    source: 'practice',
    severity: 'error',
    report: {
      message: `internal error in ${rule.code}, please report it: ${error instanceof Error ? error.message : String(error)}`,
      effect: 'This rule was not applied everywhere; all others were.',
      fix: ['report it, with the record that it was about'],
    },
  }
}

/** What a rule says for all of its findings. */
function effectOf({ rule, severity }: Raw): string {
  const effect = rule?.effect ?? ''
  return typeof effect === 'string' ? effect : effect[severity]
}

/** A problem of the reader that no rule speaks of: a finding of the family `file/`. */
function unclaimed(problem: Problem, source: Source, zones: Zones): Raw {
  const shown = problem.value === '' ? '' : ` (here: ${problem.value})`
  return {
    rule: undefined,
    code: `file/${problem.kind}`,
    source: 'RFC 1035 §5.1',
    severity: problem.severity ?? 'error',
    report: {
      zone: zones.zones[source.zone],
      owner: problem.owner,
      type: problem.type,
      at: { source, start: problem.start, end: problem.end },
      message: problem.message + shown,
      effect:
        problem.kind === 'no-ttl'
          ? 'Some servers refuse the file; others choose a TTL that nobody intended.'
          : 'A name server refuses the whole file, or leaves this entry out.',
      fix: [problem.wanted],
    },
  }
}
