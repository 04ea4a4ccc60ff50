/**
 * What rules report, and the findings that come of it. There may be millions of them: they are kept as numbers and packed texts, and a finding is made when it is looked at.
 */
import { entryParts, type Stretch } from '../file/entry.ts'
import { LineIndex } from '../file/places.ts'
import type { RecordId, Source, Zone, Zones } from '../model/zones.ts'
import { foldName } from '../names/name.ts'
import { textOf } from '../names/octets.ts'
import { NONE } from '../names/tree.ts'
import { typeText } from '../records/types.ts'
import type { FilePlace, Finding, Part, Repair, Report, Rule, Severity } from './rule.ts'
import { type Packing, Texts } from './texts.ts'

export const SEVERITIES: readonly Severity[] = ['error', 'warning', 'advice']

/** Findings in order, each made when it is looked at. An array of findings is one, too. */
export interface Findings extends Iterable<Finding> {
  readonly length: number
  filter(keep: (finding: Finding) => boolean): Findings
}

/** Which rule speaks: its code and source; undefined where the reader or the walk itself does. */
export interface Speaker {
  rule: Rule | undefined
  code: string
  source: string
  severity: Severity
}

/** Of a report, in this order: the code, the severity, the record, the source, where the place begins and ends, the owner, the type. */
const COLUMNS = 8
const [CODE, SEVERITY, RECORD, SOURCE, START, END, OWNER, TYPE] = [0, 1, 2, 3, 4, 5, 6, 7]

/** What few reports have. */
type Rare = Pick<Report, 'place' | 'also' | 'repair'>

export class Reports {
  private readonly zones: Zones
  private count = 0
  private columns = new Int32Array(COLUMNS * 64)
  private readonly texts: Texts
  private readonly rare = new Map<number, Rare>()
  private readonly speakers: Speaker[] = []
  private readonly codes = new Map<string, number>()
  private readonly lines = new Map<Source, LineIndex>()
  private readonly sourceNumbers: ReadonlyMap<Source, number>
  private bySource: Source[][] | undefined

  constructor(zones: Zones, packing?: Packing) {
    this.zones = zones
    this.texts = new Texts(packing)
    this.sourceNumbers = new Map(zones.sources.map((source, i) => [source, i]))
  }

  get length(): number {
    return this.count
  }

  add(speaker: Speaker, report: Report): void {
    const { record, owner, type, at, place, also, repair } = report
    const { zones } = this
    const source =
      at?.source ?? (record !== undefined ? zones.source(record) : report.zone && this.sourcesOf(report.zone)[0])
    const [start, end] = at
      ? [at.start, at.end ?? at.start]
      : record === undefined
        ? [-1, -1]
        : this.stretchOf(record, report.part)
    if ((this.count + 1) * COLUMNS > this.columns.length) {
      const grown = new Int32Array(this.columns.length * 2)
      grown.set(this.columns)
      this.columns = grown
    }
    this.columns.set(
      [
        this.codeOf(speaker),
        SEVERITIES.indexOf(speaker.severity),
        record ?? NONE,
        source ? this.sourceNumbers.get(source)! : -1,
        start,
        end,
        owner ?? (record === undefined ? (report.zone?.apex ?? NONE) : zones.owner(record)),
        record === undefined ? (type ?? -1) : zones.type(record),
      ],
      this.count * COLUMNS,
    )
    if (place || also || repair) this.rare.set(this.count, { place, also, repair })
    this.texts.add([report.message, report.effect ?? '', ...(report.fix ?? [])])
    this.count++
  }

  /** A finding by its number. */
  finding(index: number): Finding {
    return new StoredFinding(this, index)
  }

  speakerOf(index: number): Speaker {
    return this.speakers[this.column(index, CODE)]!
  }

  severityOf(index: number): Severity {
    return SEVERITIES[this.column(index, SEVERITY)]!
  }

  /**
   * The numbers of those that stand. What another one silences is dropped; that one takes over the severity of what it silenced, since it is the same fault.
   */
  standing(): Int32Array {
    const silenced = new Map<number, number[]>()
    const silencers = this.speakers.flatMap(({ rule }) => (rule?.silences?.length ? [rule] : []))
    const codes = new Set(silencers.flatMap(({ silences }) => silences!.flatMap((code) => this.codes.get(code) ?? [])))
    const keyOf = (code: number, record: RecordId): number => code * 2 ** 32 + record
    for (let i = 0; codes.size > 0 && i < this.count; i++) {
      const [code, record] = [this.column(i, CODE), this.column(i, RECORD)]
      if (record === NONE || !codes.has(code)) continue
      const same = silenced.get(keyOf(code, record))
      if (same) same.push(i)
      else silenced.set(keyOf(code, record), [i])
    }
    const dropped = new Uint8Array(this.count)
    for (let i = 0; silenced.size > 0 && i < this.count; i++)
      for (const code of this.speakerOf(i).rule?.silences ?? [])
        for (const record of [this.column(i, RECORD), ...(this.rare.get(i)?.also ?? [])])
          for (const other of silenced.get(keyOf(this.codes.get(code) ?? -1, record)) ?? []) {
            dropped[other] = 1
            const severity = Math.min(this.column(i, SEVERITY), this.column(other, SEVERITY))
            this.columns[i * COLUMNS + SEVERITY] = severity
          }
    return Int32Array.from({ length: this.count }, (_, i) => i).filter((i) => !dropped[i])
  }

  /** Numbers in the order of the files, and in it of the lines. */
  inOrder(numbers: Int32Array): Int32Array {
    // A file that was read twice comes where it was read last.
    const ranks = new Map(this.zones.sources.map(({ file }, i) => [file, i]))
    const rankOf = this.zones.sources.map(({ file }) => ranks.get(file)!)
    const codes = this.speakers.map(({ code }) => code)
    const alphabetical = [...codes].sort()
    const codeRanks = codes.map((code) => alphabetical.indexOf(code))
    const fileOf = (i: number): number =>
      this.rare.get(i)?.place
        ? (ranks.get(this.rare.get(i)!.place!.file) ?? -1)
        : (rankOf[this.column(i, SOURCE)] ?? -1)
    const isPlaced = [...this.rare.values()].some(({ place }) => place)
    return numbers.sort((a, b) => {
      const places =
        isPlaced && (this.rare.get(a)?.place || this.rare.get(b)?.place)
          ? [this.placeOf(a), this.placeOf(b)]
          : undefined
      return (
        fileOf(a) - fileOf(b) ||
        (places
          ? places[0]!.line - places[1]!.line || places[0]!.column - places[1]!.column
          : this.column(a, START) - this.column(b, START)) ||
        codeRanks[this.column(a, CODE)]! - codeRanks[this.column(b, CODE)]! ||
        a - b
      )
    })
  }

  /** Those of the numbers, each made when it is looked at. */
  findings(numbers: Int32Array): Findings {
    return new StoredFindings(this, numbers)
  }

  /** "line 12", or "line 12 of FILE" where the file is another than that of `besides`. */
  where(record: RecordId, besides?: RecordId): string {
    const source = this.zones.source(record)
    const { line } = this.index(source).place(this.stretchOf(record)[0])
    return besides === undefined || this.zones.source(besides) === source
      ? `line ${line}`
      : `line ${line} of ${source.file}`
  }

  /** The files that a zone was read from; its own first. */
  sourcesOf(zone: Zone): readonly Source[] {
    if (!this.bySource) {
      this.bySource = this.zones.zones.map(() => [])
      for (const source of this.zones.sources) this.bySource[source.zone]!.push(source)
    }
    return this.bySource[zone.index]!
  }

  /** Where a part of a record’s entry stands in its source, in octets. */
  stretchOf(record: RecordId, part: Part = 'type'): Stretch {
    const parts = entryParts(this.zones, record)
    return (typeof part === 'number' ? parts.values[part] : parts[part]) ?? parts.type
  }

  ownerOf(index: number): string {
    const owner = this.column(index, OWNER)
    return owner === NONE ? '' : foldName(this.zones.tree.text(owner))
  }

  typeOf(index: number): string | null {
    const type = this.column(index, TYPE)
    return type < 0 ? null : typeText(type)
  }

  /** Line and column, and the line itself with how many characters of it are meant. */
  placeOf(index: number): FilePlace {
    const stated = this.rare.get(index)?.place
    if (stated) return stated
    const source = this.sourceOf(index)
    const start = this.column(index, START)
    if (!source || start < 0) return { file: this.fileOf(index), line: 1, column: 1, text: '', length: 0 }
    const lines = this.index(source)
    const shown = onItsLine(source.octets, start, Math.min(this.column(index, END), start + 200))
    const length = Math.max(1, textOf(shown).length)
    return { file: source.file, ...lines.place(start), text: lines.lineText(start), length }
  }

  fileOf(index: number): string {
    return this.rare.get(index)?.place?.file ?? this.sourceOf(index)?.file ?? ''
  }

  zoneOf(index: number): string {
    const source = this.sourceOf(index)
    return source && !this.rare.get(index)?.place ? this.zones.zones[source.zone]!.name : ''
  }

  /** What the rule says for all of its findings. */
  effectOf(index: number): string {
    const effect = this.speakerOf(index).rule?.effect ?? ''
    return typeof effect === 'string' ? effect : effect[this.severityOf(index)]
  }

  textsOf(index: number): string[] {
    return this.texts.at(index)
  }

  repairOf(index: number): Repair | undefined {
    return this.rare.get(index)?.repair
  }

  private column(index: number, which: number): number {
    return this.columns[index * COLUMNS + which]!
  }

  private sourceOf(index: number): Source | undefined {
    return this.zones.sources[this.column(index, SOURCE)]
  }

  private codeOf(speaker: Speaker): number {
    const known = this.codes.get(speaker.code)
    if (known !== undefined) return known
    this.codes.set(speaker.code, this.speakers.length)
    return this.speakers.push(speaker) - 1
  }

  private index(source: Source): LineIndex {
    let index = this.lines.get(source)
    if (!index) this.lines.set(source, (index = new LineIndex(source.octets)))
    return index
  }
}

/** Made of the columns when it is asked for; what costs more is found once. */
class StoredFinding implements Finding {
  readonly #reports: Reports
  readonly #index: number
  #place: FilePlace | undefined
  #texts: string[] | undefined

  constructor(reports: Reports, index: number) {
    this.#reports = reports
    this.#index = index
  }

  get rule(): string {
    return this.#reports.speakerOf(this.#index).code
  }
  get source(): string {
    return this.#reports.speakerOf(this.#index).source
  }
  get severity(): Severity {
    return this.#reports.severityOf(this.#index)
  }
  get owner(): string {
    return this.#reports.ownerOf(this.#index)
  }
  get type(): string | null {
    return this.#reports.typeOf(this.#index)
  }
  get zone(): string {
    return this.#reports.zoneOf(this.#index)
  }
  get file(): string {
    return this.#reports.fileOf(this.#index)
  }
  get line(): number {
    return this.place.line
  }
  get column(): number {
    return this.place.column
  }
  get text(): string {
    return this.place.text
  }
  get length(): number {
    return this.place.length
  }
  get message(): string {
    return this.texts[0]!
  }
  get effect(): string {
    return this.texts[1] || this.#reports.effectOf(this.#index)
  }
  get fix(): string[] {
    return this.texts.slice(2)
  }
  get repair(): Repair | undefined {
    return this.#reports.repairOf(this.#index)
  }

  private get place(): FilePlace {
    return (this.#place ??= this.#reports.placeOf(this.#index))
  }
  private get texts(): string[] {
    return (this.#texts ??= this.#reports.textsOf(this.#index))
  }
}

class StoredFindings implements Findings {
  private readonly reports: Reports
  private readonly numbers: Int32Array

  constructor(reports: Reports, numbers: Int32Array) {
    this.reports = reports
    this.numbers = numbers
  }

  get length(): number {
    return this.numbers.length
  }

  *[Symbol.iterator](): Iterator<Finding> {
    for (const number of this.numbers) yield this.reports.finding(number)
  }

  filter(keep: (finding: Finding) => boolean): Findings {
    return new StoredFindings(
      this.reports,
      this.numbers.filter((number) => keep(this.reports.finding(number))),
    )
  }
}

/** A finding as values of its own, which holds nothing else. */
export const standingAlone = (finding: Finding): Finding => {
  const { rule, severity, owner, type, zone, file, line, column, message, effect, fix, source, text, length } = finding
  const { repair } = finding
  return { rule, severity, owner, type, zone, file, line, column, message, effect, fix, source, text, length, repair }
}

/** What of a stretch is on the line that it begins on. */
function onItsLine(octets: Uint8Array, start: number, end: number): Uint8Array {
  const stretch = octets.subarray(start, end)
  const newline = stretch.indexOf(0x0a)
  return newline < 0 ? stretch : stretch.subarray(0, newline)
}
