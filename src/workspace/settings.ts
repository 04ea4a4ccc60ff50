/** Edits of bramblefront.yaml: what is not edited stays as it is, comments and all. */
import { parseDocument, YAMLSeq } from 'yaml'
import { Trouble } from './trouble.ts'

/** The text with one more zone file named in it: by its path from the workspace, or with what else is to be said of it. */
export const withZone = (text: string, entry: Entry): string => withEntry(text, 'zones', entry)

/** The text with a name that an owner follows, in place of another one. */
export function withFollow(text: string, entry: { owner: string; target: string }): string {
  return withEntry(withoutFollow(text, entry.owner), 'follows', entry)
}

/** The text without what an owner follows. */
export function withoutFollow(text: string, owner: string): string {
  const document = parseDocument(text)
  const follows = document.get('follows')
  if (!(follows instanceof YAMLSeq)) return text
  const isIts = (item: unknown): boolean =>
    plainName(String((item as { get?(key: string): unknown }).get?.('owner'))) === plainName(owner)
  const at = follows.items.findIndex(isIts)
  if (at < 0) return text
  const range = (follows.items[at] as { range?: [number, number, number] }).range
  follows.delete(at)
  if (follows.items.length === 0) follows.flow = true
  // Its lines are taken out; only where that leaves something else, all is written anew.
  const start = text.lastIndexOf('\n', range?.[0] ?? 0) + 1
  const end = text.indexOf('\n', text.slice(0, range?.[1] ?? 0).trimEnd().length)
  const cut = text.slice(0, start) + (end < 0 ? '' : text.slice(end + 1))
  const short = follows.items.length === 0 ? cut.replace(/^follows:[ \t]*$/m, 'follows: []') : cut
  const after = parseDocument(short)
  return after.errors.length === 0 && JSON.stringify(after.toJS()) === JSON.stringify(document.toJS())
    ? short
    : document.toString({ lineWidth: 0 })
}

const plainName = (name: string): string => name.toLowerCase().replace(/\.$/, '')

type Entry = string | Record<string, string | boolean>

/** The text with one more entry in a list; where lines can be added, no other one is touched. */
function withEntry(text: string, key: string, entry: Entry): string {
  const written =
    typeof entry === 'string'
      ? quoted(entry)
      : `{${Object.entries(entry)
          .map(([key, value]) => `${key}: ${quoted(value)}`)
          .join(', ')}}`
  const document = parseDocument(text)
  const list = document.get(key)
  const last = list instanceof YAMLSeq ? list.items.at(-1) : undefined
  const range = (last as { range?: [number, number, number] } | undefined)?.range
  let edited: string
  if (list instanceof YAMLSeq && !list.flow && range) {
    // A line like the last one, behind it.
    const start = text.lastIndexOf('\n', range[0]) + 1
    const dash = text.indexOf('-', start)
    const end = text.indexOf('\n', text.slice(0, range[1]).trimEnd().length)
    const at = end < 0 ? text.length : end
    edited = `${text.slice(0, at)}\n${text.slice(start, dash)}- ${written}${text.slice(at)}`
  } else {
    if (list instanceof YAMLSeq) list.add(document.createNode(entry))
    else document.set(key, [entry])
    edited = document.toString({ lineWidth: 0 })
  }
  const [before, after] = [text, edited].map(
    (each) => parseDocument(each).toJS() as Record<string, unknown[] | undefined>,
  )
  const wanted = { ...before, [key]: [...(before?.[key] ?? []), entry] }
  if (JSON.stringify(after) !== JSON.stringify(wanted))
    throw new Trouble(
      `bramblefront.yaml cannot be edited here: add “- ${written}” to its ${key} by hand, and call again`,
    )
  return edited
}

const quoted = (value: string | boolean): string => {
  const text = String(value)
  return /^[\w./-]+$/.test(text) ? text : JSON.stringify(text)
}
