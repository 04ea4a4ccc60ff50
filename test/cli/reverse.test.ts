/** Reverse names in step with addresses. */
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { folderWith, HEAD, run } from './program.ts'
import { atTerminal } from './terminal.ts'

const REVERSE = '2.0.192.in-addr.arpa'
const SIX = '8.b.d.0.1.0.0.2.ip6.arpa'
const CLASSLESS = '0/25.2.0.192.in-addr.arpa'
const workspace = (reverse = '26 PTR other.hollowmere.example.\n'): string =>
  folderWith({
    'bramblefront.yaml': 'zones: [zones/*.zone]\n',
    'zones/hollowmere.example.zone': `${HEAD}other A 192.0.2.26\n`,
    [`zones/${REVERSE}.zone`]: HEAD + reverse,
    [`zones/${SIX}.zone`]: HEAD,
  })
const text = (folder: string, zone: string): string =>
  readFileSync(join(folder, `zones/${zone.replace('/', '-')}.zone`), 'utf8')
const write = (folder: string, ...args: string[]) =>
  run(folder, 'write', 'address', 'mail.hollowmere.example', ...args, '--ptr', '--force')

describe('an address and its reverse name', () => {
  test('are written together, for both families', async () => {
    const folder = workspace()
    const ran = await write(folder, '192.0.2.25', '2001:db8::25', '--json')
    expect([ran.status, ran.json().also.map(({ zone }: any) => zone)]).toEqual([0, [`${REVERSE}.`, `${SIX}.`]])
    expect(text(folder, REVERSE)).toMatch(/^25\s+PTR\s+mail\.hollowmere\.example\.$/m)
    expect(text(folder, SIX)).toMatch(/^5\.2\.(?:0\.)+0\s+PTR\s+mail\.hollowmere\.example\.$/m)
    expect((await write(folder, '192.0.2.25', '2001:db8::25', '--json')).json().unchanged).toBe(true)
    expect((await run(folder, 'check', '--only', 'mx/host-without-reverse')).status).toBe(0)
  })

  test('at the end of an alias, where the range is a part of one (RFC 2317)', async () => {
    const folder = workspace(`0/25 NS ns1.upland-dns.example.\n25 CNAME 25.0/25\n`)
    writeFileSync(
      join(folder, 'zones/0-25.2.0.192.in-addr.arpa.zone'),
      `${CLASSLESS}. ${HEAD.split('\n')[1]!.slice(2)}\n${CLASSLESS}. 60 NS ns1.upland-dns.example.\n`,
    )
    expect((await write(folder, '192.0.2.25')).status).toBe(0)
    expect(text(folder, CLASSLESS)).toContain('PTR')
    expect(text(folder, REVERSE)).not.toContain('PTR')
  })

  test('where another name has it, nothing is written; where no reverse zone is yours, that is said', async () => {
    const folder = workspace()
    const before = text(folder, 'hollowmere.example')
    const refused = await write(folder, '192.0.2.26')
    expect([refused.status, text(folder, 'hollowmere.example')]).toEqual([2, before])
    expect(refused.stderr).toContain('has the PTR record other.hollowmere.example already')
    const elsewhere = await write(folder, '198.51.100.7')
    expect([elsewhere.status, elsewhere.stdout]).toEqual([
      0,
      expect.stringContaining('No reverse zone for 198.51.100.7 is yours'),
    ])
  })

  test('go together when that is wanted; otherwise it is said', async () => {
    const folder = workspace()
    const call = ['remove', 'other.hollowmere.example', 'A', '--force']
    const dry = await run(folder, ...call, '--dry-run')
    expect(dry.stdout).toMatch(/PTR record of 192\.0\.2\.26 leads to[\s\S]*--ptr/)
    const asked = await atTerminal(folder, call, ['yes'])
    expect([asked.status, text(folder, REVERSE)]).toEqual([0, expect.not.stringContaining('PTR')])
  })

  test('of a pasted list, too', async () => {
    const folder = workspace()
    writeFileSync(join(folder, 'list.txt'), 'Type\tHost\tValue\nA\tpier\t192.0.2.40\n')
    const ran = await run(folder, 'transcribe', 'list.txt', '--into', 'hollowmere.example', '--ptr', '--yes')
    expect([ran.status, text(folder, REVERSE)]).toEqual([
      0,
      expect.stringMatching(/^40\s+PTR\s+pier\.hollowmere\.example\.$/m),
    ])
  })
})
