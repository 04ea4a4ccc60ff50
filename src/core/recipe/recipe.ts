/** Recipes: the records of a service, with blanks for what differs from domain to domain. */
import { selectorOf } from '../mail/dkim/key.ts'
import { parseAddress } from '../names/address.ts'
import { toAsciiName } from '../names/idna.ts'
import { labelsOf, type Name, toName } from '../names/name.ts'
import type { Result } from '../result.ts'

export const BLANK_KINDS = ['name', 'address', 'text', 'port', 'selector', 'key', 'number', 'choice'] as const
export type BlankKind = (typeof BLANK_KINDS)[number]

export interface Blank {
  /** What `--fill` calls it. */
  name: string
  /** What it is, for people. */
  what: string
  kind: BlankKind
  default?: string
  example?: string
  /** Of a choice. */
  choices?: readonly string[]
  /** Where it has no value, the records that need it are left out, and nobody is asked. */
  optional?: boolean
}

export interface Recipe {
  label: string
  title: string
  /** When to use it, or what else is to be done; for people. */
  about?: string
  blanks: readonly Blank[]
  /** Lines of a zone file, with `${blank}` where a value goes. */
  records: readonly string[]
}

/** A value that stands in for a blank’s own where only the form of a recipe is looked at. */
export function sampleOf({ kind, default: stated, example, choices }: Blank): string {
  return stated ?? example ?? choices?.[0] ?? SAMPLES[kind]
}

const SAMPLES: Record<BlankKind, string> = {
  name: 'host.example.com',
  address: '192.0.2.1',
  text: 'text',
  port: '443',
  selector: 's1',
  key: 'MCowBQYDK2VwAyEA',
  number: '1',
  choice: '',
}

/** What is asked of a value, by the kind of its blank: the value as it is used, or what is wrong with it. */
export function valueFor({ kind, choices }: Blank, typed: string): Result<string> {
  // A key may have been pasted in several lines.
  // Blanks at the ends of a text are a part of it.
  const value = kind === 'key' ? typed.replace(/\s+/g, '') : kind === 'text' ? typed : typed.trim()
  if (value.trim() === '') return { refused: 'it is empty' }
  if (/[\x00-\x1f\x7f]/.test(value)) return { refused: 'it contains a line break or another control character' }
  return FORMS[kind](value, choices ?? [])
}

const whole = (value: string, most: number): Result<string> =>
  /^\d{1,10}$/.test(value) && Number(value) <= most
    ? String(Number(value))
    : { refused: `“${value}” is not a whole number from 0 to ${most}` }

const FORMS: Record<BlankKind, (value: string, choices: readonly string[]) => Result<string>> = {
  name: (value) => (value === '@' ? value : hostName(value, true)),
  address: (value) => (parseAddress(value) ? value : { refused: `“${value}” is not an IP address` }),
  text: (value) =>
    new TextEncoder().encode(value).length <= 2048 ? value : { refused: 'it is longer than 2048 octets' },
  port: (value) => whole(value, 65_535),
  number: (value) => whole(value, 4_294_967_295),
  selector: (value) => hostName(selectorOf(value), false),
  key: (value) =>
    /^[A-Za-z0-9+/]+={0,2}$/.test(value) && value.replace(/={1,2}$/, '').length % 4 !== 1
      ? value
      : { refused: 'it is not base64, as a public key is' },
  choice: (value, choices) =>
    choices.includes(value) ? value : { refused: `“${value}” is none of ${choices.join(', ')}` },
}

/** A name of letters, digits, hyphens and underscores; of several labels it is absolute. */
function hostName(value: string, isAbsolute: boolean): Result<string> {
  const ascii = toAsciiName(value)
  const name = 'refused' in ascii ? undefined : toName(ascii.name)
  const isPlain = name !== undefined && labelsOf(name).every((label) => /^[\w-]+$/.test(label))
  if ('refused' in ascii || !isPlain) return { refused: `“${value}” is not a valid domain name` }
  const text = ascii.name.replace(/\.$/, '')
  return isAbsolute && text.includes('.') ? `${text}.` : text
}

/** A name that a value stands for: absolute as it is, else below `base`. */
export const absoluteIn = (value: string, base: Name): Name =>
  value === '@' ? base : value.endsWith('.') ? value : `${value}.${base === '.' ? '' : base}`
