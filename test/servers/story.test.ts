import { cpSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, run } from '../cli/program.ts'
import { mayskip, named, unbound } from './servers.ts'
import { started } from './started.ts'

const ZONE = 'hollowmere.example'

describe.skipIf(mayskip('named', 'unbound'))('served by named, resolved by Unbound', () => {
  test('what was written is confirmed by both; what differs is named in the right words', async () => {
    const folder = folderWith()
    cpSync('demo/zones/hollowmere.example.zone', join(folder, 'hollowmere.example.zone'))
    const file = join(folder, 'hollowmere.example.zone')
    const write = async (...args: string[]) =>
      expect(await run(folder, 'write', ...args, '--file', 'hollowmere.example.zone')).toMatchObject({
        status: 0,
        stderr: '',
      })
    await write('mx', ZONE, '10 office', '20 mx2.larkpost.example.')
    await write('srv', '_ferrykiosk._tcp', '0 0 8443 kiosk')
    await write('address', 'kiosk', '192.0.2.40', '2001:db8:40::40')
    await write('cname', 'timetable', 'www')
    await write('txt', '@', '--replace', 'v=spf1 mx ~all', `long; ${'text '.repeat(80)}"and" \\quotes`)
    await write('address', '*.piers', '192.0.2.77')

    const server = await started(named({ [ZONE]: file }))
    const resolver = await started(unbound([ZONE], server.port))
    const ask = (...args: string[]) => run(folder, 'confirm', 'hollowmere.example.zone', '--zone', ZONE, ...args)
    const confirmed = await ask('--at', server.at, '--at', resolver.at, '--json')
    const { sets, counts, zone, vantages } = confirmed.json()
    // Names below the new wildcard may be in caches as they were denied before.
    expect([confirmed.status, zone, vantages.length]).toEqual([4, `${ZONE}.`, 2])
    expect(counts).toMatchObject({ confirmed: sets.length - 1, wrong: 0, unreachable: 0, settling: 1 })
    expect(sets.length).toBeGreaterThan(22)
    expect(sets.find((each: any) => each.owner === `*.piers.${ZONE}.`).asked).toMatch(
      /^bramblefront-[0-9a-f]{12}\.piers\./,
    )
    expect(
      sets.every((each: any) =>
        each.answers.every((answer: any) => answer.verdict === 'as-intended' && answer.rcode === 'NOERROR'),
      ),
    ).toBe(true)

    // Behind our back: one address changed, one name gone, one type gone.
    const text = readFileSync(file, 'utf8')
    const other = join(folder, 'other.zone')
    writeFileSync(
      other,
      text
        .replace('192.0.2.31', '192.0.2.99')
        .replace(/^chat .*$/m, 'chat IN TXT "no address any more"')
        .replace(/^timetable .*\n/m, ''),
    )
    const tampered = await started(named({ [ZONE]: other }))
    const wrong = await ask('--at', tampered.at, '--json')
    expect(wrong.status).toBe(1)
    const answers = Object.fromEntries(
      wrong
        .json()
        .sets.filter((each: any) => each.status !== 'confirmed')
        .map((each: any) => [`${each.owner} ${each.type}`, each.answers[0]]),
    )
    expect(answers).toEqual({
      [`calendar.${ZONE}. A`]: expect.objectContaining({
        verdict: 'different',
        missing: ['192.0.2.31'],
        extra: ['192.0.2.99'],
      }),
      [`chat.${ZONE}. A`]: expect.objectContaining({
        verdict: 'absent',
        detail: 'NODATA: the name exists, but has no A records',
      }),
      [`timetable.${ZONE}. CNAME`]: expect.objectContaining({
        verdict: 'absent',
        detail: 'NXDOMAIN',
        rcode: 'NXDOMAIN',
      }),
    })
    expect((await ask('--at', tampered.at)).stdout).toMatch(
      /✗ wrong {2}calendar\.hollowmere\.example\. A\n.*\n {2}✗ different at 127\.0\.0\.1:\d+\n {6}missing: {2}192\.0\.2\.31\n {6}received: 192\.0\.2\.99/,
    )
  })

  test('a server without the zone refuses; with a silent vantage beside a right one the end is 3', async () => {
    const folder = folderWith({ 'lakepass.example.zone': readFileSync('demo/zones/lakepass.example.zone', 'utf8') })
    const right = await started(named({ 'lakepass.example': join(folder, 'lakepass.example.zone') }))
    const gone = await named({ 'lakepass.example': join(folder, 'lakepass.example.zone') })
    await gone.stop()
    const half = await run(
      folder,
      'confirm',
      'lakepass.example.zone',
      '--at',
      right.at,
      '--at',
      gone.at,
      '--timeout',
      '1',
      '--json',
    )
    expect([half.status, half.json().counts]).toMatchObject([3, { confirmed: 0, wrong: 0, unreachable: 2 }])
    expect(half.json().sets[0].answers.map((answer: any) => answer.verdict)).toEqual(['as-intended', 'no-reply'])
    const foreign = await run(
      folder,
      'confirm',
      join(process.cwd(), 'demo/zones/hollowmere.example.zone'),
      '--at',
      right.at,
      '--json',
    )
    expect([foreign.status, new Set(foreign.json().sets.map((each: any) => each.answers[0].verdict))]).toEqual([
      1,
      new Set(['refused']),
    ])
  })

  test('mail that was written is judged the same as intended and as published', async () => {
    const elsewhere = ['larkpost.example', 'quillwing.example']
    const folder = folderWith({ 'bramblefront.yaml': 'zones: [zones/*.zone]\n' })
    const file = join(folder, 'zones', `${ZONE}.zone`)
    cpSync(`demo/zones/${ZONE}.zone`, file)
    for (const zone of elsewhere) cpSync(`demo/elsewhere/${zone}.zone`, join(folder, `${zone}.zone`))
    for (const args of [
      ['mx', ZONE, '10 office', '20 mx2.larkpost.example.'],
      ['spf', ZONE, '--allow', '2001:db8:77::/48'],
      ['dkim', ZONE, '--selector', 'ferry1', '--bits', '4096'],
      ['dkim', ZONE, '--rotate', '--kind', 'ed25519'],
      ['dmarc', ZONE, '--next'],
      ['tls-rpt', ZONE, `tls@${ZONE}`],
    ])
      expect(await run(folder, 'write', ...args)).toMatchObject({ status: 0, stderr: '' })
    const server = await started(
      named({ [ZONE]: file, ...Object.fromEntries(elsewhere.map((zone) => [zone, join(folder, `${zone}.zone`)])) }),
    )
    const resolver = await started(unbound([ZONE, ...elsewhere], server.port))
    // Keys of 4096 bits come whole through both.
    expect(
      (await run(folder, 'confirm', ZONE, '--at', server.at, '--at', resolver.at, '--json')).json().counts,
    ).toMatchObject({ wrong: 0, unreachable: 0 })
    const judged = async (args: string[], ...how: string[]) => {
      const ran = await run(folder, 'sender', ...args, ...how, '--json')
      const { on, address, unknown, ...said } = ran.json()
      return { status: ran.status, ...said }
    }
    for (const [args, status, by] of [
      [
        ['192.0.2.25', '--envelope', `crew@${ZONE}`, '--signed-by', `${ZONE}:ferry1`, '--signed-by', `${ZONE}:ferry2`],
        0,
        ['SPF', 'DKIM'],
      ],
      [['198.51.100.70', '--envelope', `crew@${ZONE}`], 0, ['SPF']],
      [['2001:db8:77::1', '--envelope', `crew@${ZONE}`], 0, ['SPF']],
      [
        [
          '203.0.113.140',
          '--envelope',
          'b@quillwing.example',
          '--from',
          `news@${ZONE}`,
          '--signed-by',
          `${ZONE}:quill`,
        ],
        0,
        ['DKIM'],
      ],
      [['203.0.113.9', '--envelope', `crew@${ZONE}`], 1, []],
      [['203.0.113.9', '--envelope', `crew@gone.${ZONE}`], 1, []],
    ] as const) {
      const intended = await judged([...args], '--at', resolver.at)
      expect([intended.status, intended.passesBy]).toEqual([status, by])
      expect(await judged([...args], '--at', resolver.at, '--as-published')).toEqual(intended)
    }
    const live = await run(folder, 'show', ZONE, '--live', '--at', resolver.at)
    expect(live.stdout).toContain('6 of 10')
  })
})
