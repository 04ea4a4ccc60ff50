/** Bringing zones in from real servers: by transfer, open, signed and over TLS; and by asking. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { zoneInForm } from '../../src/core/file/forms.ts'
import { parseType } from '../../src/core/records/types.ts'
import { Asker } from '../../src/net/ask.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { certificates } from '../certificates.ts'
import { folderWith, run, runWith } from '../cli/program.ts'
import { knotd, mayskip, named, nsd, type SharedKey } from './servers.ts'
import { started } from './started.ts'

const ZONE = 'rail.example'
const MANY = 1500
const TEXT = `$ORIGIN ${ZONE}.
$TTL 3600
@ SOA ns1 hostmaster 2026010101 7200 900 1209600 300
@ NS ns1
@ MX 10 mail
@ TXT "v=spf1 mx -all"
ns1 A 192.0.2.53
mail 600 A 192.0.2.25
mail AAAA 2001:db8::25
www CNAME front.elsewhere.example.
_imaps._tcp SRV 0 1 993 mail
s1._domainkey TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="
quay NS ns.quay
ns.quay A 192.0.2.60
*.berth A 192.0.2.70
odd\\.name TYPE65400 \\# 2 0102
${Array.from({ length: MANY }, (_, i) => `h${i} A 192.0.2.${i % 250}`).join('\n')}
`

const SERVERS = {
  named: (file: string, key?: SharedKey) => named({ [ZONE]: file }, undefined, key),
  knotd: (file: string, key?: SharedKey) => knotd({ [ZONE]: file }, key),
  nsd: (file: string, key?: SharedKey) => nsd({ [ZONE]: file }, { key }),
}
const secret = (octets: number): string =>
  Buffer.from(Array.from({ length: octets }, (_, i) => i * 7)).toString('base64')

function workspace(files: Record<string, string> = {}): string {
  return folderWith({ 'bramblefront.yaml': 'zones: [zones/*.zone]\n', 'served.zone': TEXT, ...files })
}

describe.each(Object.entries(SERVERS))('%s', (program, serving) => {
  describe.skipIf(mayskip(program))('hands a zone over', () => {
    test.each([
      ['without a key', undefined, ''],
      ['hmac-sha256, as a clause', { name: 'k.example', algorithm: 'hmac-sha256', secret: secret(32) }, 'clause'],
      ['hmac-sha384, as a line', { name: 'k.example', algorithm: 'hmac-sha384', secret: secret(48) }, 'line'],
      ['hmac-sha512, with colons', { name: 'k.example', algorithm: 'hmac-sha512', secret: secret(64) }, 'colons'],
    ])('%s', async (_what, key, form) => {
      const { name, algorithm, secret } = key ?? { name: '', algorithm: '', secret: '' }
      const text = {
        clause: `# shared\nkey "${name}" {\n  algorithm ${algorithm};\n  secret "${secret}";\n};\n`,
        line: `${name} ${algorithm} ${secret}\n`,
        colons: `${algorithm}:${name}:${secret}\n`,
      }[form]
      const folder = workspace(text === undefined ? {} : { 'transfer.key': text })
      const { at } = await started(serving(join(folder, 'served.zone'), key))
      const signed = key ? ['--key', 'transfer.key'] : []
      const ran = await run(folder, 'adopt', ZONE, '--from', at, ...signed, '--json')
      expect(ran).toMatchObject({ status: 0 })
      expect(ran.json()).toMatchObject({ zone: `${ZONE}.`, by: 'transfer', complete: true, records: MANY + 14 })
      const canonical = (file: string): string => {
        const zones = loadZones(bareFiles([join(folder, file)], ZONE))
        return [...zoneInForm(zones, zones.zones[0]!, 'canonical')].join('')
      }
      expect(canonical(`zones/${ZONE}.zone`)).toBe(canonical('served.zone'))
      expect(readFileSync(join(folder, `zones/${ZONE}.zone`), 'utf8')).toMatch(
        /^www +CNAME +front\.elsewhere\.example\.$/m,
      )
    })

    test('refuses a wrong secret, an unknown key and a query without one: told, and nothing is kept', async () => {
      const key = { name: 'k.example', algorithm: 'hmac-sha256', secret: secret(32) }
      const line = (name: string, algorithm: string, octets: number) => `${name} ${algorithm} ${secret(octets)}\n`
      const folder = workspace({
        'secret.key': line('k.example', 'hmac-sha256', 16),
        'name.key': line('other.example', 'hmac-sha256', 32),
      })
      const { at } = await started(serving(join(folder, 'served.zone'), key))
      for (const [args, why] of [
        [['--key', 'secret.key'], /BADSIG/],
        [['--key', 'name.key'], /BADKEY/],
        [[], /it answered (?:REFUSED|NOTAUTH)/],
      ] as const) {
        const ran = await run(folder, 'adopt', ZONE, '--from', at, ...args)
        expect(ran).toMatchObject({ status: 1, stdout: '', stderr: expect.stringMatching(why) })
      }
      expect((await run(folder, 'show')).status).toBe(2)
    })

    test('says by how much the clocks differ', async () => {
      const key = { name: 'k.example', algorithm: 'hmac-sha256', secret: secret(32) }
      const folder = workspace({ 'transfer.key': `k.example hmac-sha256 ${key.secret}\n` })
      const { at } = await started(serving(join(folder, 'served.zone'), key))
      const args = ['adopt', ZONE, '--from', at, '--key', 'transfer.key']
      expect(await runWith(folder, { BRAMBLEFRONT_AHEAD: '4000' }, ...args)).toMatchObject({
        status: 1,
        stderr: expect.stringMatching(/BADTIME.*(?:3999|4000|4001) seconds behind/s),
      })
    })

    test.each([
      ['handed over where that is allowed', undefined, 'transfer', true],
      [
        'asked for where it is not',
        { name: 'k.example', algorithm: 'hmac-sha256', secret: secret(32) },
        'asking',
        false,
      ],
    ] as const)('its name alone is enough: %s', async (_what, key, by, complete) => {
      const folder = workspace()
      const { at } = await started(serving(join(folder, 'served.zone'), key))
      const ran = await run(folder, 'adopt', ZONE, '--at', at, '--sheet', 'blank-apex', '--json')
      expect(ran).toMatchObject({ status: 0, stderr: expect.stringContaining('Name servers of') })
      expect(ran.stderr.includes('no zone transfer')).toBe(by === 'asking')
      expect(ran.json()).toMatchObject({ by, complete, file: `zones/${ZONE}.zone` })
      // Kept in a form: what is next is the form, and its serial is not ours.
      const written = await run(folder, 'write', 'address', `new.${ZONE}`, '192.0.2.99', '--force')
      expect(written.stdout).toContain(`bramblefront sheet ${ZONE} --changes`)
      expect(written.stdout).not.toMatch(/reload|serial/)
    })

    test('answers for its names, its wildcards and its delegations', async () => {
      const folder = workspace({ 'more.txt': 'h17 # stated\nx.berth\nquay\n' })
      const { at } = await started(serving(join(folder, 'served.zone')))
      const ran = await run(folder, 'adopt', ZONE, '--by-asking', '--at', at, '--names', 'more.txt', '--json')
      expect(ran).toMatchObject({ status: 0, stderr: expect.any(String) })
      expect(ran.json()).toMatchObject({ by: 'asking', complete: false, unknown: [] })
      const lines = (await run(folder, 'show', ZONE, '--format', 'canonical')).stdout.split('\n')
      const sets = lines.map((line) => line.split(' ')).map(([owner, , , type]) => `${owner} ${type}`)
      expect(sets).toEqual(
        expect.arrayContaining([
          ...['SOA', 'NS', 'MX', 'TXT'].map((type) => `${ZONE}. ${type}`),
          ...[
            'ns1 A',
            'mail A',
            'mail AAAA',
            'www CNAME',
            '_imaps._tcp SRV',
            's1._domainkey TXT',
            'h17 A',
            '*.berth A',
            'quay NS',
            'ns.quay A',
          ].map((each) => each.replace(' ', `.${ZONE}. `)),
        ]),
      )
      expect(sets).not.toContain(`h18.${ZONE}. A`)
      expect(sets).not.toContain(`x.berth.${ZONE}. A`)
      expect(readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')).toContain('complete: false')
    })
  })
})

describe.skipIf(mayskip('named'))('a zone that named signs', () => {
  test('is found by its NSEC records to the last name, and handed over without what signing makes', async () => {
    const lines =
      '@ SOA ns1 h 1 7200 900 1209600 300\n@ NS ns1\nns1 A 192.0.2.1\nquirky-name A 192.0.2.9\n* MX 5 mail\nmail A 192.0.2.25'
    const folder = workspace({ 'plain.zone': `$TTL 3600\n${lines}\n` })
    const { at } = await started(named({ [ZONE]: join(folder, 'plain.zone') }, undefined, undefined, true))
    // It signs once it is up.
    const asker = new Asker({ label: 'probe', address: '127.0.0.1', port: Number(at.split(':')[1]) }, CLOCK)
    for (let i = 0; i < 50; i++) {
      if ((await asker.ask(`quirky-name.${ZONE}.`, parseType('NSEC')!)).message?.answers.length) break
      await new Promise((resolve) => setTimeout(resolve, 200))
    }
    asker.close()
    const asked = await run(folder, 'adopt', ZONE, '--by-asking', '--at', at, '--json')
    expect([asked.status, asked.json().records]).toEqual([0, 6])
    const config = readFileSync(join(folder, 'bramblefront.yaml'), 'utf8')
    expect(config).toContain('complete: false, signed: server')
    const ran = await run(folder, 'adopt', ZONE, '--from', at, '--yes', '--json')
    expect([ran.status, ran.json().records, ran.json().notes.join(' ')]).toEqual([
      0,
      6,
      expect.stringMatching(/that signing makes.*take “complete: false” out/),
    ])
  })
})

describe.skipIf(mayskip('named', 'openssl'))('over TLS', () => {
  test('a zone is handed over to who verifies the name, and not for another name', async () => {
    const certified = certificates('ns1.rail.example')
    const folder = workspace()
    const { ports } = await started(named({ [ZONE]: join(folder, 'served.zone') }, certified))
    const env = { NODE_EXTRA_CA_CERTS: certified.authority }
    const args = ['adopt', ZONE, '--from', `127.0.0.1:${ports.tls}`, '--tls']
    expect(await runWith(folder, env, ...args, 'ns2.rail.example')).toMatchObject({
      status: 3,
      stderr: expect.stringContaining('its certificate is for another name'),
    })
    expect(await runWith(folder, env, ...args, 'ns1.rail.example')).toMatchObject({ status: 0 })
  })
})
