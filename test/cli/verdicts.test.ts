/** What may be called confirmed, and what may not, as people call it. */
import { readFileSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { HEAD, run } from './program.ts'
import { world, ZONE } from './world.ts'

const logOf = (folder: string): any[] =>
  readFileSync(join(folder, 'log.jsonl'), 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))

describe('what could not be read is not confirmed', () => {
  test.each([
    ['an address that is none', 'ftp A 192.0.2.300\n', `ftp.${ZONE}.`],
    ['a file that is not there', '$INCLUDE hosts.inc\n', null],
    ['an entry in error', 'mail MX mail\n', `mail.${ZONE}.`],
  ])('%s', async (_what, line, owner) => {
    const { folder, file, published } = await world('www A 192.0.2.10\n')
    writeFileSync(file, readFileSync(file, 'utf8') + line)
    published()
    const { status, stdout } = await run(folder, 'confirm')
    expect([status, stdout]).toEqual([1, expect.stringContaining('✗ not read  1 entry')])
    const document = (await run(folder, 'confirm', '--json')).json()
    expect(document.zones[0].unread).toMatchObject([{ text: line.trim(), owner }])
  })

  test('looks alike and is not: what stands outside the zone', async () => {
    const { folder, file } = await world('www A 192.0.2.10\n')
    writeFileSync(file, `${readFileSync(file, 'utf8')}www.lakepass.example. A 192.0.2.1\n`)
    expect((await run(folder, 'confirm', '--json')).json().zones[0].unread).toEqual([])
  })
})

describe('what is confirmed must lead somewhere', () => {
  const LINES =
    'shop CNAME gone.registry.example.\nlark1._domainkey CNAME keys.registry.example.\nwww CNAME ns.registry.example.\n'
  test('confirm says which sets lead nowhere; check --live has a rule for each', async () => {
    const { folder } = await world(LINES)
    const { status, stdout } = await run(folder, 'confirm')
    expect([status, stdout]).toEqual([1, expect.stringContaining('2 targets outside your zones lead nowhere')])
    expect((await run(folder, 'confirm', '--json')).json().nowhere.map((each: any) => each.owner)).toEqual([
      `shop.${ZONE}.`,
      `lark1._domainkey.${ZONE}.`,
    ])
    const { findings } = (await run(folder, 'check', '--live', '--only', 'live', '--json')).json()
    expect(findings.map(({ rule, owner }: any) => [rule, owner])).toEqual([
      ['live/target-missing', `shop.${ZONE}.`],
      ['live/key-missing', `lark1._domainkey.${ZONE}.`],
    ])
  })

  test('a top whose target outside has other addresses now is seen by check --live, and by no check that asks nobody', async () => {
    const { folder } = await world('@ A 192.0.2.77\n')
    const config = join(folder, 'bramblefront.yaml')
    writeFileSync(
      config,
      `${readFileSync(config, 'utf8')}\nfollows:\n  - {owner: ${ZONE}, target: ns.registry.example}\n`,
    )
    const rules = async (...live: string[]): Promise<string[]> =>
      (await run(folder, 'check', ...live, '--only', 'zones', '--json')).json().findings.map((each: any) => each.rule)
    expect([await rules(), await rules('--live')]).toEqual([[], ['zones/follow-drift']])
  })

  test('a domain is free to register only by the word of the zone above', async () => {
    const { folder, network } = await world('shop CNAME shops.larkpost.example.\n')
    const rules = async (): Promise<string[]> =>
      (await run(folder, 'check', '--live', '--only', 'live', '--json')).json().findings.map((each: any) => each.rule)
    expect(await rules()).toEqual(['live/target-unclaimed'])
    network.ails('192.0.2.3', { rcode: 3, errors: [{ code: 15, text: 'blocked' }] })
    expect(await rules()).toEqual([])
    network.ails('192.0.2.3', { silent: true })
    const silent = await run(folder, 'check', '--live', '--timeout', '1')
    expect([silent.status, silent.stderr]).toEqual([3, expect.stringContaining('nobody who was asked replied')])
  })
})

describe('what is remembered', () => {
  test('whoever asks all servers notes what they have, however they were named; who asks one does not', async () => {
    const { folder, port } = await world('www A 192.0.2.10\n')
    const at = (...addresses: string[]): string[] => addresses.flatMap((each) => ['--at', `127.0.0.1:${port(each)}`])
    expect((await run(folder, 'confirm', ...at('198.51.100.53'))).status).toBe(0)
    expect(logOf(folder).map(({ what }) => what)).toEqual(['confirmation'])
    expect((await run(folder, 'confirm', ...at('198.51.100.53', '203.0.113.53'))).status).toBe(0)
    expect(logOf(folder).map(({ what }) => what)).toEqual(['confirmation', 'published', 'confirmation'])
  })

  test('a log that cannot be written is a warning', async () => {
    const { folder } = await world('www A 192.0.2.10\n')
    symlinkSync(join(folder, 'nowhere', 'log.jsonl'), join(folder, 'log.jsonl'))
    expect(await run(folder, 'confirm')).toMatchObject({
      status: 0,
      stdout: expect.stringContaining('confirmed by all 3'),
      stderr: expect.stringContaining('not remembered'),
    })
  })

  test('a change written by a command is known as a state, without a confirmation and without a copy of it', async () => {
    const { folder, file, published, asks, load } = await world('www 600 A 192.0.2.10\n')
    await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
    published()
    await asks('www', 1)
    writeFileSync(
      file,
      readFileSync(file, 'utf8')
        .replace('192.0.2.11', '192.0.2.12')
        .replace(/(SOA.* )(\d{10})/, '$12030010101'),
    )
    for (const each of ['198.51.100.53', '203.0.113.53']) load(each)
    const { status, stdout } = await run(folder, 'confirm')
    expect([status, stdout]).toEqual([4, expect.stringContaining('earlier-answer at lake')])
  })
})

test('a zone that is kept at a host with a web form has no serial of its own', async () => {
  const { folder, load } = await world('www A 192.0.2.10\n')
  const yaml = join(folder, 'bramblefront.yaml')
  const hosted = `${HEAD.replace('2026010101', '7')}www A 192.0.2.10\n`
  for (const each of ['198.51.100.53', '203.0.113.53']) load(each, hosted)
  const whats = async (): Promise<string[]> =>
    (await run(folder, 'confirm', '--json')).json().zones[0].remarks.map((each: any) => each.what)
  expect(await whats()).toEqual(['not-published'])
  writeFileSync(
    yaml,
    `${readFileSync(yaml, 'utf8').replace('zones: [zones/*.zone]', `zones: [{zone: ${ZONE}, file: zones/${ZONE}.zone, sheet: upland}]`)}sheets:\n  - {label: upland}\n`,
  )
  expect(await whats()).toEqual([])
})
