import { counts, format, list, type Printed, shape, text, whole, word } from './kinds.ts'

/** `rehearse`, once it was ended; the newest questions. */
export const rehearse = shape({
  ...format,
  address: text(),
  port: whole(),
  zones: list(text()),
  forward: text().nullable(),
  reloads: whole(),
  asked: list(
    shape({
      transport: word(['udp', 'tcp']),
      name: text(),
      type: text(),
      by: word(['zones', 'others', 'both', 'nobody']),
      rcode: text(),
      answers: list(text()),
    }),
  ),
  counts: counts(),
})
export type RehearseDocument = Printed<typeof rehearse>
