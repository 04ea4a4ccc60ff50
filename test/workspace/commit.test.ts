import {
  appendFileSync,
  chmodSync,
  existsSync,
  linkSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { commit, type Place, type Writes } from '../../src/workspace/commit.ts'
import { finishJournal, journalFile, stampOf, Unfinished, writeJournal } from '../../src/workspace/journal.ts'
import { lock } from '../../src/workspace/lock.ts'
import { folderWith } from '../cli/program.ts'

const octets = (text: string): Uint8Array => new TextEncoder().encode(text)
const NOW = new Date('2026-11-23T08:00:00Z')
const bare = (file: string, folder: string): Place => ({ root: file, backups: folder, logged: false })
const workspace = (folder: string): Place => ({ root: folder, backups: folder, logged: true })
/** A zone whose own file becomes `next`, as it was read just now. */
const writing = (file: string, next: (text: string) => string, before = readFileSync(file)): Writes => ({
  zones: [
    {
      zone: 'a.example.',
      files: [{ file, before, octets: octets(next(before.toString())) }],
      entry: {
        what: 'change',
        file: 'a.zone',
        serial: null,
        sets: [],
        findings: { added: [], gone: [] },
        digest: '1',
      },
    },
  ],
  beside: [],
  command: 'test',
  now: NOW,
})
const never = (): Promise<undefined> => Promise.reject(new Error('it was changed'))

describe('a file, its copy, and who writes beside', () => {
  test('one after the other, each of what is there then', async () => {
    const folder = folderWith({ 'a.zone': 'one' })
    const file = join(folder, 'a.zone')
    const append = () =>
      commit(
        bare(file, folder),
        writing(file, (text) => `${text}-x`, Buffer.from('one')),
        async () => writing(file, (text) => `${text}-x`),
      )
    await Promise.all([append(), append(), append()])
    expect(readFileSync(file, 'utf8')).toBe('one-x-x-x')
    const copies = readdirSync(join(folder, 'backups/a.example')).sort()
    expect(copies.map((copy) => readFileSync(join(folder, 'backups/a.example', copy), 'utf8')).sort()).toEqual([
      'one',
      'one-x',
      'one-x-x',
    ])
    expect(readdirSync(folder).sort()).toEqual(['a.zone', 'backups'])
  })

  test.each([
    ['a small file', 10],
    ['a large one, kept by another name for it', 2_000_000],
  ])('%s: its copy stays as it was, whoever writes into the file afterwards, with its mode', async (_what, size) => {
    const before = 'x'.repeat(size)
    const folder = folderWith({ 'a.zone': before })
    const file = join(folder, 'a.zone')
    chmodSync(file, 0o640)
    const { backups } = (await commit(
      bare(file, folder),
      writing(file, () => 'after'),
      never,
    ))!
    appendFileSync(file, ' and more')
    expect(readFileSync(backups[0]!, 'utf8') === before).toBe(true)
    expect([readFileSync(file, 'utf8'), statSync(file).mode & 0o777, statSync(backups[0]!).mode & 0o777]).toEqual([
      'after and more',
      0o640,
      0o640,
    ])
  })

  test('a file with another name is copied, and it is said that the other stays', async () => {
    const folder = folderWith({ 'a.zone': 'x'.repeat(2_000_000) })
    const file = join(folder, 'a.zone')
    linkSync(file, join(folder, 'other'))
    const { backups, notes } = (await commit(
      bare(file, folder),
      writing(file, () => 'after'),
      never,
    ))!
    writeFileSync(join(folder, 'other'), 'changed')
    expect([readFileSync(backups[0]!).length, notes]).toEqual([2_000_000, [expect.stringContaining('hard links')]])
  })

  test.each<[string, (folder: string) => void, RegExp]>([
    ['is gone', (folder) => rmSync(join(folder, 'a.zone')), /cannot write .*a\.zone/],
    ['is changed by a server', (folder) => writeFileSync(join(folder, 'a.zone.jnl'), ''), /has a journal next to it/],
    ['was changed since it was read', (folder) => writeFileSync(join(folder, 'a.zone'), 'else'), /it was changed/],
  ])('a file that %s', async (_what, happens, said) => {
    const folder = folderWith({ 'a.zone': 'one' })
    const file = join(folder, 'a.zone')
    const writes = writing(file, () => 'after')
    happens(folder)
    await expect(commit(bare(file, folder), writes, never)).rejects.toThrow(said)
    if (existsSync(file)) expect(readFileSync(file, 'utf8')).not.toBe('after')
    expect(readdirSync(folder).filter((name) => name.startsWith('.'))).toEqual([])
  })
})

describe('nothing leads out of a workspace', () => {
  const outside = folderWith({ 'a.zone': 'outside' })
  test.each<[string, (folder: string) => void]>([
    ['a zone file', (folder) => symlinkSync(join(outside, 'a.zone'), join(folder, 'zones/a.zone'))],
    [
      'the folder of zones',
      (folder) => {
        rmSync(join(folder, 'zones'), { recursive: true })
        symlinkSync(outside, join(folder, 'zones'))
      },
    ],
    [
      'the folder of copies',
      (folder) => {
        writeFileSync(join(folder, 'zones/a.zone'), 'in')
        symlinkSync(outside, join(folder, 'backups'))
      },
    ],
    [
      'a folder of copies that is not there',
      (folder) => {
        writeFileSync(join(folder, 'zones/a.zone'), 'in')
        symlinkSync('/nowhere/at/all', join(folder, 'backups'))
      },
    ],
  ])('%s', async (_what, plant) => {
    const folder = folderWith({ 'zones/x': '' })
    plant(folder)
    const file = join(folder, 'zones/a.zone')
    await expect(
      commit(
        workspace(folder),
        writing(file, () => 'after'),
        never,
      ),
    ).rejects.toThrow(/a link that leads out of the workspace/)
    expect([readFileSync(join(outside, 'a.zone'), 'utf8'), readdirSync(outside)]).toEqual(['outside', ['a.zone']])
  })

  test('a link inside is followed, and stays one', async () => {
    const folder = folderWith({ 'zones/real': 'one' })
    symlinkSync('real', join(folder, 'zones/a.zone'))
    await commit(
      workspace(folder),
      writing(join(folder, 'zones/a.zone'), () => 'after'),
      never,
    )
    expect(readFileSync(join(folder, 'zones/real'), 'utf8')).toBe('after')
  })

  test('keys/ that others can write is refused, with what mends it', async () => {
    const folder = folderWith({})
    mkdirSync(join(folder, 'keys'))
    chmodSync(join(folder, 'keys'), 0o777)
    const beside = [{ path: join(folder, 'keys/a.pem'), content: 'x', mode: 0o600, folderMode: 0o700 }]
    await expect(commit(workspace(folder), { zones: [], beside, command: 'test', now: NOW }, never)).rejects.toThrow(
      /chmod go-w .*keys$/,
    )
  })
})

describe('a change that was cut short', () => {
  /** As it is after a kill between the journal and the first file. */
  function cut(folder: string): void {
    writeFileSync(join(folder, 'zones/.a.zone.1-x.new'), 'after')
    writeFileSync(join(folder, 'keys/.k.pem.1-x.new'), 'key')
    writeJournal(folder, {
      format: 1,
      at: NOW.toISOString(),
      command: 'write mx a.example',
      log: { file: join(folder, 'log.jsonl'), size: 2, text: '{"b":1}\n' },
      moves: [
        { from: join(folder, 'keys/.k.pem.1-x.new'), to: join(folder, 'keys/k.pem') },
        {
          from: join(folder, 'zones/.a.zone.1-x.new'),
          to: join(folder, 'zones/a.zone'),
          before: stampOf(join(folder, 'zones/a.zone'))!,
        },
      ],
      zones: [],
    })
  }
  const FILES = { 'zones/a.zone': 'before', 'keys/x': '', 'log.jsonl': '{}{"cut' }

  test('is finished by the next, wherever it was cut', () => {
    for (const done of [0, 1, 2]) {
      const folder = folderWith(FILES)
      cut(folder)
      if (done > 0) linkSync(join(folder, 'keys/.k.pem.1-x.new'), join(folder, 'keys/k.pem'))
      if (done > 1) rmSync(join(folder, 'keys/.k.pem.1-x.new'))
      expect(finishJournal(folder)?.command).toBe('write mx a.example')
      expect(
        ['zones/a.zone', 'keys/k.pem', 'log.jsonl'].map((name) => readFileSync(join(folder, name), 'utf8')),
      ).toEqual(['after', 'key', '{}{"b":1}\n'])
      expect([readdirSync(folder).sort(), readdirSync(join(folder, 'zones')), finishJournal(folder)]).toEqual([
        ['keys', 'log.jsonl', 'zones'],
        ['a.zone'],
        undefined,
      ])
    }
  })

  test('is read around: what follows is the state after it', () => {
    const folder = folderWith(FILES)
    cut(folder)
    const unfinished = new Unfinished(folder)
    expect(readFileSync(unfinished.at(join(folder, 'zones/a.zone')), 'utf8')).toBe('after')
    expect([unfinished.namesIn(join(folder, 'keys')), unfinished.at('other')]).toEqual([['k.pem'], 'other'])
    expect(unfinished.warning).toMatch(/write mx a\.example.* was interrupted/)
  })

  test('is not laid over what somebody wrote since: nothing is lost', () => {
    const folder = folderWith(FILES)
    cut(folder)
    writeFileSync(join(folder, 'zones/a.zone'), 'by hand')
    expect(() => finishJournal(folder)).toThrow(/was changed in the meantime. The new version is in/)
    expect([readFileSync(join(folder, 'zones/a.zone'), 'utf8'), existsSync(journalFile(folder))]).toEqual([
      'by hand',
      true,
    ])
    rmSync(join(folder, 'zones/.a.zone.1-x.new'))
    finishJournal(folder)
    expect(readFileSync(join(folder, 'zones/a.zone'), 'utf8')).toBe('by hand')
  })

  test('a journal that nobody can read is told, and stays', () => {
    const folder = folderWith({ '.bramblefront.journal': 'whatever' })
    expect(() => finishJournal(folder)).toThrow(/is not a journal of this program/)
  })
})

describe('locks', () => {
  test('who was stopped for too long writes nothing', async () => {
    const folder = folderWith({ 'zones/a.zone': 'one' })
    const slow = await lock([folder])
    // Nobody has heard of its holder for a while.
    utimesSync(join(folder, '.bramblefront.lock'), 1, 1)
    const other = await lock([folder])
    expect(() => slow.check()).toThrow(/was locked by another call in the meantime/)
    expect(() => other.check()).not.toThrow()
    await slow.release()
    expect(() => other.check()).not.toThrow()
    await other.release()
    expect(readdirSync(folder)).toEqual(['zones'])
  })

  test('who has ended is not waited for; who has not, is', async () => {
    const folder = folderWith({ 'zones/a.zone': 'one' })
    const held = await lock([folder])
    const place = join(folder, '.bramblefront.lock')
    const holder = JSON.parse(readFileSync(place, 'utf8'))
    await held.release()
    // A process that has ended, and one with its number that was started at another time.
    for (const gone of [
      { ...holder, pid: 2 ** 22 + 1 },
      { ...holder, started: '1' },
    ]) {
      writeFileSync(place, JSON.stringify(gone))
      const next = await lock([folder])
      next.check()
      await next.release()
    }
    for (const unknown of [holder, { ...holder, where: 'another machine', pid: 2 ** 22 + 1 }, 'nothing']) {
      writeFileSync(place, JSON.stringify(unknown))
      let isTaken = false
      const waiting = lock([folder]).then((taken) => {
        isTaken = true
        return taken
      })
      await Promise.resolve()
      expect(isTaken).toBe(false)
      rmSync(place)
      await (await waiting).release()
    }
  })

  test('what cannot be locked is told', async () => {
    await expect(lock([join(folderWith({}), 'gone')])).rejects.toThrow(/cannot write .*gone/)
  })
})
