/** The demo as somebody has it who has just installed the program: at a terminal, where its commands could ask, and nobody answers. */
import { expect, test } from 'vitest'
import { folderWith } from './program.ts'
import { atTerminal } from './terminal.ts'

test('comes to its end at a terminal, in the open, and its numbers agree', async () => {
  const { status, shown } = await atTerminal(folderWith(), ['demo'], [])
  expect([status, shown.includes('End of the demo')]).toEqual([0, true])
  // The e-mail is seen before what becomes of it.
  expect(shown.indexOf('Subject: Your freight notices')).toBeGreaterThan(0)
  expect(shown.indexOf('Subject: Your freight notices')).toBeLessThan(shown.indexOf('$ bramblefront transcribe'))
  // Each zone comes in by a command.
  for (const zone of [
    'hollowmere.example',
    'hollowmere-freight.example',
    'lakepass.example',
    'hollowmere-rail.example',
  ])
    expect(shown).toMatch(new RegExp(`\\$ bramblefront adopt [^\n]*${zone.replaceAll('.', '\\.')}`))
  // What was first found in the zone that is taken over is what is found when it is looked at.
  const [, first] = /bramblefront adopt hollowmere-rail[\s\S]*?First check: (\d+) errors/.exec(shown) ?? []
  const [, then] = /hollowmere-rail\.example and below: (\d+) errors/.exec(shown) ?? []
  expect([first, then]).toEqual([expect.any(String), first])
}, 240_000)
