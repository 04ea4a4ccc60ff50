/** `publish` as files in a folder; and what it refuses before anything is sent. */
import { chmodSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, type Ran, runWith } from './program.ts'
import { atTerminal } from './terminal.ts'

const ZONE = 'hollowmere.example'
const FILE = `zones/${ZONE}.zone`
const LINES = `${HEAD}www A 198.18.0.1\n`

/** A workspace with a delivery as files; with more in its entry, or in bramblefront.yaml. */
function workspace(entry = '', more = ''): string {
  const folder = folderWith({
    [FILE]: LINES,
    'bramblefront.yaml': `zones: [zones/*.zone]\ndeliveries:\n  - {label: office, zones: ["*"], by: file, folder: delivered${entry}}\n${more}`,
  })
  mkdirSync(join(folder, 'delivered'))
  return folder
}
const call = (folder: string, ...args: string[]): Promise<Ran> =>
  runWith(folder, { XDG_STATE_HOME: join(folder, 'state') }, ...args)
const publish = (folder: string, ...args: string[]): Promise<Ran> =>
  call(folder, 'publish', ZONE, '--json', '--force', ...args)
const delivered = (folder: string): string => readFileSync(join(folder, 'delivered', `${ZONE}.zone`), 'utf8')

describe('as a file', () => {
  test('it is written whole, once, and with a later serial; others’ edits are not overwritten unseen', async () => {
    const folder = workspace()
    expect([(await publish(folder)).status, existsSync(join(folder, `delivered/${ZONE}.zone`))]).toEqual([1, false])
    expect((await publish(folder, '--yes')).status).toBe(0)
    expect(delivered(folder)).toBe(LINES)
    expect((await publish(folder, '--yes')).json()).toMatchObject({ written: false, sent: [] })

    await call(folder, 'write', 'address', 'www', '198.18.0.2', '--force')
    expect((await publish(folder, '--yes')).json()).toMatchObject({
      written: true,
      readBack: true,
      sent: [{ type: 'A' }],
    })
    expect(delivered(folder)).toBe(readFileSync(join(folder, FILE), 'utf8'))

    writeFileSync(join(folder, `delivered/${ZONE}.zone`), `${delivered(folder)}theirs A 198.18.0.9\n`)
    await call(folder, 'write', 'address', 'www', '198.18.0.3', '--force')
    const refused = await publish(folder, '--yes')
    expect([refused.status, refused.json().refused.why]).toEqual([
      1,
      expect.stringContaining('changed by somebody else'),
    ])
    expect(delivered(folder)).toContain('theirs')
    expect((await publish(folder, '--yes', '--overwrite')).status).toBe(0)
    expect(delivered(folder)).not.toContain('theirs')
  })

  test('a file that is there with a later serial is followed by one that is later still', async () => {
    const folder = workspace()
    writeFileSync(join(folder, `delivered/${ZONE}.zone`), LINES.replace('2026010101', '2032010105'))
    await call(folder, 'write', 'address', 'www', '198.18.0.2', '--force')
    const ran = await publish(folder, '--yes')
    expect([ran.status, ran.json().serial]).toEqual([0, { before: 2032010105, after: 2032010106 }])
    expect(delivered(folder)).toContain('2032010106')
    expect(readFileSync(join(folder, FILE), 'utf8')).toBe(delivered(folder))
  })

  test('once something was published, a serial that was forgotten is an error', async () => {
    const folder = workspace()
    await publish(folder, '--yes')
    const check = async (): Promise<string[]> =>
      (await call(folder, 'check', '--only', 'soa/serial-not-advanced', '--json'))
        .json()
        .findings.map(({ rule }: any) => rule)
    expect(await check()).toEqual([])
    writeFileSync(join(folder, FILE), `${LINES}new A 198.18.0.5\n`)
    expect(await check()).toEqual(['soa/serial-not-advanced'])
    writeFileSync(join(folder, FILE), `${LINES}new A 198.18.0.5\n`.replace('2026010101', '2026010102'))
    expect(await check()).toEqual([])
  })

  test('two deliveries of a zone: each goes by what it delivered itself', async () => {
    const folder = workspace('', '  - {label: other, zones: ["*"], by: file, folder: elsewhere}\n')
    mkdirSync(join(folder, 'elsewhere'))
    const written = async (...args: string[]): Promise<boolean[]> =>
      (await publish(folder, '--yes', ...args)).json().deliveries?.map((each: any) => each.written)
    expect(await written()).toEqual([true, true])
    await call(folder, 'write', 'address', 'www', '198.18.0.2', '--force')
    expect(await written()).toEqual([true, true])
    await call(folder, 'write', 'address', 'www', '198.18.0.3', '--force')
    expect((await publish(folder, '--yes', '--to', 'other')).status).toBe(0)
    expect(await written()).toEqual([true, false])
    expect(readFileSync(join(folder, `elsewhere/${ZONE}.zone`), 'utf8')).toBe(delivered(folder))
  })

  test('files that it includes go with it', async () => {
    const folder = workspace()
    writeFileSync(join(folder, FILE), `${HEAD}$INCLUDE parts/hosts\n`)
    mkdirSync(join(folder, 'zones/parts'))
    writeFileSync(join(folder, 'zones/parts/hosts'), 'www A 198.18.0.1\n')
    expect((await publish(folder, '--yes')).status).toBe(0)
    expect(readFileSync(join(folder, 'delivered/parts/hosts'), 'utf8')).toBe('www A 198.18.0.1\n')
  })
})

describe('the command afterwards', () => {
  const script = (folder: string, text: string): void => {
    writeFileSync(join(folder, 'reload'), `#!/bin/sh\n${text}\n`)
    chmodSync(join(folder, 'reload'), 0o755)
  }

  /** Somebody agrees to it at a terminal. */
  async function agree(folder: string) {
    process.env.XDG_STATE_HOME = join(folder, 'state')
    const agreed = await atTerminal(folder, ['publish', ZONE, '--force', '--yes'], ['yes'])
    delete process.env.XDG_STATE_HOME
    return agreed
  }

  test('runs once a person agreed to it at this machine, and not when it is another', async () => {
    const folder = workspace(', after: [./reload, "a b"]')
    script(folder, 'echo "$1|$2" >> told')
    const never = await publish(folder, '--yes')
    expect([never.status, never.json().refused.why]).toEqual([
      1,
      expect.stringContaining('not confirmed on this machine'),
    ])
    expect(existsSync(join(folder, `delivered/${ZONE}.zone`))).toBe(false)
    const agreed = await agree(folder)
    expect(agreed.shown).toContain('./reload a b PATH')
    expect(readFileSync(join(folder, 'told'), 'utf8')).toBe(`a b|${join(folder, `delivered/${ZONE}.zone`)}\n`)
    await call(folder, 'write', 'address', 'www', '198.18.0.2', '--force')
    expect((await publish(folder, '--yes')).json().after).toEqual({ status: 0, said: '' })
    const config = readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')
    writeFileSync(join(folder, 'bramblefront.yaml'), config.replace('"a b"', '"c"'))
    await call(folder, 'write', 'address', 'www', '198.18.0.3', '--force')
    expect((await publish(folder, '--yes')).json().refused.why).toContain('not confirmed on this machine')

    // What was agreed to is what the program in the workspace was, not what it became.
    writeFileSync(join(folder, 'bramblefront.yaml'), config)
    script(folder, 'echo no >&2; exit 7')
    expect((await publish(folder, '--yes')).json().refused.why).toContain('not confirmed on this machine')
    await agree(folder)
    const failed = await publish(folder, '--yes')
    expect([failed.status, failed.json().after]).toEqual([1, { status: 7, said: 'no' }])
    // It is run again, and in words, too, it is said what came of it.
    const again = await call(folder, 'publish', ZONE, '--force', '--yes')
    expect([again.status, again.stdout]).toEqual([1, expect.stringMatching(/failed \(status 7\)[\s\S]*no/)])
    script(folder, 'true')
    await agree(folder)
    expect((await call(folder, 'publish', ZONE, '--force', '--yes')).stdout).toContain('Nothing to publish')
  })
})

describe('nothing is sent', () => {
  const update = (label: string): string =>
    `  - {label: ${label}, zones: ["hollow*"], by: update, address: 127.0.0.1, port: 9, key: keys/no.key}\n`
  test.each<[string, string, string, string[], RegExp, number?]>([
    ['to a delivery that is none', '', '', ['--to', 'ofice'], /no such delivery; did you mean office/],
    ['to a folder that is missing', '', '', ['--to', 'gone'], /does not exist/],
    ['by two updates', '', update('one') + update('two'), [], /several deliveries update .* \(one, two\)/],
    ['with a key that is not there', '', update('one'), ['--to', 'one'], /cannot read .*no\.key/],
    [
      'for a zone that it is not for',
      '',
      update('one').replace('hollow*', 'other*'),
      ['--to', 'one'],
      /not for hollowmere/,
    ],
    ['of a name alone, as a file', '', '', ['--only', 'www'], /--only is for deliveries by update/],
  ])('%s', async (_what, entry, more, args, says) => {
    const folder = workspace(entry, more)
    if (args[1] === 'gone')
      writeFileSync(
        join(folder, 'bramblefront.yaml'),
        'zones: [zones/*.zone]\ndeliveries:\n  - {label: gone, zones: ["*"], by: file, folder: nowhere}\n',
      )
    const ran = await publish(folder, '--yes', ...args)
    expect([ran.status, ran.stdout]).toEqual([2, ''])
    expect(ran.stderr).toMatch(says)
  })

  test('of several zones, one with errors and one at a web form keep none from being published', async () => {
    const folder = workspace()
    const other = (name: string, lines: string): void =>
      writeFileSync(join(folder, `zones/${name}.example.zone`), LINES + lines)
    other('bad', 'www CNAME mail\n')
    other('form', '')
    const config = join(folder, 'bramblefront.yaml')
    const form = '{zone: form.example, file: zones/form.example.zone, sheet: short}'
    writeFileSync(config, readFileSync(config, 'utf8').replace('zones: [', `zones: [${form}, `))
    const ran = await call(folder, 'publish', '--yes', '--json')
    const told = ran
      .json()
      .deliveries.map(({ zone, written, refused }: any) => [zone, written, refused?.why.slice(0, 22)])
    expect([ran.status, told.sort()]).toEqual([
      1,
      [
        ['bad.example.', false, 'bad.example has 1 error'.slice(0, 22)],
        [`${ZONE}.`, true, undefined],
      ],
    ])
    expect(delivered(folder)).toBe(LINES)
    expect((await call(folder, 'publish', '--yes')).stdout).toContain('bramblefront sheet form.example --changes')
  })

  test('while the intended data has errors; of a zone at a web form', async () => {
    const folder = workspace()
    writeFileSync(join(folder, FILE), `${LINES}www CNAME mail\n`)
    const ran = await call(folder, 'publish', ZONE, '--yes')
    expect([ran.status, ran.stderr]).toEqual([1, expect.stringContaining('cname/other-data')])
    const config = readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')
    writeFileSync(
      join(folder, 'bramblefront.yaml'),
      config.replace('zones/*.zone', `{zone: ${ZONE}, file: ${FILE}, sheet: short}`),
    )
    expect((await publish(folder, '--yes')).stderr).toContain(`bramblefront sheet ${ZONE} --changes`)
  })
})

describe('what a folder must not get', () => {
  test('two zones whose files have one name; a file there that somebody else put', async () => {
    const folder = workspace()
    mkdirSync(join(folder, 'zones/other'))
    writeFileSync(join(folder, `zones/other/${ZONE}.zone`), `$ORIGIN other.example.\n${LINES}`)
    const config = join(folder, 'bramblefront.yaml')
    const entry = `{zone: other.example, file: zones/other/${ZONE}.zone}`
    writeFileSync(config, readFileSync(config, 'utf8').replace('zones: [', `zones: [${entry}, `))
    for (const args of [['publish', ZONE], ['publish']]) {
      const ran = await call(folder, ...args, '--yes', '--force')
      expect([ran.status, ran.stderr]).toEqual([2, expect.stringMatching(/other\.example.* would both be /)])
    }
    expect(existsSync(join(folder, `delivered/${ZONE}.zone`))).toBe(false)

    const one = workspace()
    writeFileSync(join(one, FILE), `${HEAD}$INCLUDE hosts\n`)
    writeFileSync(join(one, 'zones/hosts'), 'www A 198.18.0.1\n')
    writeFileSync(join(one, 'delivered/hosts'), 'not ours\n')
    const refused = await publish(one, '--yes')
    expect([refused.status, refused.json().refused.why]).toEqual([1, expect.stringContaining('did not put it there')])
    expect(readFileSync(join(one, 'delivered/hosts'), 'utf8')).toBe('not ours\n')
    expect((await publish(one, '--yes', '--overwrite')).status).toBe(0)
    // Of an included file, too, it is known what was delivered.
    writeFileSync(join(one, 'delivered/hosts'), 'www A 198.18.0.9\n')
    writeFileSync(join(one, 'zones/hosts'), 'www A 198.18.0.2\n')
    expect((await publish(one, '--yes')).json().refused.why).toContain('hosts was changed by somebody else')
    writeFileSync(join(one, 'delivered/hosts'), 'www A 198.18.0.1\n')
    expect((await publish(one, '--yes')).status).toBe(0)
  })

  test.each<[string, string, string, boolean]>([
    ['a view, without one', 'view: inside', '', false],
    ['a view, for another', 'view: inside', 'view: outside', false],
    ['a view, for it', 'view: inside', 'view: inside', true],
    ['a private zone, to whoever asks', 'audience: private', '', false],
    ['a private zone, to a public place', 'audience: private', 'audience: public', false],
    ['a private zone, to a private place', 'audience: private', 'audience: private', true],
    ['a private view, for that view', 'audience: private, view: inside', 'view: inside', true],
    [
      'a private view, for that view in public',
      'audience: private, view: inside',
      'view: inside, audience: public',
      false,
    ],
    ['a public zone, to a private place', 'audience: public', 'audience: private', true],
    ['a zone of all views, for one', '', 'view: inside', true],
  ])('%s', async (_what, zone, delivery, may) => {
    const folder = workspace(delivery === '' ? '' : `, ${delivery}`)
    const config = join(folder, 'bramblefront.yaml')
    const entry = `{zone: ${ZONE}, file: ${FILE}${zone === '' ? '' : `, ${zone}`}}`
    writeFileSync(config, readFileSync(config, 'utf8').replace('zones/*.zone', entry))
    const ran = await call(folder, 'publish', '--yes', '--json', '--force', '--overwrite')
    expect([ran.status === 0, existsSync(join(folder, `delivered/${ZONE}.zone`))]).toEqual([may, may])
  })

  test.each([
    ['view: inside', /is the view “inside”.*“view: inside”/],
    ['audience: private', /is private.*“audience: private”/],
  ])('without a delivery of its own: %s', async (entry, says) => {
    const folder = folderWith({
      [FILE]: LINES,
      'bramblefront.yaml': `zones: [{zone: ${ZONE}, file: ${FILE}, ${entry}}]\n`,
    })
    const ran = await publish(folder, '--yes')
    expect([ran.status, ran.stderr]).toEqual([2, expect.stringMatching(says)])
  })

  test('a zone that is not known whole, unless that is wanted', async () => {
    const folder = workspace()
    const config = join(folder, 'bramblefront.yaml')
    writeFileSync(config, readFileSync(config, 'utf8').replace('zones/*.zone', `{file: ${FILE}, complete: false}`))
    writeFileSync(join(folder, `delivered/${ZONE}.zone`), `${LINES}unseen A 198.18.0.7\n`)
    const ran = await call(folder, 'publish', ZONE, '--json', '--yes', '--overwrite')
    expect([ran.status, ran.json().refused.why]).toEqual([1, expect.stringMatching(/would lose .*unseen\.hollow/)])
    expect((await publish(folder, '--yes', '--overwrite')).status).toBe(0)
  })
})

test('a damaged record of what was published is no reason to guess: nothing of the zone goes, and the others do', async () => {
  const folder = workspace()
  writeFileSync(join(folder, 'zones/other.example.zone'), LINES)
  expect((await call(folder, 'publish', '--yes', '--force')).status).toBe(0)
  const base = join(folder, `bases/office/${ZONE}.base`)
  const whole = readFileSync(base, 'utf8')
  for (const text of ['', whole.replace('{', ''), `${whole}www A 192.0.2\n`]) {
    writeFileSync(base, text)
    const ran = await publish(folder, '--yes')
    expect([ran.status, ran.stderr]).toEqual([2, expect.stringMatching(/is damaged.*remove the file/)])
    const all = (await call(folder, 'publish', '--yes', '--force', '--json')).json().deliveries
    expect(all.map(({ refused }: any) => refused === null)).toEqual([false, true])
  }
  writeFileSync(base, whole)
  expect((await publish(folder, '--yes')).status).toBe(0)
})

describe('one command afterwards', () => {
  test('is run once for all zones of a delivery, with their paths', async () => {
    const folder = workspace(', after: [./reload]')
    for (const name of ['a', 'b']) writeFileSync(join(folder, `zones/${name}.example.zone`), LINES)
    writeFileSync(join(folder, 'reload'), '#!/bin/sh\necho "$@" >> told\n', { mode: 0o755 })
    process.env.XDG_STATE_HOME = join(folder, 'state')
    const { status, shown } = await atTerminal(folder, ['publish', '--force', '--yes'], ['yes'])
    delete process.env.XDG_STATE_HOME
    expect([status, shown]).toEqual([0, expect.stringMatching(/3 deliveries of 3 zones: 3 published/)])
    const told = readFileSync(join(folder, 'told'), 'utf8').trim().split('\n')
    const paths = ['a.example', 'b.example', ZONE].map((name) => join(folder, `delivered/${name}.zone`))
    expect(told.map((line) => line.split(' ').sort())).toEqual([paths])
    // Nothing is to be done: it is not run.
    await call(folder, 'publish', '--force', '--yes')
    expect(readFileSync(join(folder, 'told'), 'utf8').trim().split('\n')).toHaveLength(1)
  })

  test.each(['./missing', 'no-such-program-anywhere'])(
    '%s is not there: nothing is delivered, at once',
    async (name) => {
      const folder = workspace(`, after: [${name}]`)
      const started = performance.now()
      const ran = await publish(folder, '--yes')
      expect([ran.status, ran.json().refused.why]).toEqual([1, expect.stringMatching(/cannot be run afterwards/)])
      expect(performance.now() - started).toBeLessThan(10_000)
      expect(existsSync(join(folder, `delivered/${ZONE}.zone`))).toBe(false)
    },
  )

  test('a dry run shows it', async () => {
    const folder = workspace(', after: [/bin/true, word]')
    expect((await call(folder, 'publish', ZONE, '--force', '--dry-run')).stdout).toContain(
      'Afterwards: /bin/true word PATH',
    )
  })
})

test('where only a comment differs, the files are delivered, and it is said that they were not yet', async () => {
  const folder = workspace()
  await publish(folder, '--yes')
  writeFileSync(join(folder, FILE), `; by hand\n${LINES}`)
  const dry = await call(folder, 'publish', ZONE, '--force', '--dry-run')
  expect([dry.status, dry.stdout]).toEqual([0, expect.stringMatching(/record sets are the same[\s\S]*Dry run/)])
  const open = await call(folder, 'publish', ZONE, '--force')
  expect([open.status, open.stdout]).toEqual([1, expect.stringContaining('--yes')])
  const done = await call(folder, 'publish', ZONE, '--force', '--yes')
  expect([done.status, done.stdout]).toEqual([0, expect.stringContaining('Published')])
  expect(delivered(folder)).toContain('; by hand')
  expect((await call(folder, 'publish', ZONE, '--force', '--yes')).stdout).toContain('Nothing to publish')
})

test('diff with a folder that is delivered to: of each zone its own file, whatever that is called', async () => {
  const folder = workspace()
  const config = join(folder, 'bramblefront.yaml')
  // The name of this file is that of another zone.
  const entry = '{zone: lakepass.example, file: zones/rail.example.zone}'
  writeFileSync(config, readFileSync(config, 'utf8').replace('zones: [', `zones: [${entry}, `))
  writeFileSync(join(folder, 'zones/rail.example.zone'), LINES)
  expect((await call(folder, 'publish', '--yes', '--force')).status).toBe(0)
  writeFileSync(join(folder, 'delivered/rail.example.zone'), `${LINES}theirs A 198.18.0.9\n`)
  const ran = await call(folder, 'diff', '--with', 'office', '--json')
  const found = ran.json().zones.map(({ zone, sets }: any) => [zone, sets.map(({ owner }: any) => owner)])
  expect(found.sort()).toEqual([
    [`${ZONE}.`, []],
    ['lakepass.example.', ['theirs.lakepass.example.']],
  ])
})
