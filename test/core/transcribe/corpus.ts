/** Pasted texts with what they say (corpus/README.md): read, and put to what was expected. */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { foldName, isAtOrBelow } from '../../../src/core/names/name.ts'
import { parseRdata, rdataText } from '../../../src/core/records/rdata.ts'
import { parseType, TYPE, typeText } from '../../../src/core/records/types.ts'
import { joined } from '../../../src/core/records/views.ts'
import type { Instructions } from '../../../src/core/transcribe/instructions.ts'
import { readInstructions } from '../../../src/core/transcribe/read.ts'
import { decodeText } from '../../../src/core/transcribe/text.ts'

const FOLDER = join(import.meta.dirname, 'corpus')

export interface Sample {
  name: string
  octets: Uint8Array
  zone: string
  expected: string[]
}

export const samples = (part: 'open' | 'held' | 'later'): Sample[] =>
  readdirSync(join(FOLDER, part))
    .filter((file) => file.endsWith('.txt'))
    .map((file) => {
      const [into, ...expected] = readFileSync(join(FOLDER, part, file.replace('.txt', '.expected')), 'utf8')
        .trim()
        .split('\n')
      const zone = `${into!.replace('into ', '')}.`
      return {
        name: file.slice(0, -4),
        octets: readFileSync(join(FOLDER, part, file)),
        zone,
        expected: expected.map((line) => fully(line, zone)),
      }
    })

/** Owners in full, data as it is printed, texts as the one string that verifiers read. */
function fully(line: string, zone: string): string {
  const words = line.split(' ')
  const owner = (text: string): string => (text === '@' ? zone : text.endsWith('.') ? text : `${text}.${zone}`)
  if (words[0] === 'open') return `open ${words[1]} ${owner(words[2]!)}`
  if (words[0] !== 'row') return line
  const [, at, name, ttl, typeWord, kind, ...value] = words
  const type = parseType(typeWord!)!
  const parsed = parseRdata(type, value.join(' '), new Uint8Array([0]))
  const data =
    type === TYPE.TXT
      ? JSON.stringify(value.join(' ').slice(1, -1))
      : 'wire' in parsed
        ? rdataText(type, parsed.wire)
        : value.join(' ')
  return `row ${at} ${owner(name!)} ${ttl} ${typeWord} ${kind} ${data}`
}

/** What is read of a sample, as expectations are written. */
export function readOf({ octets, zone }: Sample): string[] {
  const decoded = decodeText(octets)
  if (!('text' in decoded)) return ['exit 2']
  const found = readInstructions(decoded.text, zone)
  const lines = [
    ...found.rows.map(({ line, owner, ttl, type, kind, data, value }) => {
      const text = type === TYPE.TXT ? JSON.stringify(joined(data)) : value
      return `row ${line} ${foldName(owner)} ${ttl ?? '-'} ${typeText(type)} ${kind} ${text}`
    }),
    ...found.blanks.map(({ line, name }) => `blank ${line} ${name}`),
    ...found.unread.map(({ line }) => `unread ${line}`),
    ...new Set(found.notes.map(({ line }) => `note ${line}`)),
    ...[...new Set(openAbout(found, zone))].map((about) => `open ${about}`),
  ]
  return lines.length === 0 ? ['exit 2'] : lines
}

/** What stays open whatever the zone holds: damage, records of other domains, what the words around ask for, two targets of one alias. */
function openAbout({ rows, intents, features, secrets }: Instructions, zone: string): string[] {
  const targets = (owner: string) => rows.filter((row) => row.type === TYPE.CNAME && row.owner === owner).length
  return [
    ...[
      ...rows.filter(
        (row) =>
          row.damage !== undefined ||
          !isAtOrBelow(row.owner, zone) ||
          (row.type === TYPE.CNAME && targets(row.owner) > 1),
      ),
      ...secrets,
      ...intents,
    ].map(({ owner, type }) => `${typeText(type)} ${owner}`),
    ...features.map(({ owner, feature }) => `${feature} ${owner}`),
  ]
}
