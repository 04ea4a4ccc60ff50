import { describe, expect, test } from 'vitest'
import {
  idnaStatus,
  inPeoplesLetters,
  toALabel,
  toAsciiMailbox,
  toAsciiName,
  toULabel,
} from '../../../src/core/names/idna.ts'

describe('internationalised labels', () => {
  test.each([
    ['bücher', 'xn--bcher-kva'],
    ['Bücher', 'xn--bcher-kva'],
    ['bu\u0308cher', 'xn--bcher-kva'],
    ['faß', 'xn--fa-hia'],
    ['βόλος', 'xn--nxasmm1c'],
    ['例え', 'xn--r8jz45g'],
    ['ｆähre', 'xn--fhre-loa'],
    ['ไทย', 'xn--o3cw4h'],
    ['עברית', 'xn--5dbqzzl'],
    ['نامه\u200cای', 'xn--mgba3gch31f060k'],
    ['l·l', 'xn--ll-0ea'],
    ['ශ්\u200dරී', 'xn--10cl1a0b660p'],
  ])('%s is %s', (label, encoded) => {
    const made = toALabel(label)
    expect(made).toEqual({ label: encoded })
    expect(toALabel(toULabel(encoded)!)).toEqual({ label: encoded })
  })

  test.each([
    ['☃', /U\+2603 .* is not allowed/],
    ['i❤', /U\+2764/],
    ['a·b', /between two l only/],
    ['-ü', /begins or ends with a hyphen/],
    ['ab--ü', /third and fourth/],
    ['\u0301ü', /combining mark/],
    ['a\u200db', /joining sign/],
    ['a\u05b0\u200db', /joining sign/],
    ['\u0631\u200c\u0627', /letters that join only/],
    ['\u0663', /does not begin with one/],
    ['\u05e21\u0660', /two kinds of digits/],
    ['\u05e2-', /hyphen/],
    ['\u0378', /not assigned/],
    ['aע', /does not begin with one/],
    ['עaב', /runs from left to right/],
    ['ü'.repeat(60), /at most 63/],
    ['٠۰ع', /./],
  ])('%s is refused', (label, why) => expect(toALabel(label)).toEqual({ refused: expect.stringMatching(why) }))

  // Code points from the table of RFC 5892 appendix B.1.
  test.each([
    ['valid', [0x2d, 0x30, 0x61, 0xdf, 0xe0, 0x131, 0x138, 0x3c2, 0x6fd, 0x3007, 0x4e00, 0xac00, 0x3042, 0xe01, 0x94d]],
    [
      'disallowed',
      [
        0x41, 0x5f, 0xa0, 0xc0, 0x132, 0x17f, 0x345, 0x587, 0x640, 0x1100, 0x1fb3, 0x2126, 0x2603, 0x3000, 0xff41,
        0x1d100, 0xfdd0,
      ],
    ],
    ['context', [0xb7, 0x375, 0x5f3, 0x660, 0x6f9, 0x200c, 0x200d, 0x30fb]],
    ['unassigned', [0x378, 0x530, 0xe0080]],
  ] as const)('%s', (status, points) => expect(points.filter((point) => idnaStatus(point) !== status)).toEqual([]))

  test.each(['xn--bcher-kvb--', 'xn--', 'xn--n3h', 'xn--abc-', 'www'])('%s has no letters to show', (label) =>
    expect(toULabel(label)).toBeUndefined(),
  )

  // A middle dot among Japanese letters; non-joiners between letters that join and behind a virama (RFC 5892 appendix A.1); letters and digits of one direction.
  test.each([
    'ク・ス',
    '\u0646\u0627\u0645\u0647\u200c\u0627\u06cc',
    '\u0915\u094d\u200c\u0937',
    '\u07d0\u07c1',
    '\u05e2-1',
  ])('%s is allowed', (label) => expect(toALabel(label)).toHaveProperty('label'))

  test('whole names', () => {
    expect(toAsciiName('www.bücher。example.')).toEqual({ name: 'www.xn--bcher-kva.example.' })
    expect(toAsciiName('☃.example')).toEqual({ refused: expect.stringContaining('☃') })
    expect(toAsciiName('plain.example')).toEqual({ name: 'plain.example' })
    expect(inPeoplesLetters('www.xn--bcher-kva.example.')).toBe('www.bücher.example.')
    expect(inPeoplesLetters('www.example.')).toBeUndefined()
  })
})

describe('labels that map to ASCII, and names with letters from right to left', () => {
  test.each([
    ['Ｈｏｌｌｏｗｍｅｒｅ.example', 'hollowmere.example'],
    ['\u212aiosk.example', 'kiosk.example'],
    ['１２。example', '12.example'],
    ['אבג.example', 'xn--4dbcd.example'],
    ['_dmarc.אבג.example', '_dmarc.xn--4dbcd.example'],
    ['*.אבג.example', '*.xn--4dbcd.example'],
  ])('%s is %s', (typed, name) => expect(toAsciiName(typed)).toEqual({ name }))
  test.each([
    ['1a.אבג.example', /begins with no letter/],
    ['a.אבג.1example', /begins with no letter/],
    ['xn--4dbcd.2b.é', /begins with no letter/],
    ['a-.אבג', /ends with neither/],
  ])('%s is refused', (typed, why) => expect(toAsciiName(typed)).toEqual({ refused: expect.stringMatching(why) }))
  test.each([
    ['post@fähre.example', 'post@xn--fhre-loa.example'],
    ['pöst@fähre.example', 'pöst@xn--fhre-loa.example'],
    ['fähre.example', 'xn--fhre-loa.example'],
  ])('a mailbox: %s', (typed, name) => expect(toAsciiMailbox(typed)).toEqual({ name }))
})
