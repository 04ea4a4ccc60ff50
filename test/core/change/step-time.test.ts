/** When a key may be revoked: by what the log says of the one that came after it. */
import { expect, test } from 'vitest'
import { tooEarlyToRevoke } from '../../../src/core/change/mail/step-time.ts'

const DOMAIN = 'hollowmere.example.'
const NOW = Date.parse('2026-12-10T12:00:00Z') / 1000
const at = (day: string): string => `2026-12-${day}:00:00.000Z`
const owner = (selector: string): string => `${selector}._domainkey.${DOMAIN}`
const added = (day: string, selector: string): object => ({
  at: at(day),
  zone: DOMAIN,
  what: 'change',
  digest: 'd',
  backup: null,
  serial: null,
  file: 'z',
  sets: [{ owner: owner(selector), type: 'TXT', before: null, after: { ttl: 3600, records: ['"v=DKIM1; p=AA=="'] } }],
})
const published = (day: string, selector: string): object => ({
  at: at(day),
  zone: DOMAIN,
  what: 'published',
  sets: [[owner(selector), 'TXT', 'd']],
})

test.each([
  ['nothing is known', [], false],
  ['it is the only one', [added('01T00', 'one')], false],
  ['its successor was never seen at the servers', [added('01T00', 'one'), added('02T00', 'two')], true],
  ['its successor is there for a week', [added('02T00', 'two'), published('03T12', 'two')], false],
  ['its successor is there for less', [added('02T00', 'two'), published('03T13', 'two')], true],
  ['what was seen is another one', [added('02T00', 'two'), published('03T12', 'one')], true],
  ['a later one came', [added('01T00', 'two'), published('02T00', 'two'), added('09T00', 'three')], true],
])('%s', (_what, lines, isEarly) => {
  expect(tooEarlyToRevoke(lines, owner('one'), DOMAIN, NOW) !== undefined).toBe(isEarly)
})
