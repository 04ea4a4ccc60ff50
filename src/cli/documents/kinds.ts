/** What documents are made of. Each command’s JSON is declared once: its type, its JSON Schema (docs/schemas) and its test come of that. */
import {
  type AnySchema,
  array,
  boolean,
  type InferType,
  type ISchema,
  mixed,
  number,
  type ObjectShape,
  object,
  string,
} from 'yup'

/** The type of a document, as what is printed has it. */
export type Printed<S extends AnySchema> = Fixed<InferType<S>>

type Fixed<T> = T extends readonly (infer Each)[]
  ? readonly Fixed<Each>[]
  : T extends object
    ? { readonly [Key in keyof T]: Fixed<T[Key]> }
    : T

export const text = () => string().defined()
export const whole = () => number().integer().defined()
export const flag = () => boolean().defined()
/** A time in UTC, as in 2026-11-23T08:00:00.000Z. */
export const time = () => string().defined().meta({ says: 'UTC, ISO 8601' })
export const word = <Words extends readonly string[]>(words: Words) => string().oneOf(words).defined()
export const shape = <Fields extends ObjectShape>(fields: Fields) => object(fields).noUnknown().defined()
export const list = <T>(each: ISchema<T>) => array(each).defined()
/** Counts, by words. */
export const counts = () =>
  mixed<Record<string, number>>()
    .defined()
    .meta({ either: [{ type: 'object', additionalProperties: { type: 'integer' } }] })

/** What every document begins with. */
export const format = { format: number().integer().oneOf([1]).defined() }
