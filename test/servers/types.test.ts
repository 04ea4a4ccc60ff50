import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { foldName, nameToWire } from '../../src/core/names/name.ts'
import { parseRdata, rdataKey } from '../../src/core/records/rdata.ts'
import { parseType } from '../../src/core/records/types.ts'
import { transferZone } from '../../src/index.ts'
import { folderWith } from '../cli/program.ts'
import { VECTORS } from '../core/records/vectors.ts'
import { knotd, mayskip, named, nsd, type RealServer } from './servers.ts'
import { UNREAD } from './unread.ts'

const ZONE = 'hollowmere.example.'
const HEAD = `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster 1 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\n`

const SERVERS: [string, (zones: Record<string, string>) => Promise<RealServer>][] = [
  ['named', named],
  ['knotd', knotd],
  ['nsd', nsd],
]

describe.each(SERVERS)('%s reads every text as the table does', (program, start) => {
  test.skipIf(mayskip(program))('and sends the same octets', async () => {
    const used = VECTORS.map(([type, text], i) => ({ type, text, i })).filter(
      ({ type }) => type !== 'SOA' && !UNREAD[program]!.includes(type),
    )
    const folder = folderWith({
      'types.zone': HEAD + used.map(({ type, text, i }) => `v${i} ${type} ${text}\n`).join(''),
    })
    const server = await start({ 'hollowmere.example': join(folder, 'types.zone') })
    try {
      const transferred = await transferZone({ label: program, address: '127.0.0.1', port: server.port }, ZONE)
      if ('failed' in transferred) throw new Error(transferred.failed)
      const sent = new Map(
        transferred.records.map((record) => [
          `${foldName(record.owner)} ${record.type}`,
          Buffer.from(rdataKey(record.type, record.data), 'latin1').toString('hex'),
        ]),
      )
      const origin = nameToWire(ZONE) as Uint8Array
      const differing = used.flatMap(({ type, text, i }) => {
        const number = parseType(type)!
        const parsed = parseRdata(number, text, origin)
        const ours =
          'wire' in parsed ? Buffer.from(rdataKey(number, parsed.wire), 'latin1').toString('hex') : parsed.message
        const theirs = sent.get(`v${i}.${ZONE} ${number}`)
        return ours === theirs ? [] : [{ type, text, ours, theirs }]
      })
      expect(differing).toEqual([])
    } finally {
      await server.stop()
    }
  })
})
