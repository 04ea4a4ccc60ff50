/** What people read: lines that fit the terminal, colour only where there is one. */

import type { Command } from 'commander'
import { wrapAnsi } from 'fast-wrap-ansi'
import pc from 'picocolors'
import { jsonText, printable } from '../../core/printable.ts'
import { print } from './terminal.ts'

export type Colours = ReturnType<typeof pc.createColors>

export class Page {
  readonly width: number
  readonly colour: Colours
  private readonly lines: string[] = []

  constructor(command?: Command) {
    const wished = command?.optsWithGlobals().color !== false && !process.env.NO_COLOR
    this.colour = pc.createColors(wished && (process.stdout.isTTY === true || process.env.FORCE_COLOR !== undefined))
    this.width = Math.max(60, Math.min(process.stdout.columns ?? (Number(process.env.COLUMNS) || 80), 120))
  }

  /** One line as it is; what came from outside must be `printable` already. */
  line(text = ''): void {
    this.lines.push(text)
  }

  /** A text, from outside or not, broken at blanks to fit, each line behind `indent`; the first behind `first`, which is as wide, where that is given, and painted once it was measured. */
  text(text: string, indent = '', first = indent, paint: (line: string) => string = (line) => line): void {
    const room = Math.max(20, this.width - indent.length)
    const lines = inPieces(printable(text), room).flatMap((piece) =>
      COMMAND.test(piece) ? [piece] : wrapAnsi(piece, room, { hard: false, trim: true }).split('\n'),
    )
    for (const [i, line] of lines.entries())
      this.lines.push(((i === 0 ? first : indent) + (i === 0 ? paint(line) : line)).trimEnd())
  }

  /** The text so far; the page is empty again. */
  taken(): string {
    return this.lines
      .splice(0)
      .map((line) => `${line}\n`)
      .join('')
  }

  /** Writes everything to standard output. */
  print(): void {
    print(this.taken())
  }
}

const COMMAND = /^bramblefront /

/** A text that ends in a command to call, where it does not fit on a line: the command by itself, in one piece, so that it can be copied. */
function inPieces(text: string, room: number): string[] {
  const lastColon = text.lastIndexOf(': ')
  const at = [...text.matchAll(/(?<=[:,] )bramblefront \S/g)].find(({ index }) => lastColon < index)?.index ?? -1
  return at < 0 || text.length <= room ? [text] : [text.slice(0, at), text.slice(at)]
}

/** "1 error", "3 errors". */
export const counted = (count: number, one: string, several = `${one}s`): string =>
  `${count} ${count === 1 ? one : several}`

/** One JSON document on standard output. */
export function printJson(document: object): void {
  print(`${jsonText(document, 2)}\n`)
}
