import { describe, expect, test } from 'vitest'
import { letsSend, type SpfTerm, spfTerms } from '../../../src/core/mail/spf/terms.ts'

describe('the terms of an SPF record (RFC 7208 §4.6.1)', () => {
  test.each<[string, Partial<SpfTerm>]>([
    ['-all', { qualifier: '-', name: 'all', value: '', prefix: '' }],
    ['all', { qualifier: '+', name: 'all' }],
    ['?MX', { qualifier: '?', name: 'mx', value: '' }],
    ['a/24', { name: 'a', value: '', prefix: '/24' }],
    ['a:mail.larkpost.example/24//64', { name: 'a', value: 'mail.larkpost.example', prefix: '/24//64' }],
    ['mx//64', { name: 'mx', value: '', prefix: '//64' }],
    ['ip4:192.0.2.0/24', { name: 'ip4', value: '192.0.2.0', prefix: '/24' }],
    ['ip6:2001:db8::/32', { name: 'ip6', value: '2001:db8::', prefix: '/32' }],
    ['~include:_spf.larkpost.example', { qualifier: '~', name: 'include', value: '_spf.larkpost.example' }],
    ['exists:%{i}._spf.%{d2}', { name: 'exists', value: '%{i}._spf.%{d2}' }],
    ['redirect=_spf.larkpost.example', { qualifier: '', name: 'redirect', value: '_spf.larkpost.example' }],
    ['EXP=why.%{d}', { qualifier: '', name: 'exp', value: 'why.%{d}' }],
    ['x-ferry=a:b/24', { qualifier: '', name: 'x-ferry', value: 'a:b/24', prefix: '' }],
  ])('%s', (term, expected) => expect(spfTerms(`v=spf1 ${term}`)).toEqual([expect.objectContaining({ text: term, ...expected })]))

  test('several spaces divide as one does', () => expect(spfTerms('v=spf1  mx   -all ').map(({ text }) => text)).toEqual(['mx', '-all']))

  test.each([
    ['v=spf1 -all', false],
    ['v=spf1', false],
    ['v=spf1 -mx -all', false],
    ['v=spf1 exp=why.larkpost.example -all', false],
    ['v=spf1 mx -all', true],
    ['v=spf1 ~all', true],
    ['v=spf1 redirect=_spf.larkpost.example', true],
  ])('%s lets somebody send: %s', (text, expected) => expect(letsSend(text)).toBe(expected))
})
