import { describe, expect, test } from 'vitest'
import { parseConfig } from '../../src/workspace/config.ts'

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
      { zones: [{ zone: 'hollowmere.example', file: 'a.zone', audience: 'private', complete: false, signed: 'server' }, { file: 'b.zone' }], vantages: [] },
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
  ])('%s', (_what, text, expected) => expect(parseConfig(text, FILE)).toEqual(expected))

  test.each<[string, string, RegExp]>([
    ['no YAML', 'zones: [a\n', /^bramblefront\.yaml:\d+:\d+: not YAML: /],
    ['a list at the top', '- a\n', /./],
    ['a key at the top', 'zonse: []\n', /^bramblefront\.yaml:1:1: unknown key “zonse”; is “zones” meant\?$/],
    ['a key far from any', 'colours: []\n', /known here: zones, vantages$/],
    ['a key in a zone’s entry', 'zones:\n  - {file: a, audiense: private}\n', /^bramblefront\.yaml:2:15: unknown key “audiense”; is “audience” meant\?$/],
    [
      'a key in a vantage',
      'vantages:\n  - label: a\n    address: 192.0.2.1\n    prot: 53\n',
      /^bramblefront\.yaml:4:5: unknown key “prot”; is “port” meant\?$/,
    ],
    ['an entry without a file', 'zones:\n  - {zone: a.example}\n', /^bramblefront\.yaml:2:\d+: .*file is a required field$/],
    ['an audience that is none', 'zones:\n  - {file: a, audience: nobody}\n', /audience must be one of the following values: public, private/],
    ['complete as a word', 'zones:\n  - {file: a, complete: "yes"}\n', /complete must be a `boolean` type/],
    ['a zone that is no name', 'zones:\n  - {file: a, zone: "a..b"}\n', /must be a domain name, as in hollowmere\.example$/],
    ['a number for a pattern', 'zones:\n  - 7\n', /must be a file pattern, or an entry with a file$/],
    ['a port too high', 'vantages:\n  - {label: a, address: 192.0.2.1, port: 70000}\n', /port must be less than or equal to 65535$/],
    ['a port as text', 'vantages:\n  - {label: a, address: 192.0.2.1, port: "53"}\n', /port must be a `number` type/],
    ['a vantage without a label', 'vantages:\n  - {address: 192.0.2.1}\n', /label is a required field$/],
    ['zones as a word', 'zones: all\n', /^bramblefront\.yaml:1:1: /],
  ])('%s is named with its place', (_what, text, message) => expect(trouble(text)).toMatch(message))
})
