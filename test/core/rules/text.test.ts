/** What is remembered of texts is what was made of the very same text. */
import fc from 'fast-check'
import { expect, test } from 'vitest'
import { joined } from '../../../src/core/records/views.ts'
import { TextMemory } from '../../../src/core/rules/text.ts'
import { keepTogether } from '../../../src/index.ts'

test('texts that differ in one octet, wherever that is, are kept apart; equal ones are made once', () => {
  fc.assert(
    fc.property(fc.stringMatching(/^[a-z0-9=:. -]{1,80}$/), fc.nat(), (text, place) => {
      const at = place % text.length
      const lines = Array.from(
        { length: 26 },
        (_, i) => `t TXT "${text.slice(0, at)}${String.fromCharCode(97 + i)}${text.slice(at + 1)}"`,
      )
      const zones = keepTogether([
        { input: `$TTL 60\n${lines.join('\n')}\n${lines.join('\n')}\n`, zone: 'hollowmere.example' },
      ])
      let made = 0
      const memory = new TextMemory((each) => {
        made++
        return each
      })
      for (let record = 0; record < zones.count; record++)
        expect(memory.of(zones, record)).toBe(joined(zones.rdata(record)))
      expect(made).toBeLessThanOrEqual(52)
      // Two places for each text: nearly all of so few are still known.
      for (let record = 0; record < zones.count; record++) memory.of(zones, record)
      expect(made).toBeLessThan(60)
    }),
  )
})
