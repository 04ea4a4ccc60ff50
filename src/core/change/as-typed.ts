/** Values of records as people type and paste them: unquoted, with signs of a word processor, as a whole line of a zone file. What was understood otherwise than it stands is said. */
import { trimmedLines } from '../lines.ts'
import { addressText, parseAddress } from '../names/address.ts'
import { reverseName } from '../names/reverse.ts'
import { rowOf, TYPE, typeText } from '../records/types.ts'
import type { Result } from '../result.ts'

export interface AsTyped {
  values: string[]
  /** What was understood otherwise than it was typed. */
  notes: string[]
}

/** An owner as typed: an address is the name that it is asked under for its host’s name. */
export function ownerAsTyped(typed: string): string {
  const address = parseAddress(typed)
  return address ? reverseName(address) : typed
}

/** The values for a type: `call` is how the command is called up to them, for what would be right. */
export function valuesAsTyped(type: number, typed: readonly string[], call: string): Result<AsTyped> {
  const notes: string[] = []
  const clean = typed.map((value) => cleaned(type, value, notes))
  const blank = clean.findIndex((value) => value.trim() === '')
  if (blank >= 0) return { refused: `an empty value for ${typeText(type)}: give the value, or leave it out` }
  const values = grouped(type, clean)
  for (const value of values) {
    const right = reordered(type, value)
    if (right) return { refused: `${typeText(type)} ${value}: ${right.why}; right: ${call} ${right.value}` }
  }
  return { values, notes }
}

const QUOTES = /[“”„‟«»]/g
const SPACES = /[\u00a0\u2000-\u200a\u202f\u3000]/g
const INVISIBLE = /[\u00ad\u200b-\u200d\u2060\ufeff]/g

function cleaned(type: number, typed: string, notes: string[]): string {
  let value = typed
  const say = (cleaner: string, what: string): void => {
    if (cleaner !== value && !notes.includes(what)) notes.push(what)
    value = cleaner
  }
  say(value.replace(QUOTES, '"'), 'Typographic quotes were read as plain ones.')
  say(
    value.replace(SPACES, ' ').replace(INVISIBLE, ''),
    'Special and invisible spaces were read as plain ones, or left out.',
  )
  // Base64 that was wrapped goes on without a blank; all else has one where the line ended.
  const joint = /p=[A-Za-z0-9+/\s]*\n/.test(value) ? '' : ' '
  say(trimmedLines(value).join(joint), 'Line breaks in the value were removed.')
  const line = dataOfLine(type, value)
  if (line !== undefined) say(line, `The value was a whole record line; only its ${typeText(type)} data was used.`)
  return value
}

/** The data of a line that has owner, TTL, class and type in front of it; undefined where it has none. */
function dataOfLine(type: number, value: string): string | undefined {
  const match = new RegExp(`^(?:\\S+\\s+)?(?:\\d+[smhdw]?\\s+)?(?:IN\\s+)?${typeText(type)}\\s+(.+)$`, 'is').exec(value)
  if (!match) return undefined
  // A text may have the word in it: there only a quote behind it tells a line.
  return rowOf(type)?.fields[0]?.kind.isText && !match[1]!.startsWith('"') ? undefined : match[1]
}

/** Values typed without quotes, as many as the type has fields: joined again. */
function grouped(type: number, values: readonly string[]): string[] {
  const fields = rowOf(type)?.fields.length ?? 0
  const apart = values.length > 1 && values.every((value) => !/\s/.test(value))
  // Too few for one value: what is missing is said of all of them together.
  if (apart && values.length < fields && (type === TYPE.MX || type === TYPE.SRV)) return [values.join(' ')]
  if (fields < 2 || !apart || values.length % fields !== 0) return [...values]
  return Array.from({ length: values.length / fields }, (_, i) => values.slice(i * fields, (i + 1) * fields).join(' '))
}

const isNumber = (text: string): boolean => /^\d+$/.test(text)

/** MX and SRV in another order, or with the port at the target: what is wrong, and the value as it should be. */
function reordered(type: number, value: string): { why: string; value: string } | undefined {
  if (type !== TYPE.MX && type !== TYPE.SRV) return undefined
  const tokens = value.split(/\s+/)
  const numbers = tokens.filter(isNumber)
  const names = tokens.filter((token) => !isNumber(token))
  const wanted = type === TYPE.MX ? 1 : 3
  const order = type === TYPE.MX ? 'PREFERENCE HOST' : 'PRIORITY WEIGHT PORT TARGET'
  const [name, ...more] = names
  if (name === undefined || more.length > 0) return undefined
  const port = /^([^:[\]]+):(\d+)$/.exec(name)
  if (type === TYPE.SRV && port && numbers.length <= 3)
    return {
      why: 'the port goes in front of the target',
      value: [...(numbers.length >= 2 ? numbers.slice(0, 2) : [numbers[0] ?? '0', '1']), port[2], port[1]].join(' '),
    }
  if (numbers.length === wanted && tokens.at(-1) !== name)
    return { why: `the order is ${order}`, value: [...numbers, name].join(' ') }
  if (type === TYPE.MX && numbers.length === 0) return { why: 'the preference is missing', value: `10 ${name}` }
  return undefined
}

/** What is wrong with something that looks like an address. */
export function addressFault(text: string): string | undefined {
  const port = /^(\d+\.\d+\.\d+\.\d+|\[[0-9a-f:.]+\]):(\d+)$/i.exec(text)
  if (port) return `it has a port, and an address record holds only the address: ${port[1]!.replace(/[[\]]/g, '')}`
  const parts = /^\d+(?:\.\d+)*$/.test(text) ? text.split('.') : []
  if (parts.length === 0) return undefined
  if (parts.length !== 4) return `an IPv4 address has four numbers, not ${parts.length}`
  const over = parts.find((part) => Number(part) > 255)
  if (over) return `${over} is over 255`
  const zero = parts.find((part) => /^0\d/.test(part))
  return zero === undefined
    ? undefined
    : `${zero} has a leading zero, which some programs read as octal: ${addressText(Uint8Array.from(parts, Number))}`
}
