/** Which findings a call is about, and which of them say the same. */
import { isAtOrBelow, type Name } from '../names/name.ts'
import { CATALOGUE } from './catalogue.ts'
import { countsOf, type Examined } from './engine.ts'
import { type Findings, SEVERITIES } from './reports.ts'
import type { Finding, Severity } from './rule.ts'

export interface Selection {
  /** The least severe that is wanted. */
  least?: Severity
  /** Codes, or families. */
  only?: readonly string[]
  except?: readonly string[]
  /** Names: what is at or below one of them. */
  names?: readonly Name[]
  /** Files: as findings name them. */
  files?: ReadonlySet<string>
}

/** Whether a finding is at least as severe as that. */
export const isAtLeast = (finding: Finding, least: Severity): boolean =>
  SEVERITIES.indexOf(finding.severity) <= SEVERITIES.indexOf(least)

const isOf = (rule: string, words: readonly string[]): boolean =>
  words.some((word) => rule === word || rule.startsWith(`${word}/`))

/** The findings that a selection wants, in their order. */
export function selected(findings: Findings, selection: Selection): Findings {
  const { least = 'advice', only, except, names, files } = selection
  if (least === 'advice' && !only?.length && !except?.length && !names?.length && !files) return findings
  return findings.filter((finding) => isSelected(finding, selection))
}

/** Whether a selection wants a finding. */
export const isSelected = (finding: Finding, { least = 'advice', only, except, names, files }: Selection): boolean =>
  isAtLeast(finding, least) &&
  (!only?.length || isOf(finding.rule, only)) &&
  !(except?.length && isOf(finding.rule, except)) &&
  (!names?.length || names.some((name) => finding.owner !== '' && isAtOrBelow(finding.owner, name))) &&
  (!files || files.has(finding.file))

/** Whether a word is a rule's code, or a family of codes. */
export const isCode = (word: string): boolean =>
  word === 'file' ||
  word.startsWith('file/') ||
  CATALOGUE.some(({ code }) => code === word || code.startsWith(`${word}/`))

/** Everything that `isCode` knows: for naming what was probably meant. */
export const codeWords = (): string[] => [
  'file',
  ...new Set(CATALOGUE.flatMap(({ code }) => [code, code.slice(0, code.indexOf('/'))])),
]

/** What a finding says apart from its owner and places: equal for equal mistakes at several names of a zone. */
function sense({ rule, severity, message, owner, zone }: Finding): string {
  const told = owner === '' ? message : message.replaceAll(owner, '·').replaceAll(owner.slice(0, -1), '·')
  return `${zone} ${rule} ${severity} ${told.replace(/\(?line \d+[^),;]*\)?/g, '')}`
}

/** Findings that say the same of several names of a zone: the first, and how many more there are. */
export interface Alike {
  first: Finding
  count: number
  /** Of the others, the first few. */
  names: string[]
}

/** So many groups of one rule are made of one zone, and so many names of a group are known. */
const GROUPS = 20
const NAMES = 5

/** Gathers findings in groups of equal sense, in the order of their first. */
export class Folding {
  readonly groups: Alike[] = []
  /** Of rules that have too many groups: how many findings are in none. */
  readonly more = new Map<string, number>()
  private readonly bySense = new Map<string, Alike>()
  private readonly perRule = new Map<string, number>()

  add(finding: Finding): void {
    const { rule, owner } = finding
    const key = sense(finding)
    const group = this.bySense.get(key)
    if (group) {
      group.count++
      if (group.names.length < NAMES && owner !== group.first.owner && !group.names.includes(owner))
        group.names.push(owner)
      return
    }
    const count = this.perRule.get(rule) ?? 0
    this.perRule.set(rule, count + 1)
    if (count >= GROUPS) {
      this.more.set(rule, (this.more.get(rule) ?? 0) + 1)
      return
    }
    const made = { first: finding, count: 1, names: [] }
    this.bySense.set(key, made)
    this.groups.push(made)
  }
}

const keyOf = ({ rule, file, line, column, message }: Finding): string => [rule, file, line, column, message].join('\n')

/** What several runs over overlapping zones found, each finding once; that an exception matches nothing only where it does so in all of them. */
export function joinedResults(results: readonly Examined[]): Examined {
  if (results.length === 1) return results[0]!
  const times = new Map<string, number>()
  const found = new Map<string, Finding>()
  for (const { findings } of results)
    for (const finding of findings) {
      const key = keyOf(finding)
      times.set(key, (times.get(key) ?? 0) + 1)
      if (!found.has(key)) found.set(key, finding)
    }
  const findings = [...found]
    .filter(([key, { rule }]) => rule !== 'config/exception-unused' || times.get(key) === results.length)
    .map(([, finding]) => finding)
  const excepted = new Map(results.flatMap((result) => result.excepted.map((each) => [keyOf(each.finding), each])))
  return { findings, excepted: [...excepted.values()], counts: countsOf(findings) }
}
