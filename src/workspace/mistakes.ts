/** What is wrong with a YAML file, by its description: each mistake with its place in it, in words. */
import { closest, distance } from 'fastest-levenshtein'
import { type Schema, ValidationError } from 'yup'
import type { Path } from './yaml-text.ts'

/** Words for messages: the keys that are known at each path (without numbers), and what stands right at some. */
export interface Words {
  keys: Record<string, string[]>
  examples: Record<string, string>
}

export interface Mistake {
  path: Path
  says: string
}

/** What is wrong with a value, and where in it. Strictly: a cast would drop unknown keys without a word. */
export function mistakesIn(described: Schema, value: unknown, above: Path, words: Words): Mistake[] {
  try {
    described.validateSync(value, { strict: true, abortEarly: false })
    return []
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error
    const all = error.inner.length > 0 ? error.inner : [error]
    return all.flatMap((each) => {
      const path = [...above, ...keysOf(each.path ?? '')]
      return each.type === 'noUnknown'
        ? unknownKeys(path, partOf(value, keysOf(each.path ?? '')), words)
        : [{ path, says: wording(each, path, words) }]
    })
  }
}

const keysOf = (path: string): (string | number)[] =>
  path
    .split(/[.[\]"]+/)
    .filter(Boolean)
    .map((key) => (/^\d+$/.test(key) ? Number(key) : key))

const partOf = (value: unknown, path: Path): Record<string, unknown> =>
  path.reduce((here, key) => (here as Record<string | number, unknown>)?.[key], value) as Record<string, unknown>

const pathText = (path: Path): string =>
  path.reduce<string>(
    (text, key) => (typeof key === 'number' ? `${text}[${key}]` : text === '' ? key : `${text}.${key}`),
    '',
  )

function unknownKeys(path: Path, here: Record<string, unknown>, { keys }: Words): Mistake[] {
  const known = keys[path.filter((key) => typeof key === 'string').join('.')] ?? []
  return Object.keys(here)
    .filter((key) => !known.includes(key))
    .map((key) => {
      const meant = nearest(key, known)
      return {
        path: [...path, key],
        says: `unknown key “${key}”; ${meant ? `did you mean “${meant}”?` : `known keys: ${known.join(', ')}`}`,
      }
    })
}

const TYPES: Record<string, string> = {
  string: 'a text',
  number: 'a number',
  boolean: 'true or false',
  object: 'an entry with keys',
  array: 'a list',
}

function wording({ type, message, params }: ValidationError, path: Path, { examples }: Words): string {
  const where = pathText(path) || 'the file'
  const { min, max, values } = (params ?? {}) as Record<string, unknown>
  const stated = params as { type?: string; originalValue?: unknown } | undefined
  switch (type) {
    case 'typeError': {
      const example = path.length < 2 ? examples[path[0] ?? ''] : undefined
      // A number, or yes and no, which YAML takes as such without quotes.
      if (stated?.type === 'string' && /^(?:number|boolean)$/.test(typeof stated.originalValue))
        return `${where} must be a text: write it in quotes`
      return `${where} must be ${TYPES[stated?.type ?? ''] ?? 'another thing'}${example === undefined ? '' : `, as in: ${example}`}`
    }
    case 'optionality':
    case 'nullable':
    case 'required':
      return `${where} is missing`
    case 'oneOf':
      return `${where} must be ${String(values)}`.replace(/, ([^,]*)$/, ' or $1')
    case 'min':
      return `${where} must be at least ${min}`
    case 'max':
      return `${where} must be at most ${max}`
    case 'integer':
      return `${where} must be a whole number`
    default:
      return message.replace(/^this /, `${where} `).replace(/^\S+ must/, `${where} must`)
  }
}

/** The known word that was probably meant, or undefined. */
function nearest(word: string, words: string[]): string | undefined {
  const meant = closest(word, words)
  return distance(word, meant) <= 3 ? meant : undefined
}
