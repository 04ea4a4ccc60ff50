import { describe, expect, test } from 'vitest'
import { withZone } from '../../src/workspace/settings.ts'
import { isNamed } from '../../src/workspace/workspace.ts'

describe('a zone that bramblefront.yaml names', () => {
  test.each([
    [
      'behind the last, with comments and order as they were',
      '# ours\nzones:\n  # by name\n  - zones/a.zone # first\n\nvantages: [system]\n',
      '# ours\nzones:\n  # by name\n  - zones/a.zone # first\n  - zones/b.zone\n\nvantages: [system]\n',
    ],
    [
      'behind an entry of several lines',
      'zones:\n- zone: a.example\n  file: a\nservers: []\n',
      'zones:\n- zone: a.example\n  file: a\n- zones/b.zone\nservers: []\n',
    ],
    ['without a last newline', 'zones:\n  - a', 'zones:\n  - a\n  - zones/b.zone'],
    ['on one line', 'zones: [a, b]\n', 'zones: [ a, b, zones/b.zone ]\n'],
    ['as the first', 'servers: []\n', 'servers: []\nzones:\n  - zones/b.zone\n'],
  ])('%s', (_what, before, after) => expect(withZone(before, 'zones/b.zone')).toBe(after))

  test('what needs quotes gets them', () =>
    expect(withZone('zones:\n  - a\n', 'zones/#b: c.zone')).toBe('zones:\n  - a\n  - "zones/#b: c.zone"\n'))

  test.each<[string, string, boolean]>([
    ['zones: [zones/*.zone]', 'zones/b.zone', true],
    ['zones: [zones/a*.zone]', 'zones/b.zone', false],
    ['zones: [zones/**]', 'zones/deep/b.zone', true],
    ['zones: [zones/*]', 'zones/.b.zone', false],
    ['zones: [./zones/b.zone]', 'zones/b.zone', true],
    ['zones: [{zone: b.example, file: ./zones/b.zone}]', 'zones/b.zone', true],
  ])('%s names %s: %s', async (text, path, named) => expect(await isNamed(text, path)).toBe(named))
})
