/** A catalog zone that publishing keeps in step, as servers read it (RFC 9432). */
import { readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, describe, expect, test } from 'vitest'
import { freePort } from '../../src/serve/free-port.ts'
import { folderWith, HEAD, run } from '../cli/program.ts'
import { resolverAt } from '../cli/rehearsal.ts'
import { catalogConsumer, mayskip, updatableZones } from './servers.ts'

const open: { stop(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.stop()
})

const CATALOG = 'catalog.upland-dns.example'
const EMPTY = '$TTL 0\n@ SOA invalid. invalid. 1 3600 600 2147483646 0\n@ NS invalid.\nversion TXT "2"\n'
const ZONES = ['hollowmere.example', 'lakepass.example'] as const

describe.skipIf(mayskip('named', 'knotd'))('zones that come and go', () => {
  test.each(['named', 'knotd'] as const)(
    '%s serves what the catalog lists',
    async (program) => {
      const port = await freePort()
      const texts = Object.fromEntries(ZONES.map((zone) => [zone, `${HEAD}www A 192.0.2.1\n`]))
      const primary = await updatableZones({ ...texts, [CATALOG]: EMPTY }, port)
      open.push(primary)
      const consumer = await catalogConsumer(program, CATALOG, primary.port, port)
      open.push(consumer)
      const folder = folderWith({ [`zones/${ZONES[0]}.zone`]: texts[ZONES[0]]! })
      writeFileSync(
        join(folder, 'bramblefront.yaml'),
        `zones: [zones/*.zone]\ndeliveries:\n  - {label: upland, zones: ["*"], by: update, address: 127.0.0.1, port: ${primary.port}, catalog: ${CATALOG}}\n`,
      )
      const publish = async (...args: string[]) => run(folder, 'publish', '--force', '--yes', '--json', ...args)
      const ask = resolverAt(consumer.port)
      const serves = (zone: string): Promise<boolean> =>
        ask.resolve4(`www.${zone}`).then(
          () => true,
          () => false,
        )

      // Without --yes nothing is made; with it, the catalog is made in the workspace, and lists the zone.
      expect((await run(folder, 'publish', '--force', '--json')).status).toBe(1)
      const first = await publish()
      expect([first.status, first.json().deliveries.map(({ zone }: any) => zone)]).toEqual([
        0,
        [`${ZONES[0]}.`, `${CATALOG}.`],
      ])
      await expect.poll(() => serves(ZONES[0]), { timeout: 30_000 }).toBe(true)
      expect((await run(folder, 'check', CATALOG)).status).toBe(0)
      expect((await publish()).json().deliveries.every(({ sent }: any) => sent.length === 0)).toBe(true)

      // A zone that comes is listed by the call that publishes it; its label stays what it is.
      writeFileSync(join(folder, `zones/${ZONES[1]}.zone`), texts[ZONES[1]]!)
      const label = /^(\S+)\.zones .*PTR/m.exec(readFileSync(join(folder, `zones/${CATALOG}.zone`), 'utf8'))![1]
      const second = await publish(ZONES[1])
      expect(second.status).toBe(0)
      await expect.poll(() => serves(ZONES[1]), { timeout: 30_000 }).toBe(true)
      expect(readFileSync(join(folder, `zones/${CATALOG}.zone`), 'utf8')).toContain(`${label}.zones`)

      // One that is not here any more is dropped only where that is said; and not where it may be one that nobody can name.
      const isListed = (): boolean => readFileSync(join(folder, `zones/${CATALOG}.zone`), 'utf8').includes(ZONES[1])
      renameSync(join(folder, `zones/${ZONES[1]}.zone`), join(folder, 'zones/lakepass.zone'))
      for (const args of [[], ['--remove-extra']]) {
        const kept = await publish(...args)
        expect(kept.stderr).toMatch(/left out/)
        expect(kept.stderr).toMatch(/lists 1 zone .*lakepass\.example.* stay listed/)
        expect(isListed()).toBe(true)
      }
      rmSync(join(folder, 'zones/lakepass.zone'))
      expect([(await publish()).status, isListed()]).toEqual([0, true])

      // One that goes is not served any more.
      expect((await publish('--remove-extra')).status).toBe(0)
      await expect.poll(() => serves(ZONES[1]), { timeout: 30_000 }).toBe(false)
      expect(await serves(ZONES[0])).toBe(true)
    },
    120_000,
  )

  const WRONG = {
    'another version': 'version TXT "3"\na.zones PTR hollowmere.example.\n',
    'two versions': 'version TXT "2"\nversion TXT "3"\na.zones PTR hollowmere.example.\n',
    'two zones under a label': 'version TXT "2"\na.zones PTR hollowmere.example.\na.zones PTR lakepass.example.\n',
    'a zone under two labels': 'version TXT "2"\na.zones PTR hollowmere.example.\nb.zones PTR hollowmere.example.\n',
  }
  /** What they take all the same, or a part of it. */
  const TAKEN = ['knotd two versions', 'knotd a zone under two labels', 'named a zone under two labels']
  const all = (['named', 'knotd'] as const).flatMap((program) =>
    Object.keys(WRONG).map((what) => [program, what as keyof typeof WRONG] as const),
  )
  test.each(all)('%s, and a catalog that the check objects to: %s', async (program, what) => {
    const port = await freePort()
    const text = EMPTY.replace('version TXT "2"\n', WRONG[what])
    const primary = await updatableZones({ [ZONES[0]]: `${HEAD}www A 192.0.2.1\n`, [CATALOG]: text })
    open.push(primary)
    const consumer = await catalogConsumer(program, CATALOG, primary.port, port)
    open.push(consumer)
    const file = folderWith({ 'c.zone': `$ORIGIN ${CATALOG}.\n${text}` })
    const { findings } = (await run(file, 'check', 'c.zone', '--json')).json()
    expect(findings.map(({ rule }: any) => rule)).toEqual([expect.stringMatching(/^catalog\//)])
    const isTaken = TAKEN.includes(`${program} ${what}`)
    const read = isTaken
      ? /added from catalog|adding zone .* success/
      : /catz: .*(version|error|invalid|already|fail)|failed to process catalog/i
    await expect.poll(() => consumer.said(), { timeout: 20_000 }).toMatch(read)
    const answer = () =>
      resolverAt(consumer.port)
        .resolve4(`www.${ZONES[0]}`)
        .catch(() => [])
    if (isTaken) await expect.poll(answer, { timeout: 20_000 }).toEqual(['192.0.2.1'])
    else expect(await answer()).toEqual([])
  })
})
