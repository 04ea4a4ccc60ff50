/** Descriptions of data (Yup) as JSON Schemas (draft 2020-12): of bramblefront.yaml, and of what commands print. */
import type { AnyObject, Schema, SchemaDescription } from 'yup'

/** What a description says beyond its type. */
interface Meta {
  /** For people. */
  says?: string
  /** What else holds of the whole. */
  anyOf?: object[]
  /** Of a value that is one of several kinds: these. */
  either?: (Schema | object)[]
  /** Of an object with keys of any name: what each of them holds. */
  each?: Schema
}

interface Described extends SchemaDescription {
  fields?: Record<string, Described>
  innerType?: Described
}

export const asJsonSchema = (schema: Schema<unknown, AnyObject>): Record<string, unknown> =>
  described(schema.describe() as Described)

const isSchema = (each: Schema | object): each is Schema => 'describe' in each

function described({
  meta,
  type,
  oneOf,
  tests,
  fields,
  innerType,
  nullable,
  default: standard,
}: Described): Record<string, unknown> {
  const { says, anyOf, either, each } = (meta ?? {}) as Meta
  const made: Record<string, unknown> = {
    ...(says === undefined ? {} : { description: says }),
    ...(anyOf && { anyOf }),
  }
  if (either) return { ...made, anyOf: either.map((one) => (isSchema(one) ? asJsonSchema(one) : one)) }
  if (type === 'mixed') return made
  const name = type === 'number' && tests.some((test) => test.name === 'integer') ? 'integer' : type
  made.type = nullable ? [name, 'null'] : name
  const words = oneOf.filter((word) => word !== null)
  if (words.length > 0) made.enum = nullable ? [...words, null] : words
  for (const { name, params } of tests) {
    if (name === 'min' && type === 'number') made.minimum = params?.min
    if (name === 'max' && type === 'number') made.maximum = params?.max
  }
  if (standard !== undefined && type !== 'array' && type !== 'object') made.default = standard
  if (innerType) made.items = described(innerType)
  if (each) return { ...made, additionalProperties: asJsonSchema(each) }
  if (fields) {
    made.properties = Object.fromEntries(Object.entries(fields).map(([key, field]) => [key, described(field)]))
    made.required = Object.entries(fields)
      .filter(([, field]) => !field.optional && field.default === undefined)
      .map(([key]) => key)
    made.additionalProperties = false
  }
  return made
}
