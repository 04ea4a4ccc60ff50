/** `follow` where the target is somebody else’s: looked up by Unbound at named. */
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, run } from '../cli/program.ts'
import { mayskip, named, unbound } from './servers.ts'
import { running } from './started.ts'

const TARGETS = `${HEAD}site 120 A 192.0.2.80
site 120 AAAA 2001:db8::80
long CNAME site
four A 192.0.2.4
text TXT "no address"
`

describe.skipIf(mayskip('named', 'unbound'))('a name outside your zones', () => {
  test('is followed through an alias, loses a family, and touches nothing where it is not there', async () => {
    const folder = folderWith({
      'bramblefront.yaml': 'zones: [zones/*.zone]\n',
      'zones/a.example.zone': HEAD,
      'served.zone': TARGETS,
    })
    const server = await named({ 'front.example': join(folder, 'served.zone') })
    const resolver = await unbound(['front.example'], server.port)
    running.push(server, resolver)
    const follow = (...args: string[]) => run(folder, 'follow', ...args, '--at', resolver.at, '--yes', '--json')
    const sets = async () =>
      (await run(folder, 'show', 'a.example', '--json'))
        .json()
        .sets.filter(({ type }: any) => type.startsWith('A'))
        .map(({ type, ttl, records }: any) => `${type} ${ttl} ${records}`)
        .sort()
    expect((await follow('a.example', 'long.front.example')).status).toBe(0)
    expect(await sets()).toEqual(['A 120 192.0.2.80', 'AAAA 120 2001:db8::80'])
    for (const target of ['gone.front.example', 'text.front.example']) {
      const before = readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')
      expect((await follow('a.example', target)).status).toBe(3)
      expect(readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')).toBe(before)
    }
    expect(await sets()).toEqual(['A 120 192.0.2.80', 'AAAA 120 2001:db8::80'])
    const ran = await follow('a.example', 'four.front.example')
    expect([ran.status, ran.json().zones[0].notes.join()]).toEqual([0, expect.stringContaining('AAAA')])
    expect(await sets()).toEqual(['A 120 192.0.2.4'])

    // The file no longer has what the servers say that the target has.
    const drift = async (): Promise<string[]> =>
      (await run(folder, 'check', '--live', '--at', resolver.at, '--only', 'zones', '--json'))
        .json()
        .findings.flatMap(({ rule, fix }: any) => [rule, ...fix])
    expect(await drift()).toEqual([])
    const file = join(folder, 'zones/a.example.zone')
    writeFileSync(file, readFileSync(file, 'utf8').replace('192.0.2.4', '192.0.2.9'))
    expect(await drift()).toEqual(['zones/follow-drift', 'bramblefront follow'])
    expect((await run(folder, 'follow', '--at', resolver.at, '--yes')).status).toBe(0)
    expect(await drift()).toEqual([])
  })
})
