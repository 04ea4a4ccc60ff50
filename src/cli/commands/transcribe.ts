/** Takes over records that somebody hands over as a text: read, cleaned, joined with what the zone has. */
import { readFileSync } from 'node:fs'
import type { Command } from 'commander'
import type { Zone, Zones } from '../../core/model/zones.ts'
import { isRefused } from '../../core/result.ts'
import { type Instructions, standText, together } from '../../core/transcribe/instructions.ts'
import { readInstructions } from '../../core/transcribe/read.ts'
import { decodeText } from '../../core/transcribe/text.ts'
import { readFileOrTrouble } from '../../workspace/files.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { loadZones, zoneNamed } from '../../workspace/workspace.ts'
import { joinOptions } from '../options.ts'
import { printJson } from '../output/page.ts'
import { transcriptionJson } from '../output/transcription.ts'
import { type JoinOptions, joinAndWrite } from './change/joining.ts'
import { targetOf } from './change/target.ts'
import { waysIn } from './source.ts'

export const define = (command: Command): Command =>
  joinOptions(command.argument('<files...>', 'texts with records, as they were pasted (- for standard input)'))
    .option('--into <zone>', 'the zone that the records are for')
    .addHelpText(
      'after',
      `
The text may be an email, a table, a list, a web page: what states a record is
read, all else is passed over. Records join those in the zone by purpose.

  bramblefront transcribe email.txt --into example.com`,
    )
    .action(transcribe)

interface TranscribeOptions extends JoinOptions {
  into?: string
}

async function transcribe(files: string[], options: TranscribeOptions, command: Command): Promise<void> {
  const { into } = options
  if (into === undefined && options.file === undefined)
    throw new Trouble('say which zone the records are for: bramblefront transcribe FILE --into ZONE')
  const texts = files.map((file) => ({ file, text: textOf(file) }))
  const target = await targetOf(options.file === undefined ? options : { ...options, zone: options.zone ?? into })
  const loaded = loadZones(target.files, options.includeAnywhere)
  const zone = into === undefined ? loaded.zones[0]! : zoneInto(loaded, into)
  await joinAndWrite(
    {
      read: ({ name }, given) =>
        together(texts.map(({ file, text }) => ({ name: file, says: readInstructions(text, name, given) }))),
      asks: ({ line, of, text, name }) => `Line ${standText({ line, of })}: what is ${text} (${name})?`,
      check(found, filled) {
        mustHaveRecords(found, files)
        mustHaveBlanks(found, filled)
      },
      tellJson: ([one]) => printJson(transcriptionJson(one!.told, one!.outcome)),
    },
    target,
    loaded,
    [zone],
    options,
    command,
  )
}

/** The zone that the records are for; where it is none of yours, how it becomes one. */
function zoneInto(zones: Zones, into: string): Zone {
  try {
    return zoneNamed(zones, into)
  } catch (error) {
    throw error instanceof Trouble ? new Trouble(`${error.message}. ${waysIn()}`, error.status) : error
  }
}

function mustHaveRecords(
  { rows, blanks, unread, intents, features, secrets }: Instructions,
  files: readonly string[],
): void {
  if ([rows, blanks, unread, intents, features, secrets].every((each) => each.length === 0))
    throw new Trouble(`${files.join(', ')}: no record was found in it. A record needs a type, a name and a value`)
}

function mustHaveBlanks({ asked }: Instructions, given: readonly string[]): void {
  const unknown = given.find((name) => !asked.has(name))
  if (unknown === undefined) return
  const known = asked.size > 0 ? `; it has: ${[...asked].join(', ')}` : ''
  throw new Trouble(`--fill ${unknown}: the text has no such placeholder${known}`)
}

function textOf(file: string): string {
  const decoded = decodeText(file === '-' ? readFileSync(0) : readFileOrTrouble(file))
  if (isRefused(decoded)) throw new Trouble(`${file === '-' ? 'standard input' : file} ${decoded.refused}`)
  return decoded.text
}
