/** Edits of bramblefront.yaml: what is not edited stays as it is, comments and all. */
import { parseDocument, YAMLSeq } from 'yaml'
import { Trouble } from './trouble.ts'

/** The text with one more zone file named in it: by its path from the workspace, or with what else is to be said of it. */
export function withZone(text: string, entry: string | Record<string, string | boolean>): string {
  const written =
    typeof entry === 'string'
      ? quoted(entry)
      : `{${Object.entries(entry)
          .map(([key, value]) => `${key}: ${quoted(value)}`)
          .join(', ')}}`
  const document = parseDocument(text)
  const zones = document.get('zones')
  const last = zones instanceof YAMLSeq ? zones.items.at(-1) : undefined
  const range = (last as { range?: [number, number, number] } | undefined)?.range
  let edited: string
  if (zones instanceof YAMLSeq && !zones.flow && range) {
    // A line like the last one, behind it.
    const start = text.lastIndexOf('\n', range[0]) + 1
    const dash = text.indexOf('-', start)
    const end = text.indexOf('\n', text.slice(0, range[1]).trimEnd().length)
    const at = end < 0 ? text.length : end
    edited = `${text.slice(0, at)}\n${text.slice(start, dash)}- ${written}${text.slice(at)}`
  } else {
    if (zones instanceof YAMLSeq) zones.add(document.createNode(entry))
    else document.set('zones', [entry])
    edited = document.toString({ lineWidth: 0 })
  }
  const [before, after] = [text, edited].map((each) => parseDocument(each).toJS() as { zones?: unknown[] })
  const wanted = { ...before, zones: [...(before?.zones ?? []), entry] }
  if (JSON.stringify(after) !== JSON.stringify(wanted))
    throw new Trouble(
      `bramblefront.yaml cannot be edited here: add “- ${written}” to its zones by hand, and call again`,
    )
  return edited
}

const quoted = (value: string | boolean): string => {
  const text = String(value)
  return /^[\w./-]+$/.test(text) ? text : JSON.stringify(text)
}
