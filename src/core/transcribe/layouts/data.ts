/** JSON and YAML: objects whose keys are labels. */
import { isMap, isScalar, isSeq, LineCounter, type Node, parseDocument, type YAMLMap } from 'yaml'
import type { Candidate, Cell } from '../candidate.ts'
import { type Role, roleOf } from '../labels.ts'
import type { Line } from '../text.ts'
import { typeIn } from '../values.ts'

/** Deeper is no list of records. */
const DEEPEST = 60

/** What programs call the parts, and people do not. */
const KEYS: Record<string, Role> = { rr: 'type', to: 'value', rrtype: 'type' }

const roleOfKey = (key: string): Role | undefined =>
  KEYS[key.toLowerCase()] ?? roleOf(key.replace(/[_-]+/g, ' ').replace(/([a-z])([A-Z])/g, '$1 $2'))

/** The records of a text that is JSON or YAML, or has some in it; undefined where there are none. */
export function fromData(lines: readonly Line[]): { candidates: Candidate[]; first: number; last: number } | undefined {
  const range = jsonRange(lines) ?? yamlRange(lines)
  if (!range) return undefined
  const [first, last] = range
  let text = lines
    .slice(first, last + 1)
    .map((line) => line.text)
    .join('\n')
  if (nesting(text) > DEEPEST) return undefined
  let shift = 0
  if (/^\s*"[^"]*"\s*:/.test(text)) {
    text = `{${text}}`
    shift = 1
  } else if (/^\s*\{/.test(text)) {
    text = `[${text}]`
    shift = 1
  }
  const counter = new LineCounter()
  const document = parseDocument(text, { lineCounter: counter, uniqueKeys: false, logLevel: 'silent' })
  if (document.errors.length > 0 || !document.contents) return undefined
  const lineAt = (node: Node): number =>
    lines[first]!.number + counter.linePos(Math.max(shift, node.range?.[0] ?? 0)).line - 1
  const candidates: Candidate[] = []
  walk(document.contents, undefined, lineAt, candidates)
  return candidates.length > 0 ? { candidates, first, last } : undefined
}

function jsonRange(lines: readonly Line[]): [number, number] | undefined {
  const first = lines.findIndex(({ text }) => /^\s*(?:[[{]\s*(?:$|["'{[])|"[^"]{1,60}"\s*:\s*[[{])/.test(text))
  if (first < 0) return undefined
  for (let last = lines.length - 1; last >= first; last--)
    if (/[\]}]\s*(?:,\s*)?$/.test(lines[last]!.text)) return [first, last]
  return undefined
}

/** From the key above the first list of labels to the last line that belongs to it. */
function yamlRange(lines: readonly Line[]): [number, number] | undefined {
  const item = (text: string): boolean =>
    (/^\s+([A-Z]{1,6}):(?:\s|$)/.test(text) && typeIn(text.trim().split(':')[0]!) !== undefined) ||
    roleOfKey(/^\s*-\s+["']?(\w[\w -]{0,39}?)["']?\s{0,8}:(?:\s|$)/.exec(text)?.[1] ?? '') !== undefined
  const found = lines.findIndex(({ text }) => item(text))
  if (
    found < 0 ||
    lines.filter(({ text }) => item(text)).length * 8 < lines.filter(({ text }) => text.trim() !== '').length
  )
    return undefined
  let first = found
  while (first > 0 && /^\s*[\w"'@.*-][\w"'@.* -]{0,59}:\s*$/.test(lines[first - 1]!.text)) first--
  let last = found
  for (let i = found; i < lines.length; i++) {
    const { text } = lines[i]!
    if (/^\s*(?:-|[\w"'@.*-]{1,40}\s*:)/.test(text)) last = i
    else if (text.trim() !== '' && !/^\s/.test(text)) break
  }
  return [first, last]
}

function nesting(text: string): number {
  let deepest = 0
  let depth = 0
  for (const sign of text) {
    if (sign === '[' || sign === '{') deepest = Math.max(deepest, ++depth)
    else if (sign === ']' || sign === '}') depth--
  }
  return Math.max(deepest, /^(?:[ \t]*-){60}/m.test(text) ? DEEPEST + 1 : 0)
}

type Lined = (node: Node) => number

function walk(node: unknown, key: string | undefined, lineAt: Lined, found: Candidate[]): void {
  if (isSeq(node)) for (const each of node.items) walk(each, key, lineAt, found)
  else if (isMap(node) && !recordOf(node, key, lineAt, found))
    for (const { key: name, value } of node.items) {
      const type = String(name)
      // A name, below it the types, below them the values.
      if (
        key !== undefined &&
        type === type.toUpperCase() &&
        typeIn(type) !== undefined &&
        (isScalar(value) || isSeq(value))
      )
        for (const each of isSeq(value) ? value.items : [value])
          if (isScalar(each)) found.push(below(key, type, String(each.value ?? ''), lineAt(each as Node)))
      walk(value, type, lineAt, found)
    }
}

const below = (owner: string, type: string, text: string, line: number): Candidate => ({
  line,
  last: line,
  cells: [
    { role: 'type', text: type, line },
    { role: 'owner', text: owner, line },
    { role: 'value', text, line },
  ],
})

/** Takes an object as a record: it says a value, and its type, or stands under one. */
function recordOf(map: YAMLMap, key: string | undefined, lineAt: Lined, found: Candidate[]): boolean {
  const line = lineAt(map)
  const cells: Cell[] = []
  const values: string[] = []
  const take = (of: YAMLMap): void => {
    for (const { key: name, value } of of.items as { key: unknown; value: unknown }[]) {
      const role = roleOfKey(String(name))
      if (isMap(value) && role === 'value') take(value)
      else if (isSeq(value) && role === 'value')
        values.push(...value.items.filter(isScalar).map((each) => String(each.value ?? '')))
      else if (isScalar(value) && role === 'value') values.push(String(value.value ?? ''))
      else if (isScalar(value) && role !== undefined) cells.push({ text: String(value.value ?? ''), line, role })
    }
  }
  take(map)
  const type =
    cells.find(({ role }) => role === 'type') ??
    (typeIn(key ?? '') === undefined ? undefined : { text: key!, line, role: 'type' as const })
  // The name may be the key that all of it stands under.
  if (
    key !== undefined &&
    !cells.some(({ role }) => role === 'owner' || role === 'service') &&
    /^(?:@|\*|(?=.+\..)[\w*.-]+)$/.test(key)
  )
    cells.push({ role: 'owner', text: key, line })
  const isRow = cells.some(({ role }) => role === 'owner' || role === 'service')
  if (!type || values.length === 0 || (typeIn(type.text) === undefined && !isRow)) return false
  for (const text of values)
    found.push({
      line,
      last: line,
      cells: [type, ...cells.filter(({ role }) => role !== 'type'), { text, line, role: 'value' }],
    })
  return true
}
