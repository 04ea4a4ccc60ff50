import { readFileSync } from 'node:fs'
import { Ajv2020 } from 'ajv/dist/2020.js'
import { describe, expect, test } from 'vitest'
import { parse } from 'yaml'
import { parseConfig } from '../../src/workspace/config.ts'
import { configSchema } from '../../src/workspace/config-schema.ts'
import { growsLinearly } from '../pace.ts'

const FILE = 'bramblefront.yaml'
const trouble = (text: string): string => {
  try {
    parseConfig(text, FILE)
    return ''
  } catch (error) {
    return (error as Error).message
  }
}

describe('bramblefront.yaml', () => {
  test.each<[string, string, object]>([
    ['nothing', '', { zones: [], vantages: [] }],
    ['comments only', '# nothing yet\n', { zones: [], vantages: [] }],
    ['patterns', 'zones:\n  - zones/*.zone\n', { zones: ['zones/*.zone'], vantages: [] }],
    [
      'entries',
      'zones:\n  - {zone: hollowmere.example, file: a.zone, audience: private, complete: false, signed: server}\n  - {file: b.zone}\n',
      {
        zones: [
          { zone: 'hollowmere.example', file: 'a.zone', audience: 'private', complete: false, signed: 'server' },
          { file: 'b.zone' },
        ],
        vantages: [],
      },
    ],
    [
      'fronts, follows and exceptions',
      'fronts:\n  - {label: edge, ranges: [203.0.113.0/24, "2001:db8::/32"]}\nfollows:\n  - {owner: a.example, target: b.example}\nexceptions:\n  - {rule: mx/single, reason: x}\n  - rule: cname/chain\n    at: WWW.a.example\n    reason: "it moves"\n',
      {
        fronts: [{ label: 'edge', ranges: ['203.0.113.0/24', '2001:db8::/32'], names: [] }],
        follows: [{ owner: 'a.example', target: 'b.example' }],
        exceptions: [
          {
            rule: 'mx/single',
            reason: 'x',
            place: { file: FILE, line: 6, column: 5, text: '  - {rule: mx/single, reason: x}', length: 28 },
          },
          {
            rule: 'cname/chain',
            at: 'www.a.example.',
            reason: 'it moves',
            place: { line: 7, column: 5, text: '  - rule: cname/chain' },
          },
        ],
      },
    ],
    [
      'vantages, the port 53 unless stated',
      'vantages:\n  - {label: office, address: 192.0.2.1}\n  - {label: lake, address: "2001:db8::1", port: 5300}\n',
      {
        zones: [],
        vantages: [
          { label: 'office', address: '192.0.2.1', port: 53 },
          { label: 'lake', address: '2001:db8::1', port: 5300 },
        ],
      },
    ],
  ])('%s', (_what, text, expected) => expect(parseConfig(text, FILE)).toMatchObject(expected))

  test.each<[string, string, RegExp]>([
    ['no YAML', 'zones: [a\n', /^bramblefront\.yaml:\d+:\d+: not YAML: /],
    ['a list at the top', '- a\n', /./],
    ['a key at the top', 'zonse: []\n', /^bramblefront\.yaml:1:1: unknown key “zonse”; did you mean “zones”\?$/],
    [
      'a key far from any',
      'colours: []\n',
      /known keys: zones, vantages, servers, fronts, follows, exceptions, deliveries, sheets, backups, policy-steps$/,
    ],
    [
      'a key in a zone’s entry',
      'zones:\n  - {file: a, audiense: private}\n',
      /^bramblefront\.yaml:2:15: unknown key “audiense”; did you mean “audience”\?$/,
    ],
    [
      'a key in a vantage',
      'vantages:\n  - label: a\n    address: 192.0.2.1\n    prot: 53\n',
      /^bramblefront\.yaml:4:5: unknown key “prot”; did you mean “port”\?$/,
    ],
    [
      'an entry without a file',
      'zones:\n  - {zone: a.example}\n',
      /^bramblefront\.yaml:2:\d+: zones\[0\]\.file is missing$/,
    ],
    [
      'a key of a form’s labels',
      'sheets:\n  - {label: a, labels: {vlaue: x}}\n',
      /unknown key “vlaue”; did you mean “value”\?$/,
    ],
    ['a key of backups', 'backups: {weeks: 3}\n', /unknown key “weeks”; known keys: days, copies$/],
    ['an audience that is none', 'zones:\n  - {file: a, audience: nobody}\n', /audience must be public or private$/],
    ['complete as a word', 'zones:\n  - {file: a, complete: "yes"}\n', /complete must be true or false$/],
    ['a zone that is no name', 'zones:\n  - {file: a, zone: "a..b"}\n', /must be a domain name, as in example\.com$/],
    ['a number for a pattern', 'zones:\n  - 7\n', /must be a file pattern, or an entry with a file$/],
    ['a port too high', 'vantages:\n  - {label: a, address: 192.0.2.1, port: 70000}\n', /port must be at most 65535$/],
    ['a port as text', 'vantages:\n  - {label: a, address: 192.0.2.1, port: "53"}\n', /port must be a number$/],
    [
      'a number where a text is expected',
      'vantages:\n  - {label: 7, address: 192.0.2.1}\n',
      /label must be a text: write it in quotes$/,
    ],
    ['a list where a text is expected', 'vantages:\n  - {label: [7], address: 192.0.2.1}\n', /label must be a text$/],
    ['a vantage without a label', 'vantages:\n  - {address: 192.0.2.1}\n', /label is missing$/],
    ['zones as a word', 'zones: all\n', /^bramblefront\.yaml:1:1: zones must be a list, as in: - zones\/\*\.zone$/],
    [
      'a form that nobody has',
      'sheets: [{label: upland}]\nzones:\n  - {file: a, sheet: uplond}\n',
      /^bramblefront\.yaml:3:\d+: there is no style uplond of web forms; did you mean upland\?/,
    ],
    ['two forms of one label', 'sheets: [{label: a}, {label: b}, {label: a}]\n', /:1:\d+: there are two sheets “a”/],
    [
      'what is an alias to another part',
      'zones: &z [a]\nfronts: *z\n',
      /:2:9: “\*z” is an alias to another part of the file/,
    ],
    ['a circle', 'zones: &z [*z]\n', /is an alias to another part/],
    ['what stands too deep', `zones: ${'['.repeat(60)}${']'.repeat(60)}\n`, /deep$/],
    ['what stands far too deep', `zones: ${'['.repeat(200_000)}`, /not YAML|without end|deep inside/],
  ])('%s is named with its place', (_what, text, message) => expect(trouble(text)).toMatch(message))
})

test('all mistakes are told at once, each with its place', () => {
  const text = `zones:
  - {file: a, audiense: private, complete: 1}
vantages: system
colour: red
exceptions:
  - {rule: mx/singel, reason: x}
  - {reason: y}
`
  expect(trouble(text).split('\n').sort()).toEqual([
    expect.stringMatching(/^bramblefront.yaml:2:15: unknown key “audiense”/),
    'bramblefront.yaml:2:34: zones[0].complete must be true or false',
    'bramblefront.yaml:3:1: vantages must be a list, as in: - authoritative',
    expect.stringMatching(/^bramblefront.yaml:4:1: unknown key “colour”/),
    expect.stringMatching(/^bramblefront.yaml:6:6: .*mx\/singel is not one$/),
    'bramblefront.yaml:7:5: exceptions[1].rule is missing',
  ])
  expect(
    trouble('zones:\n  - {file: a, audiense: private, complete: 1}\n  - {zone: x.example}\n').split('\n'),
  ).toHaveLength(3)
})

test('twenty thousand exceptions cost no more than they are', async () => {
  const text = (n: number): string =>
    `exceptions:\n${Array.from({ length: n }, (_, i) => `  - {rule: mx/single, at: h${i}.example, reason: x}\n`).join('')}`
  await growsLinearly(
    'exceptions',
    (n) => {
      const made = text(n)
      return () => parseConfig(made, FILE)
    },
    6144,
  )
  expect(parseConfig(text(20_000), FILE).exceptions).toHaveLength(20_000)
})

describe('exceptions and fronts that cannot be', () => {
  test.each<[string, RegExp]>([
    [
      'exceptions:\n  - {rule: mx/singel, reason: x}\n',
      /^bramblefront\.yaml:2:6: .*must be the code of a rule, as in mx\/single; mx\/singel is not one$/,
    ],
    ['exceptions:\n  - {rule: mx/single}\n', /reason is missing$/],
    ['exceptions:\n  - {rule: mx/single, reason: x, name: a}\n', /unknown key “name”/],
    ['fronts:\n  - {label: a, ranges: [203.0.113.0/33]}\n', /must be a network, as in 203\.0\.113\.0\/24$/],
    ['fronts:\n  - {label: a, ranges: [edge.example]}\n', /must be a network/],
    ['follows:\n  - {owner: a.example}\n', /target is missing$/],
    ['follows:\n  - {owner: a..example, target: b.example}\n', /owner must be a domain name/],
  ])('%j', (text, message) => expect(trouble(text)).toMatch(message))
})

describe('the JSON Schema', () => {
  const valid = new Ajv2020({ strict: false }).compile(configSchema())

  test('is the one that is shipped, and takes the demo’s file', () => {
    expect(JSON.parse(readFileSync('docs/bramblefront.schema.json', 'utf8'))).toEqual(configSchema())
    expect(valid(parse(readFileSync('demo/bramblefront.yaml', 'utf8'))) || valid.errors).toBe(true)
  })

  test.each([
    '',
    'zones: [a, b]',
    'zones: [{file: a}]',
    'zones: [{file: a, zone: b.example, audience: public, complete: true, signed: no, view: in}]',
    'zones: [{zone: b.example}]',
    'zones: [{file: a, audience: nobody}]',
    'zones: [{file: a, complete: "yes"}]',
    'zones: [{file: a, signed: maybe}]',
    'zones: [{file: a, colour: red}]',
    'zones: a',
    'zones: [1]',
    'vantages: [{label: a, address: 192.0.2.1, port: 53}]',
    'vantages: [{label: a, address: 192.0.2.1, port: 0}]',
    'vantages: [{label: a, address: 192.0.2.1, port: 70000}]',
    'vantages: [{label: a, address: 192.0.2.1, port: 5.5}]',
    'vantages: [{label: a}]',
    'fronts: [{label: a}]',
    'fronts: [{label: a, ranges: [192.0.2.0/24], names: [a.example]}]',
    'fronts: [{ranges: []}]',
    'follows: [{owner: a.example, target: b.example}]',
    'follows: [{owner: a.example}]',
    'exceptions: [{rule: mx/single, at: a.example, reason: x}]',
    'exceptions: [{rule: mx/single}]',
    'colours: []',
    'zones: [{file: a, sheet: short}]',
    'deliveries: [{label: a, zones: ["hollowmere*.example"], by: update, address: 192.0.2.53, key: keys/upland.key, transport: tls, name: ns1.upland-dns.example}]',
    'deliveries: [{label: a, zones: ["*"], by: file, folder: ../delivered, after: ["/usr/local/sbin/reload-zone"]}]',
    'deliveries: [{label: a, zones: ["*"], by: file, address: 192.0.2.53}]',
    'deliveries: [{label: a, zones: ["*"], by: update, folder: out}]',
    'deliveries: [{label: a, zones: ["*"], by: post, address: 192.0.2.53}]',
    'deliveries: [{label: a, by: update, address: 192.0.2.53}]',
    'sheets: [{label: a, apex: "@", names: relative, final-dot: false, preference: field, srv: fields, text: joined, ttl: minutes, ttl-floor: 5m, rows: record}]',
    'sheets: [{label: a, labels: {type: Type, owner: Host, value: Points to}}]',
    'sheets: [{label: a, labels: {colour: Red}}]',
    'sheets: [{label: a, ttl: hours}]',
    'sheets: [{names: full}]',
    'backups: {days: 365, copies: 20}',
    'backups: {days: 0}',
    'backups: {weeks: 3}',
    'policy-steps: {days: 14, messages: 100}',
    'policy-steps: {days: soon}',
  ])('says of %j what the program says', (text) => expect(valid(parse(text) ?? {})).toBe(trouble(text) === ''))
})
