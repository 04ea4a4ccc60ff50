import { STATUSES } from '../../core/confirm/status.ts'
import { counts, flag, format, list, type Printed, shape, text, time, whole, word } from './kinds.ts'

const soa = shape({
  primary: text(),
  serial: whole(),
  refresh: whole(),
  retry: whole(),
  expire: whole(),
  minimum: whole(),
})

const vantage = shape({
  label: text(),
  address: text(),
  port: whole(),
  transport: text().optional(),
  name: text().optional(),
  path: text().optional(),
  method: text().optional(),
  server: text().optional(),
  role: text(),
})

const zone = shape({
  zone: text(),
  intended: shape({ soa: soa.optional(), ns: list(text()), nsTtl: whole() }),
  servers: list(
    shape({
      vantage: text(),
      server: text().optional(),
      soa: soa.optional(),
      ns: list(text()).optional(),
      nsTtl: whole().optional(),
      signed: shape({ from: time(), until: time() }).optional(),
    }),
  ),
  own: list(
    shape({
      type: text(),
      status: word(STATUSES),
      says: text(),
      answers: list(shape({ vantage: text(), verdict: text(), rcode: text().nullable(), detail: text() })),
    }),
  ),
  parents: list(shape({ vantage: text(), ns: list(text()), nsTtl: whole() })),
  unfound: list(text()),
  unread: list(
    shape({
      file: text(),
      line: whole(),
      column: whole(),
      text: text(),
      why: text(),
      owner: text().nullable(),
      type: text().nullable(),
    }),
  ),
  remarks: list(shape({ what: text(), wrong: flag(), text: text() })),
  unknownTargets: list(text()),
})

const answer = shape({
  vantage: text(),
  role: text(),
  verdict: text(),
  ttl: whole().nullable(),
  missing: list(text()),
  extra: list(text()),
  rcode: text().nullable(),
  chain: list(text()),
  errors: list(shape({ code: whole(), text: text() })),
  transport: text(),
  ms: whole(),
  at: time(),
  detail: text(),
  notes: list(text()),
  bogus: flag().optional(),
  noName: flag().optional(),
})

const set = shape({
  zone: text().optional(),
  owner: text(),
  type: text(),
  asked: text().optional(),
  removed: flag().optional(),
  status: word(STATUSES),
  until: time().nullable(),
  atMost: flag(),
  says: text(),
  answers: list(answer),
  causes: list(shape({ kind: text(), text: text(), evidence: text(), fix: text() })),
})

export const confirm = shape({
  ...format,
  zone: text().nullable(),
  at: time(),
  vantages: list(vantage),
  samples: whole(),
  zones: list(zone),
  sets: list(set),
  nowhere: list(shape({ owner: text(), type: text(), target: text(), why: text() })),
  left: list(shape({ owner: text(), type: text(), why: text() })),
  counts: counts(),
  zoneCounts: counts(),
})
export type ConfirmDocument = Printed<typeof confirm>
