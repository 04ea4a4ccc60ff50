/** A value, or why the input that it was to be made of cannot be used: the one way in which that is told. Throwing is for bugs. */
export type Result<T> = T | Refused

/** For people, in one sentence: what was given, why it cannot be used, what would be right. */
export interface Refused {
  refused: string
}

export const isRefused = (value: unknown): value is Refused =>
  typeof value === 'object' && value !== null && 'refused' in value
