/** The formats for programs and name servers. A command says what it has to render; what people read is its own. */
import { Trouble } from '../../workspace/trouble.ts'
import { stream } from '../output/stream.ts'
import type { FindingsView, Format, SetsView } from './format.ts'

type Kind = keyof Format

const FORMATS: Record<string, { renders: readonly Kind[]; load: () => Promise<{ FORMAT: Format }> }> = {
  json: { renders: ['findings', 'sets'], load: () => import('./json.ts') },
  csv: { renders: ['findings', 'sets'], load: () => import('./csv.ts') },
  sarif: { renders: ['findings'], load: () => import('./sarif.ts') },
  zone: { renders: ['sets'], load: () => import('./zone.ts') },
  canonical: { renders: ['sets'], load: () => import('./canonical.ts') },
  generic: { renders: ['sets'], load: () => import('./generic.ts') },
}

/** The names of the formats of a kind; `text` is what people read. */
export const formatsOf = (kind: Kind): string[] => [
  'text',
  ...Object.keys(FORMATS).filter((name) => FORMATS[name]!.renders.includes(kind)),
]

/** What a call asks for: `text`, unless it says otherwise. */
export function formatOf(options: { format?: string; json?: boolean }, kind: Kind): string {
  const word = options.format ?? (options.json ? 'json' : 'text')
  const names = formatsOf(kind)
  if (!names.includes(word)) throw new Trouble(`--format ${word}: must be ${names.join(', ')}`)
  return word
}

export async function printFindings(format: string, view: FindingsView): Promise<void> {
  const { FORMAT } = await FORMATS[format]!.load()
  await stream(FORMAT.findings!(view))
}

export async function printSets(format: string, view: SetsView): Promise<void> {
  const { FORMAT } = await FORMATS[format]!.load()
  await stream(FORMAT.sets!(view))
}
