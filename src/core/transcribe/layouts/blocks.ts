/** Parts of a record each on a line: `Type: … Host: … Value: …`, and the cells of a web table that came out one a line. */
import type { Candidate, Cell } from '../candidate.ts'
import { type Role, roleOf } from '../labels.ts'
import type { Line } from '../text.ts'
import { typeIn } from '../values.ts'
import { TYPED } from './tables.ts'

interface Labelled {
  role: Role
  text: string
}

const LABEL =
  /(?:^|[,;|\t]\s{0,8}|\s{2,8})[-*•\d.)\s]{0,6}([\p{L}](?: ?[\p{L}\p{N}'’/_-]| (?=\/)){0,40}?(?:\s?\([^()]{1,50}\))?)\s{0,8}(?:(?::|：)(?=\s|$|["'`@])|=(?!=))/gu

/** What counts records in front of their labels. */
const NUMBERED = /^\s*(?:(?:step|schritt|étape|paso|passo|stap|krok|record|eintrag|entry)\s*)?#?\d{1,3}\s*[.:)-]\s+/i

/** The labels of a line with what stands behind each; none where it begins otherwise. */
export function labelled(line: Line): Labelled[] {
  if (line.text.length > 16_384) return []
  const text = line.text
    .replace(NUMBERED, '')
    .replace(
      /^\s*"([^"]{1,40})"\s{0,4}:\s{0,4}("[^"]*"|[\d.]{1,40})\s{0,4},?$/,
      (_, label: string, value: string) => `${label}: ${value.replace(/^"|"$/g, '')}`,
    )
    .replace(/(?<!\.)\.{2,}\s*:/g, ':')
    .replace(/^\s*(?:-\s+)?\{(?!\{)(.*)\},?\s*$/, (_, inner: string) => inner.trim())
  const pair = pairOfCells(text)
  if (pair) return [pair]
  const close = closeLabels(text)
  if (close.length > 0) return close
  const found: { role: Role; from: number; at: number }[] = []
  const types: Labelled[] = []
  for (const match of text.matchAll(LABEL)) {
    const [label] = match.slice(1)
    const isType =
      found.length === 0 &&
      /^[A-Z]+\b/.test(label!) &&
      /[:：]$/.test(match[0]) &&
      typeIn(label!) !== undefined &&
      roleOf(label!) === undefined
    // “MX record: 10 mx1…”: the label is the type.
    if (isType && !/->|=>|→|⇒|➔|➜/.test(text)) {
      types.push({ role: 'type', text: match[1]! })
      found.push({ role: 'value', at: match.index, from: match.index + match[0].length })
      continue
    }
    const typed = TYPED.exec(match[1]!)
    const role = roleOf(typed ? typed[2]! : match[1]!)
    if (role !== undefined && typed && !found.some((each) => each.role === 'type'))
      types.push({ role: 'type', text: typed[1]! })
    // A text has signs of its own: behind a value only the labels of other parts count.
    if (role === undefined || found.some((each) => each.role === role)) continue
    if (found.length === 0 && text.slice(0, match.index).trim() !== '') return []
    if (found.at(-1)?.role === 'value' && !/[,;|\t]|\s{2}/.test(match[0][0]!)) continue
    found.push({ role, at: match.index, from: match.index + match[0].length })
  }
  if (found.length === 0) return listed(text)
  const told = found.map(({ role, from }, i) => ({ role, text: text.slice(from, found[i + 1]?.at).trim() }))
  return told.some(({ role }) => role === 'type') ? told : [...types.slice(0, 1), ...told]
}

/** Labels with nothing but a blank between a value and the next of them: three or more that are known. */
function closeLabels(text: string): Labelled[] {
  const found = [...text.matchAll(/(?:^|\s)(\p{L}[\p{L}-]{1,20}(?: \p{L}{1,12})?):\s/gu)].flatMap((match) => {
    const label = match[1]!
    const [role, from] = [roleOf(label), match.index + match[0].length]
    const last = label.split(' ').at(-1)!
    if (role !== undefined) return [{ role, at: match.index, from }]
    const own = roleOf(last)
    return own === undefined ? [] : [{ role: own, at: match.index + match[0].indexOf(last) - 1, from }]
  })
  const roles = new Set(found.map(({ role }) => role))
  if (
    found.length < 3 ||
    roles.size < found.length ||
    !roles.has('type') ||
    /[,;|\t]|\S {2}/.test(text.slice(0, found.at(-1)!.at))
  )
    return []
  return found.map(({ role, from }, i) => ({ role, text: text.slice(from, found[i + 1]?.at).trim() }))
}

/** Labels that no sign parts from what they stand for: `Type MX, name @, value mx1.example, priority 10`. */
function listed(text: string): Labelled[] {
  const found: Labelled[] = []
  for (const piece of text.replace(/^\s*[-*•]\s+/, '').split(/(?<=[,;])\s+/)) {
    const words = piece.replace(/[,;.]$/, '').split(/\s+/)
    const count = [3, 2, 1].find((n) => words.length > n && roleOf(words.slice(0, n).join(' ')) !== undefined)
    const role = count === undefined ? undefined : roleOf(words.slice(0, count).join(' '))
    const last = found.at(-1)
    if (role !== undefined && !found.some((each) => each.role === role))
      found.push({ role, text: words.slice(count).join(' ') })
    else if (last) last.text += ` ${piece}`
    else return []
  }
  const has = (role: Role): boolean => found.some((each) => each.role === role)
  const type = found.find((each) => each.role === 'type')
  return found.length >= 3 && has('value') && type !== undefined && typeIn(type.text) !== undefined ? found : []
}

/** A table that stands on its side: a label and what it is, in two cells. */
function pairOfCells(text: string): Labelled | undefined {
  const inner = text.trim().replace(/^\||\|$/g, '')
  const cells = inner
    .trim()
    .split(inner.includes('|') ? '|' : inner.includes('\t') ? /\t+/ : /\s[:=]\s/.test(inner) ? '|' : /\s{2,}/)
  if (cells.length !== 2) return undefined
  const [label = '', value = ''] = cells.map((cell) => cell.trim())
  const role = roleOf(label.replace(/[*_`:]/g, ' '))
  // “TXT” is the type of what stands beside it, unless a colon makes it its label.
  return role === undefined ||
    typeIn(label) !== undefined ||
    value === '' ||
    (roleOf(value) !== undefined && typeIn(value) === undefined)
    ? undefined
    : { role, text: value }
}

/** A value goes on over lines no further than this. */
const MOST_VALUE = 8192

/** A label of which nobody knows what it stands for: what is behind it may tell. */
const UNKNOWN = /^\s*\p{L}[\p{L} /-]{1,30}:\s+(\S+)\s*$/u

/** Reads a block that begins at a line: its candidate, and the line behind it. Values may go on over the lines below. */
export function blockAt(lines: readonly Line[], start: number): { candidate: Candidate; next: number } | undefined {
  const cells: Cell[] = []
  let at = start
  // Values that stand below their label may be several.
  let isBelow = false
  for (; at < lines.length; at++) {
    const line = lines[at]!
    const parts = labelled(line)
    if (parts.length > 0) {
      // The first label of the next block.
      const repeats = parts.some(
        ({ role, text }) =>
          role !== 'nothing' &&
          cells.some((cell) => cell.role === role && !(role === 'type' && cell.text === text && parts.length > 1)),
      )
      if (repeats && !isSecondValue(parts, cells)) break
      for (const { role, text } of parts) cells.push({ text, line: line.number, role })
      continue
    }
    const value = cells.at(-1)
    if (!value || line.text.trim() === '' || value.text.length > MOST_VALUE) break
    // What follows an empty label is its value; what is indented, or goes on a key or a text, belongs to it.
    if (value.role !== 'nothing' && value.text === '') {
      value.text = line.text.trim()
      isBelow = value.role === 'value'
    } else if (isBelow && /^\s*(?:\d{1,5}\s+\S+|\d+\.\d+\.\d+\.\d+|[0-9a-f:]{4,}|".*")\s*$/i.test(line.text))
      value.text += `\n${line.text.trim()}`
    else if (value.role === 'value' && goesOn(value.text, line.text)) value.text += `\n${line.text.trim()}`
    else if (UNKNOWN.test(line.text)) cells.push({ text: UNKNOWN.exec(line.text)![1]!.trim(), line: line.number })
    else break
  }
  if (cells.length === 0) return undefined
  // It begins where its type, name or value is told first.
  const first = cells.find(({ role }) => role === 'type' || role === 'owner' || role === 'service' || role === 'value')
  return { candidate: { line: (first ?? cells[0]!).line, last: lines[at - 1]!.number, cells }, next: at }
}

/** “Value” and “Points to” of one record: a second one where the first is empty. */
const isSecondValue = (parts: readonly Labelled[], cells: readonly Cell[]): boolean =>
  parts.length === 1 && parts[0]!.role === 'value' && cells.some(({ role, text }) => role === 'value' && text === '')

function goesOn(value: string, line: string): boolean {
  if (/-----BEGIN/.test(value)) return !/-----END/.test(value)
  const opened = (value.match(/(?<!\\)"/g)?.length ?? 0) % 2 === 1
  if (opened || /^\s+\S/.test(line)) return /^["']?(?:v=|p=|k=)|"/i.test(value) || opened
  if (goesOnSpf(value, line) || (/^v=DKIM1\b[^=]*(?:=[^;]*;\s*)*$/i.test(value) && /^[a-z]=/.test(line.trim())))
    return true
  // Wrapped base64, whose last line may be short, or the next strings of a text.
  const last = value.slice(value.lastIndexOf('\n') + 1)
  const isLast = last.length >= 40 && /^(?=.*[a-z])(?=.*[A-Z])(?=.*[A-Z0-9+/=]{2})[A-Za-z0-9+/=]{2,}$/.test(line.trim())
  return (/^[A-Za-z0-9+/=]{20,}["']?$/.test(line.trim()) || isLast) && /p=/.test(value)
    ? true
    : /^"/.test(line) && /"$/.test(value)
}

/** Whether a line has nothing but terms of the SPF record that has no end yet above it. */
export const goesOnSpf = (value: string, line: string): boolean =>
  /^["']?v=spf1\b/i.test(value) &&
  !/[-~?+]all["']?\s*$/i.test(value) &&
  /^(?:\s*[-+~?]?(?:(?:include|ip4|ip6|a|mx|exists|redirect)[:=/]\S+|mx|a|all)["']?(?=\s|$))+\s*$/i.test(
    line.slice(0, 2000),
  )

/** Labels and what they stand for, each on a line of its own: three pairs or more. */
export function pairsAt(lines: readonly Line[], start: number): { candidate: Candidate; next: number } | undefined {
  const cells: Cell[] = []
  let at = start
  for (; at + 1 < lines.length && cells.length < 16; at += 2) {
    const role = alone(lines[at]!.text)
    const text = lines[at + 1]!.text.trim()
    if (role === undefined || cells.some((cell) => cell.role === role)) break
    // What stands below may be nothing, or be called like a label: then a label goes on behind it.
    if ((text === '' || alone(text) !== undefined) && alone(lines[at + 2]?.text ?? '') === undefined) {
      if (text === '' && cells.length >= 2) cells.push({ role, text, line: lines[at]!.number })
      break
    }
    cells.push({ role, text, line: lines[at + 1]!.number })
  }
  const has = (role: Role): boolean => cells.some((cell) => cell.role === role)
  if (cells.length < 3 || !has('type') || !has('value')) return undefined
  at = Math.min(at, lines.length)
  return { candidate: { line: lines[start]!.number, last: lines[at - 1]!.number, cells }, next: at }
}

/** Cells of one record, each on a line of its own, between blank lines: one of them is a type. */
export function groupAt(lines: readonly Line[], start: number): { candidate: Candidate; next: number } | undefined {
  if (start > 0 && lines[start - 1]!.text.trim() !== '') return undefined
  let at = start
  while (at < lines.length && at < start + 8 && lines[at]!.text.trim() !== '') at++
  const group = lines.slice(start, at)
  const isCell = ({ text }: Line): boolean => text.trim().split(/\s+/).length <= 4 || /^\s*"?v=/.test(text)
  // Labels between them make them pairs.
  if (group.filter(({ text }) => alone(text) !== undefined).length > 1) return undefined
  const types = group.filter(({ text }) => typeIn(text) !== undefined && text.trim() === text.trim().toUpperCase())
  if (group.length < 3 || group.length > 7 || types.length !== 1 || !group.every(isCell)) return undefined
  const cells = group.map(({ text, number }): Cell => ({ text: text.trim(), line: number }))
  return { candidate: { line: group[0]!.number, last: group.at(-1)!.number, cells }, next: at }
}

const alone = (text: string): Role | undefined =>
  typeIn(text) !== undefined && !/^type$/i.test(text.trim()) ? undefined : roleOf(text.replace(/:\s*$/, ''))

/** The heading of a web table whose cells came out one a line: three labels or more, each alone. */
export function columnAt(all: readonly Line[], start: number): { candidates: Candidate[]; next: number } | undefined {
  const found = columnIn(all, start)
  if (found || all[start + 1]?.text.trim() !== '') return found
  // A page may have left a blank line behind each cell.
  const { lines, at } = withoutBlanks(all)
  const spaced = columnIn(lines, at.get(all[start]!)!)
  return (
    spaced && { ...spaced, next: spaced.next < lines.length ? all.indexOf(lines[spaced.next]!, start) : all.length }
  )
}

interface Unblanked {
  lines: readonly Line[]
  at: ReadonlyMap<Line, number>
}
/** Each text is looked through once, however many of its lines may begin a table. */
const unblanked = new WeakMap<readonly Line[], Unblanked>()

/** The lines of a text that are not blank, and where each is among them. */
function withoutBlanks(all: readonly Line[]): Unblanked {
  const known = unblanked.get(all)
  if (known) return known
  const lines = all.filter(({ text }) => text.trim() !== '')
  const made = { lines, at: new Map(lines.map((line, i) => [line, i])) }
  unblanked.set(all, made)
  return made
}

/** The lines of one row: up to the next type where that is in front, since a page may leave empty cells out. */
function groupOf(lines: readonly Line[], at: number, roles: readonly (Role | undefined)[]): readonly Line[] {
  const isNext = (line: Line, i: number): boolean => {
    const role = roles[i]
    const isNumber = role === 'priority' || role === 'weight' || role === 'port' || role === 'ttl'
    return (
      (roles[0] === 'type' && i > 0 && typeIn(line.text) !== undefined) ||
      (isNumber && /^\p{L}+ \p{L}/u.test(line.text.trim()))
    )
  }
  const group = lines.slice(at, at + roles.length)
  const end = group.findIndex(isNext)
  return end < 0 ? group : group.slice(0, end)
}

function columnIn(lines: readonly Line[], start: number): { candidates: Candidate[]; next: number } | undefined {
  const roles: (Role | undefined)[] = []
  let at = start
  for (; at < lines.length && roles.length < 12; at++) {
    const role = roleOf(lines[at]!.text)
    if (role === undefined || typeIn(lines[at]!.text) !== undefined) break
    roles.push(role)
  }
  if (roles.length < 3 || !roles.includes('type') || !roles.includes('value')) return undefined
  const candidates: Candidate[] = []
  let group: readonly Line[] = []
  for (; at < lines.length; at += group.length) {
    group = groupOf(lines, at, roles)
    // Without a type, what is like a value makes it a row all the same: one that cannot be read.
    const has = (role: Role): string => group[roles.indexOf(role)]?.text ?? ''
    const isBeforeNext = roles[0] === 'type' && typeIn(lines[at + group.length]?.text ?? '') !== undefined
    if (typeIn(has('type')) === undefined && !/\S[.:=]\S/.test(has('value')) && !isBeforeNext) break
    candidates.push({
      line: group[0]!.number,
      last: group.at(-1)!.number,
      cells: roles.map((role, i) => ({
        role,
        text: group[i]?.text.trim() ?? '',
        line: group[i]?.number ?? group[0]!.number,
      })),
    })
  }
  return candidates.length > 0 ? { candidates, next: Math.min(at, lines.length) } : undefined
}
