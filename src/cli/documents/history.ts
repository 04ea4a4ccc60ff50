import { counts, flag, format, list, type Printed, shape, text, time, whole, word } from './kinds.ts'

const side = shape({ ttl: whole(), records: list(text()) }).nullable()

const entry = shape({
  id: text().nullable(),
  at: time(),
  zone: text(),
  view: text().nullable(),
  what: word(['change', 'edited', 'published', 'confirmation', 'adopted', 'restored']),
  command: text().nullable(),
  serial: shape({ before: whole(), after: whole() }).nullable(),
  sets: list(shape({ owner: text(), type: text(), before: side, after: side })),
  backup: text().nullable(),
  by: word(['seen', 'update', 'file']).nullable(),
  seen: list(shape({ owner: text(), type: text() })),
  counts: counts(),
  vantages: list(text()),
  open: list(
    shape({
      owner: text(),
      type: text(),
      status: text(),
      verdicts: list(shape({ vantage: text(), verdict: text() })),
    }),
  ),
})

/** `history`. `seen` are the sets of `published` that all servers had for the first time. */
export const history = shape({ ...format, entries: list(entry) })
export type HistoryDocument = Printed<typeof history>

/** `history --prune`. */
export const prune = shape({
  ...format,
  removed: flag(),
  backups: list(shape({ zone: text(), path: text(), octets: whole() })),
})
export type PruneDocument = Printed<typeof prune>
