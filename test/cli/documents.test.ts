/** What every command prints with --json, against the schemas in docs/schemas: nothing more than is declared, and nothing less. */
import { cpSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Ajv2020 } from 'ajv/dist/2020.js'
import { describe, expect, test } from 'vitest'
import { answering, serve } from '../../src/serve/sockets.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD, run } from './program.ts'
import { rehearsal, resolverAt } from './rehearsal.ts'
import { open, world, ZONE } from './world.ts'

interface Schema {
  type?: string | string[]
  required?: string[]
  properties?: Record<string, Schema>
  items?: Schema
}

const schemas = new Map(
  readdirSync('docs/schemas').map((file) => [
    file.replace('.schema.json', ''),
    JSON.parse(readFileSync(join('docs/schemas', file), 'utf8')) as Schema,
  ]),
)
const CHOICE = `label: own
title: mine
about: it
blanks:
  - {name: x, what: x, kind: choice, choices: [a, b], default: a, example: b}
records: ['@ TXT "\${x}"']
`
const ajv = new Ajv2020({ allowUnionTypes: true })

/** Every place of a document that its schema requires, as keys from the top; of lists, the first and the last entry. */
function* required(schema: Schema, value: any, path: (string | number)[] = []): Generator<(string | number)[]> {
  if (value === null || value === undefined) return
  for (const [key, field] of Object.entries(schema.properties ?? {})) {
    if (!(key in value)) continue
    if (schema.required!.includes(key)) yield [...path, key]
    yield* required(field, value[key], [...path, key])
  }
  if (schema.items)
    for (const i of new Set([0, value.length - 1])) if (i >= 0) yield* required(schema.items, value[i], [...path, i])
}

function without(document: any, path: readonly (string | number)[]): any {
  const copy = structuredClone(document)
  const holder = path.slice(0, -1).reduce((at, key) => at[key], copy)
  delete holder[path.at(-1)!]
  return copy
}

/** The kinds of documents whose required fields were all taken out once. */
const tried = new Map<string, Set<string>>()

function expectDeclared(name: string, document: any): void {
  const schema = schemas.get(name)!
  const validate = ajv.compile(schema)
  validate(document)
  expect(validate.errors, JSON.stringify(document).slice(0, 300)).toBeNull()
  const seen = tried.get(name) ?? new Set()
  tried.set(name, seen)
  for (const path of required(schema, document)) {
    seen.add(path.filter((key) => typeof key === 'string').join('.'))
    expect([path, validate(without(document, path))]).toEqual([path, false])
  }
}

/** Every required field of a schema, by its keys from the top. */
function fields(schema: Schema, path = ''): string[] {
  const own = Object.entries(schema.properties ?? {}).flatMap(([key, field]) => [
    ...(schema.required!.includes(key) ? [`${path}${key}`] : []),
    ...fields(field, `${path}${key}.`),
  ])
  return schema.items ? [...own, ...fields(schema.items, path)] : own
}

const demo = (): string => {
  const folder = folderWith({})
  cpSync('demo', folder, { recursive: true })
  return folder
}
const HOLLOWMERE = 'hollowmere.example'

describe('on the demo’s data', () => {
  const folder = demo()
  test.each<[string, string[]]>([
    ['check', ['check']],
    ['check-fix', ['check', '--fix']],
    ['show', ['show', HOLLOWMERE]],
    ['show', ['show']],
    ['explain', ['explain']],
    ['explain', ['explain', 'mx/single']],
    ['change', ['write', 'mx', HOLLOWMERE, '10 office', '--dry-run']],
    ['change', ['write', 'cname', `chat.${HOLLOWMERE}`, 'office']],
    ['change', ['write', 'dkim', HOLLOWMERE, '--selector', 'ferry9', '--kind', 'ed25519', '--force']],
    [
      'change',
      ['write', 'dmarc', 'hollowmere-freight.example', 'p=quarantine', '--reports', 'd@lakepass.example', '--force'],
    ],
    ['change', ['remove', `www.${HOLLOWMERE}`, 'CNAME', '--dry-run']],
    ['timing', ['timing', HOLLOWMERE]],
    ['timing', ['timing', HOLLOWMERE, 'www', 'A']],
    [
      'sender',
      ['sender', '192.0.2.25', '--envelope', `crew@${HOLLOWMERE}`, '--signed-by', `${HOLLOWMERE}:s1`, '--offline'],
    ],
    [
      'sender',
      [
        'sender',
        '2001:db8::9',
        '--envelope',
        '<>',
        '--helo',
        'x.lakepass.example',
        '--from',
        'a@lakepass.example',
        '--offline',
      ],
    ],
  ])('%s: %j', async (name, args) => {
    const { stdout, stderr } = await run(folder, ...args, '--json')
    expect(stderr).toBe('')
    expectDeclared(name, JSON.parse(stdout))
  })
})

test('init, adopt', async () => {
  const [folder, from] = [folderWith({}), demo()]
  expectDeclared('init', (await run(folder, 'init', '--json')).json())
  const zone = (name: string): string => join(from, 'zones', `${name}.example.zone`)
  expectDeclared('adopt', (await run(folder, 'adopt', zone('hollowmere'), '--json')).json())
  const several = await run(folder, 'adopt', zone('hollowmere-freight'), zone('lakepass'), '--json')
  expectDeclared('adopt-several', several.json())
  const served = await serve(answering(loadZones(bareFiles([zone('hollowmere-rail')]))))
  open.push(served)
  const at = `127.0.0.1:${served.port}`
  expectDeclared(
    'adopt',
    (await run(folder, 'adopt', 'hollowmere-rail.example', '--by-asking', '--at', at, '--json')).json(),
  )
})

test('follow', async () => {
  const folder = demo()
  const args = ['hollowmere-freight.example', 'office.hollowmere.example', '--yes', '--json']
  expectDeclared('follow', (await run(folder, 'follow', ...args)).json())
  const nowhere = ['hollowmere-freight.example', 'nowhere.hollowmere.example', '--json']
  expectDeclared('follow', (await run(folder, 'follow', ...nowhere)).json())
})

test('sheet', async () => {
  const { folder } = await world('www A 192.0.2.1\n', ['authoritative'])
  expectDeclared('sheet', (await run(folder, 'sheet', ZONE, '--json')).json())
  await run(folder, 'write', 'address', 'www', '192.0.2.2')
  expectDeclared('sheet', (await run(folder, 'sheet', ZONE, '--changes', '--json')).json())
})

test('recipe', async () => {
  const folder = demo()
  expectDeclared('recipe-list', (await run(folder, 'recipe', 'list', '--json')).json())
  for (const label of ['web-front', 'parked'])
    expectDeclared('recipe', (await run(folder, 'recipe', 'show', label, '--json')).json())
  const made = await run(folder, 'recipe', 'from', 'hollowmere.example', '@', 'office', '--label', 'own', '--json')
  expectDeclared('recipe', made.json())
  writeFileSync(join(folder, 'recipes', 'own.yaml'), CHOICE)
  expectDeclared('recipe', (await run(folder, 'recipe', 'show', 'own', '--json')).json())
  expectDeclared('recipe-list', (await run(folder, 'recipe', 'list', '--json')).json())
  const args = ['chat', 'hollowmere.example', '--fill', 'host=office', '--json', '--dry-run']
  expectDeclared('transcribe', (await run(folder, 'recipe', 'write', ...args)).json())
  const several = await run(folder, 'recipe', 'write', 'mail-host', '--in', '*.example', '--json', '--dry-run')
  expectDeclared('recipe-write-several', several.json())
})

test('transcribe, with everything that can be open', async () => {
  const folder = demo()
  const rows = [
    'MX\t@\tmx1.larkpost.example\t10',
    'CNAME\t@\tapex.northlight.example\t',
    'CNAME\t<selector>._domainkey\tkeys.larkpost.example\t',
    'A\ttwo\t192.0.2.\t',
    'TXT\tq1._domainkey\tv=spf1 mx -all\t',
    'CNAME\tnews\thttps://gone.hollowmere.example/\t',
    'TXT\t@\tv=spf1 include:_spf.quillwing.example -all\t',
  ]
  writeFileSync(join(folder, 'mail.txt'), ['Type\tHost\tValue\tPriority', ...rows].join('\n'))
  const args = ['mail.txt', '--into', 'hollowmere-freight.example', '--json']
  expectDeclared('transcribe', (await run(folder, 'transcribe', ...args)).json())
})

test('check with exceptions', async () => {
  const folder = folderWith({
    'bramblefront.yaml':
      'zones: [hollowmere.example.zone]\nexceptions:\n  - {rule: address/documentation, reason: a book}\n',
    'hollowmere.example.zone': `${HEAD}www A 192.0.2.1\n`,
  })
  const document = (await run(folder, 'check', '--json')).json()
  expect(document.excepted).toHaveLength(1)
  expectDeclared('check', document)
})

test('check --live, where nobody replies', async () => {
  const folder = folderWith({ 'hollowmere.example.zone': `${HEAD}shop CNAME shops.larkpost.example.\n` })
  const args = ['check', 'hollowmere.example.zone', '--at', '127.0.0.1:1', '--timeout', '1', '--json']
  expectDeclared('check', (await run(folder, ...args)).json())
})

test('check --fix, with a repair that cannot be made', async () => {
  const folder = folderWith({
    'bramblefront.yaml': 'zones: [z/*.zone]\n',
    'z/hollowmere.example.zone': `${HEAD}$INCLUDE shared\n`,
    'z/lakepass.example.zone': `${HEAD}$INCLUDE shared\n`,
    'z/shared': 'www CNAME site.hollowmere.example\n',
  })
  const document = (await run(folder, 'check', '--fix', '--yes', '--json')).json()
  expect(document.left.length).toBeGreaterThan(0)
  expectDeclared('check-fix', document)
})

test('sender, where the tree walk finds another organization', async () => {
  const policy = 'v=DMARC1; p=none; rua=mailto:d@larkpost.example'
  const folder = folderWith({
    'hollowmere.example.zone': `${HEAD}_dmarc TXT "${policy}"\n_dmarc.crew TXT "${policy}; psd=n"\n`,
  })
  const args = ['192.0.2.25', '--envelope', 'a@mail.crew.hollowmere.example', '--file', 'hollowmere.example.zone']
  expectDeclared('sender', (await run(folder, 'sender', ...args, '--offline', '--json')).json())
})

test('confirm', async () => {
  const { folder, load, published, network } = await world(
    'shop CNAME gone.registry.example.\nbad A 192.0.2.300\nwww A 192.0.2.10\nmail MX 10 www\n*.w TXT "a"\npier NS ns.pier\nns.pier A 192.0.2.9\nx.pier A 192.0.2.8\n',
  )
  expectDeclared('confirm', (await run(folder, 'confirm', '--json')).json())
  await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
  await run(folder, 'remove', `mail.${ZONE}`, 'MX')
  network.ails('203.0.113.53', { signed: { from: Date.now() / 1000 - 3600, until: Date.now() / 1000 + 3600 } })
  load('198.51.100.53', `$TTL 60\n@ SOA a b 1 2 3 4 5\n@ NS ns1.upland-dns.example.\nwww.${ZONE} A 192.0.2.11\n`)
  expectDeclared('confirm', (await run(folder, 'confirm', '--json')).json())
  expectDeclared('timing', (await run(folder, 'timing', ZONE, '--json')).json())
  published()
  network.ails('192.0.2.3', { rcode: 2, errors: [{ code: 22, text: 'no way there' }] })
  expectDeclared('confirm', (await run(folder, 'confirm', '--json')).json())
  network.ails('192.0.2.3', { silent: true })
  expectDeclared('confirm', (await run(folder, 'confirm', '--timeout', '1', '--json')).json())
})

test('history, diff', async () => {
  const { folder, load } = await world('www A 192.0.2.10\nmail A 192.0.2.25\n', ['authoritative'])
  writeFileSync(
    join(folder, 'bramblefront.yaml'),
    `${readFileSync(join(folder, 'bramblefront.yaml'))}backups: {copies: 1}\n`,
  )
  await run(folder, 'confirm', '--json')
  await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.11')
  expectDeclared('history', (await run(folder, 'history', '--json')).json())
  await run(folder, 'confirm', '--json')
  load('198.51.100.53')
  expectDeclared('diff', (await run(folder, 'diff', ZONE, '--json')).json())
  expectDeclared('diff-several', (await run(folder, 'diff', '--json')).json())
  expectDeclared('history', (await run(folder, 'history', '--json')).json())
  const [{ id }] = (await run(folder, 'history', '--json')).json().entries.filter(({ what }: any) => what === 'change')
  expectDeclared('change', (await run(folder, 'restore', ZONE, 'www', '--from', id, '--json')).json())
  await run(folder, 'write', 'address', `www.${ZONE}`, '192.0.2.12')
  expectDeclared('history-prune', (await run(folder, 'history', '--prune', '--json')).json())
})

test('publish', async () => {
  const folder = folderWith({
    'bramblefront.yaml':
      'zones: [zones/*.zone]\ndeliveries:\n  - {label: here, zones: ["*"], by: file, folder: delivered, after: ["true"]}\n  - {label: there, zones: ["*"], by: file, folder: delivered}\n',
    [`zones/${ZONE}.zone`]: `${HEAD}www A 192.0.2.1\n`,
    [`delivered/${ZONE}.zone`]: `${HEAD}www 60 A 192.0.2.1\ntheirs A 192.0.2.9\n`,
  })
  for (const args of [[ZONE, '--to', 'there'], [ZONE, '--overwrite', '--to', 'here'], ['--overwrite']])
    expectDeclared(
      args.includes(ZONE) ? 'publish' : 'publish-several',
      (await run(folder, 'publish', ...args, '--force', '--yes', '--json')).json(),
    )
})

test('a call that a problem stopped', async () => {
  const folder = folderWith({ 'bramblefront.yaml': 'zones: ["*.zone"]\n', [`${ZONE}.zone`]: HEAD })
  for (const more of [['--selector', 's1'], ['--rotate']]) await run(folder, 'write', 'dkim', ZONE, ...more)
  expectDeclared('problem', (await run(folder, 'write', 'dkim', ZONE, '--selector', 's1', '--revoke', '--json')).json())
})

test('rehearse', async () => {
  const folder = folderWith({
    'bramblefront.yaml': 'zones: [zones/*.zone]\n',
    [`zones/${ZONE}.zone`]: `${HEAD}www A 192.0.2.1\n`,
  })
  const it = await rehearsal(folder, ZONE, '--forward', '127.0.0.1:9')
  await resolverAt(it.port).resolve4(`www.${ZONE}`)
  expectDeclared('rehearse', await it.ended())
})

test('the demo plays its whole story', { timeout: 120_000 }, async () => {
  const ran = await run(folderWith({}), 'demo', '--json')
  expect([ran.status, ran.stderr]).toEqual([0, ''])
  expectDeclared('demo', ran.json())
  const steps: { status: number; stdout: string }[] = ran.json().steps
  const ended = (status: number): number => steps.filter((each) => each.status === status).length
  expect([ended(1), ended(4)]).toEqual([14, 2])
  for (const said of [
    'All 28 record sets are confirmed by all 3 servers and resolvers asked.',
    'the zone’s name appears twice',
  ])
    expect(steps.some(({ stdout }) => stdout.includes(said))).toBe(true)
})

/** What only a server that takes updates can say: test/servers/publish.test.ts. */
const OF_SERVERS = /server$|foreign\.|conflicts\.|skew|after\.(status|said)|serial\.after|sent\.|refused\./

test('every field that is declared was printed, and missed when it was taken out', () => {
  // The parts of a change are alike, and so are the zones of a recipe.
  const isTried = (name: string, field: string): boolean => tried.get(name)?.has(field) === true
  for (const [name, schema] of schemas)
    expect([
      name,
      fields(schema).filter(
        (field) =>
          !isTried(name, field) &&
          !isTried(name, field.replace(/^also\./, '')) &&
          !(name === 'recipe-write-several' && isTried('transcribe', field.replace(/^zones\./, ''))) &&
          !(/^publish/.test(name) && OF_SERVERS.test(field)) &&
          !(name === 'diff-several' && isTried('diff', field.replace(/^zones\./, ''))) &&
          !(name === 'follow' && isTried('change', field.replace(/^zones\./, ''))),
      ),
    ]).toEqual([name, []])
})

test('docs/json.md names every field', () => {
  const text = readFileSync('docs/json.md', 'utf8')
  const fields = (node: unknown): string[] => {
    const { properties = {}, ...rest } = (node ?? {}) as { properties?: Record<string, unknown> }
    const below = [...Object.values(properties), ...Object.values(rest).flat()].filter(
      (each) => typeof each === 'object',
    )
    return [...Object.keys(properties), ...below.flatMap(fields)]
  }
  const missing = readdirSync('docs/schemas').flatMap((file) =>
    fields(JSON.parse(readFileSync(join('docs/schemas', file), 'utf8')))
      .filter((field) => !new RegExp(`\\b${field}\\b`).test(text))
      .map((field) => `${file}: ${field}`),
  )
  expect(missing).toEqual([])
})
