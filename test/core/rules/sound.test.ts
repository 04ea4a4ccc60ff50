/** Zones that are as they should be, each by itself: of none of them is anything said that is more than advice. */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { readZone } from '../../../src/core/file/reader.ts'
import { Zones } from '../../../src/core/model/zones.ts'
import { check } from '../../../src/core/rules/engine.ts'

const FOLDER = 'test/fixtures/domains'
const FILES = readdirSync(FOLDER)
/** For the inside alone, as bramblefront.yaml says of it. */
const PRIVATE = 'corp.oakhaven.example.zone'

test.each(FILES)('%s', async (file) => {
  const zones = new Zones()
  const zone = zones.addZone(file.replace(/zone$/, ''), file, { audience: file === PRIVATE ? 'private' : undefined })
  readZone(zones, zones.addSource(zone, file, readFileSync(join(FOLDER, file))))
  zones.seal()
  const { findings } = await check(zones, { now: new Date('2026-11-28T08:00:00Z') })
  expect(findings.filter(({ severity }) => severity !== 'advice')).toEqual([])
})

test('there are enough of them', () => expect(FILES.length).toBeGreaterThanOrEqual(25))
