import { flag, format, list, type Printed, shape, text, whole } from './kinds.ts'

const step = shape({
  depth: whole(),
  domain: text(),
  term: text(),
  outcome: text(),
  why: text(),
  lookups: whole(),
})

export const sender = shape({
  ...format,
  address: text(),
  envelope: text(),
  helo: text(),
  from: text(),
  on: text(),
  spf: shape({
    domain: text().nullable(),
    result: text(),
    aligned: flag(),
    explanation: text().nullable(),
    lookups: whole(),
    voidLookups: whole(),
    voidQuestions: whole(),
    trace: list(step),
  }),
  signatures: list(
    shape({ domain: text(), selector: text().nullable(), aligned: flag(), key: text(), why: text().nullable() }),
  ),
  dmarc: shape({
    at: text().nullable(),
    record: text().nullable(),
    organization: text(),
    policy: text().nullable(),
    tag: text().nullable(),
    percent: whole().nullable(),
    testing: flag(),
    suffixList: text(),
    treeWalk: shape({ at: text().nullable(), organization: text() }).nullable(),
  }),
  passesBy: list(text()),
  disposition: text(),
  passes: flag(),
  unknown: list(text()),
})
export type SenderDocument = Printed<typeof sender>
