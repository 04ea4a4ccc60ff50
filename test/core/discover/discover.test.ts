import { describe, expect, test } from 'vitest'
import { type AskServer, discover } from '../../../src/core/discover/discover.ts'
import { statedNames, usualNames } from '../../../src/core/discover/usual-names.ts'
import type { Message } from '../../../src/core/message/message.ts'
import { emptyMessage } from '../../../src/core/message/message.ts'
import { rdataText } from '../../../src/core/records/rdata.ts'
import { typeText } from '../../../src/core/records/types.ts'
import { exampleZones } from '../../../src/core/rules/example.ts'
import { respond } from '../../../src/serve/respond.ts'

const ZONE = 'hollowmere.example.'

/** A server with these records below a sound SOA and NS set. */
function server(lines: string): AskServer {
  const zones = exampleZones(lines)
  return async (name, type) =>
    respond(zones, { ...emptyMessage(1), questions: [{ name, type, class: 1 }] }, 1) as Message
}

async function found(servers: AskServer[], stated = '') {
  const names = statedNames(stated, ZONE)
  if ('refused' in names) throw new Error(names.refused)
  const result = await discover({ zone: ZONE, guesses: [...names, ...usualNames(ZONE)], servers, fresh: 'fresh-1' })
  const sets = result?.records
    .filter(({ type }) => typeText(type) !== 'SOA')
    .map(({ owner, type, data }) => `${owner.replace(`.${ZONE}`, '')} ${typeText(type)} ${rdataText(type, data)}`)
  return { ...result, sets: sets?.filter((each) => !/^(?:hollowmere\.example\. NS|ns\d)/.test(each)).sort() }
}

describe('what a zone has is found', () => {
  test.each<[string, string, string, string[]]>([
    [
      'at usual names, for every type there',
      'www A 192.0.2.1\nwww SSHFP 4 2 1234\nqx7 A 192.0.2.9',
      '',
      ['www A 192.0.2.1', 'www SSHFP 4 2 1234'],
    ],
    [
      'at stated names',
      'qx7 LOC 1 N 1 E 0m',
      '# mine\nqx7 ; no',
      ['qx7 LOC 1 0 0.000 N 1 0 0.000 E 0.00m 1m 10000m 10m'],
    ],
    [
      'where records lead to, over several steps',
      '@ MX 10 qx1\nqx1 A 192.0.2.1\n_imaps._tcp SRV 0 1 993 qx2\nqx2 CNAME qx3\nqx3 AAAA 2001:db8::1',
      '',
      [
        '_imaps._tcp SRV 0 1 993 qx2.hollowmere.example.',
        'hollowmere.example. MX 10 qx1.hollowmere.example.',
        'qx1 A 192.0.2.1',
        'qx2 CNAME qx3.hollowmere.example.',
        'qx3 AAAA 2001:db8::1',
      ],
    ],
    [
      'an alias alone, where its target is outside',
      'shop CNAME a.elsewhere.example.',
      '',
      ['shop CNAME a.elsewhere.example.'],
    ],
    [
      'a wildcard once, beside real names with its data and more',
      '* A 192.0.2.1\nwww A 192.0.2.1\nwww TXT "real"\nmail A 192.0.2.2',
      '',
      ['* A 192.0.2.1', 'mail A 192.0.2.2', 'www A 192.0.2.1', 'www TXT "real"'],
    ],
    [
      'a wildcard of one type beside names of another',
      '* TXT "w"\nwww A 192.0.2.1',
      '',
      ['* TXT "w"', 'www A 192.0.2.1'],
    ],
    [
      'a wildcard that is an alias',
      '* CNAME front\nfront A 192.0.2.1\nftp CNAME other.example.',
      '',
      ['* CNAME front.hollowmere.example.', 'front A 192.0.2.1', 'ftp CNAME other.example.'],
    ],
    [
      'a wildcard further down, which the one above does not answer for',
      '* A 192.0.2.1\n*.dev A 192.0.2.2\ndev A 192.0.2.3',
      'x.dev',
      ['* A 192.0.2.1', '*.dev A 192.0.2.2', 'dev A 192.0.2.3'],
    ],
    ['below names that exist only for what is below them', 'a.b.c A 192.0.2.1', 'a.b.c\nb.c', ['a.b.c A 192.0.2.1']],
    [
      'a delegation with its glue and DS, and nothing below it',
      'shop NS ns.shop\nns.shop A 192.0.2.8\nshop DS 1 13 2 0000000000000000000000000000000000000000000000000000000000000000',
      'x.shop',
      [
        'ns.shop A 192.0.2.8',
        'shop DS 1 13 2 0000000000000000000000000000000000000000000000000000000000000000',
        'shop NS ns.shop.hollowmere.example.',
      ],
    ],
    ['an alias of a whole subtree', 'old DNAME new.example.', 'x.old', ['old DNAME new.example.']],
  ])('%s', async (_what, lines, stated, sets) => {
    const result = await found([server(lines)], stated.replace(' ; no', ''))
    expect(result.sets).toEqual([...sets].sort())
    expect(result.unknown).toEqual([])
  })

  test('along NSEC records to the end, real names with a wildcard’s data too', async () => {
    const result = await found([
      server(
        '@ NSEC *.hollowmere.example. SOA NS NSEC\n* NSEC qx1 A NSEC\n* A 192.0.2.1\nqx1 NSEC qx2.hollowmere.example. A NSEC\nqx1 A 192.0.2.1\nqx2 NSEC @ TYPE65400 NSEC\nqx2 TYPE65400 \\# 1 07',
      ),
    ])
    expect(result.walked).toBe('whole')
    expect(result.sets).toEqual(['* A 192.0.2.1', 'qx1 A 192.0.2.1', 'qx2 TYPE65400 \\# 1 07'])
  })

  test('but not along NSEC records that are made up for each answer (RFC 4470)', async () =>
    expect((await found([server('@ NSEC \\000.hollowmere.example. SOA NS NSEC\nwww A 192.0.2.1')])).walked).toBe(
      'hidden',
    ))

  test('only by authority: who lacks it is passed over, and what nobody answers for is told', async () => {
    const good = server('www A 192.0.2.1\nmail A 192.0.2.2')
    const without: AskServer = async (name, type) => ({ ...(await good(name, type))!, authoritative: false })
    const failing: AskServer = async (name, type) => (name.startsWith('mail.h') ? undefined : good(name, type))
    expect((await found([without, good])).sets).toEqual(['mail A 192.0.2.2', 'www A 192.0.2.1'])
    expect(await found([without, failing])).toMatchObject({ unknown: ['mail.hollowmere.example.'] })
    expect((await found([without])).records).toBeUndefined()
  })
})
