import { flag, format, list, type Printed, shape, text, time, whole } from './kinds.ts'

const set = shape({
  owner: text(),
  type: text(),
  ttl: whole().nullable(),
  held: whole(),
  throughBy: time(),
  changeAt: time(),
  lower: shape({ to: whole(), changeAt: time(), throughBy: time() }).nullable(),
  underWay: shape({
    publishedAt: time().nullable(),
    until: time().nullable(),
    held: whole(),
    removed: flag(),
    notBefore: time().nullable(),
  }).nullable(),
})

export const timing = shape({
  ...format,
  zone: text(),
  at: time(),
  knownSince: time().nullable(),
  transfer: whole(),
  sets: list(set),
})
export type TimingDocument = Printed<typeof timing>
