/** The primary that is played on loopback does what named does with the same messages. */
import fc from 'fast-check'
import { afterEach, expect, test } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { Made } from '../../src/cli/commands/adopt/made.ts'
import { differences, type Sets, setsOf } from '../../src/core/change/difference.ts'
import type { Vantage } from '../../src/core/confirm/observation.ts'
import type { Key } from '../../src/core/message/key.ts'
import { emptyMessage, type MessageRecord } from '../../src/core/message/message.ts'
import { parseRdata } from '../../src/core/records/rdata.ts'
import { TYPE } from '../../src/core/records/types.ts'
import { fetchZone } from '../../src/net/transfer.ts'
import { sendUpdate } from '../../src/net/update.ts'
import { Primary } from '../../src/serve/primary.ts'
import { serve } from '../../src/serve/sockets.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD } from '../cli/program.ts'
import { mayskip, updatable } from './servers.ts'

const open: { stop(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.stop()
})

const ZONE = 'hollowmere.example.'
const LINES = '@ MX 10 mx1.larkpost.example.\nmail A 192.0.2.25\nwww CNAME mail\n@ TXT "v=spf1 mx -all"\n'
const KEY: Key = { name: 'upland.', algorithm: 'hmac-sha256', secret: new Uint8Array(32).fill(7) }
const VALUES: Record<number, string[]> = {
  [TYPE.A]: ['192.0.2.25', '192.0.2.1', '192.0.2.2'],
  [TYPE.TXT]: ['"v=spf1 mx -all"', '"one"', '"two"'],
  [TYPE.MX]: ['10 mx1.larkpost.example.', '20 mx2.larkpost.example.'],
  [TYPE.CNAME]: [`mail.${ZONE}`, `a.${ZONE}`],
  [TYPE.NS]: ['ns1.upland-dns.example.', 'ns2.upland-dns.example.', 'ns3.upland-dns.example.'],
}
const ROOT = new Uint8Array([0])
const NOTHING = new Uint8Array()

const owner = fc.oneof(
  { weight: 12, arbitrary: fc.constantFrom('', 'mail.', 'www.', 'a.', 'b.a.').map((label) => label + ZONE) },
  { weight: 1, arbitrary: fc.constant('elsewhere.example.') },
)
const type = fc.constantFrom(...Object.keys(VALUES).map(Number))
const record = (klass: number, ttls: fc.Arbitrary<number>): fc.Arbitrary<MessageRecord> =>
  type.chain((of) =>
    fc.record({
      owner,
      type: fc.constant(of),
      class: fc.constant(klass),
      ttl: ttls,
      data: fc.constantFrom(...VALUES[of]!).map((text) => (parseRdata(of, text, ROOT) as { wire: Uint8Array }).wire),
    }),
  )
const [NONE, ANY, IN] = [254, 255, 1]
const never = fc.constant(0)
const empty = (klass: number): fc.Arbitrary<MessageRecord> =>
  fc.record({
    owner,
    type: fc.oneof(type, fc.constant(255)),
    class: fc.constant(klass),
    ttl: never,
    data: fc.constant(NOTHING),
  })
const message = fc.record({
  prerequisites: fc.array(fc.oneof(empty(ANY), empty(NONE), record(IN, never)), { maxLength: 2 }),
  updates: fc.array(
    fc.oneof(
      { weight: 4, arbitrary: record(IN, fc.constantFrom(60, 3600)) },
      { weight: 1, arbitrary: empty(ANY) },
      { weight: 2, arbitrary: record(NONE, never) },
    ),
    { maxLength: 4 },
  ),
})

async function stateOf(vantage: Vantage): Promise<Sets> {
  const made = new Made(ZONE)
  const take = (records: readonly MessageRecord[]): void => made.take(records)
  expect(await fetchZone(vantage, ZONE, { clock: CLOCK, limitMs: 5000, take })).not.toHaveProperty('failed')
  const { zones } = made.whole()
  made.drop()
  return setsOf(zones, zones.zones[0]!)
}

test.skipIf(mayskip('named'))('of random messages', async () => {
  const folder = folderWith({ 'hollowmere.example.zone': HEAD + LINES })
  const played = await serve(new Primary(loadZones(bareFiles([`${folder}/hollowmere.example.zone`]))).respond)
  const secret = Buffer.from(KEY.secret).toString('base64')
  const server = await updatable('named', ZONE.slice(0, -1), HEAD + LINES, { ...KEY, name: 'upland', secret })
  open.push(server, { stop: () => played.close() })
  const at = (port: number): Vantage => ({ label: 'it', address: '127.0.0.1', port, transport: 'tcp' })
  const how = { clock: CLOCK, limitMs: 5000 }
  const codes = new Set<string>()
  for (const { prerequisites, updates } of fc.sample(message, { numRuns: 150, seed: 20_261_130 })) {
    const head = { ...emptyMessage(0), opcode: 5, questions: [{ name: ZONE, type: TYPE.SOA, class: IN }] }
    const whole = { ...head, answers: prerequisites, authority: updates }
    const theirs = await sendUpdate(at(server.port), whole, { ...how, key: KEY })
    const ours = await sendUpdate(at(played.port), whole, how)
    const about = `${[...prerequisites, ...updates].map((each) => `${each.owner} ${each.class} ${each.type} ${each.ttl} ${Buffer.from(each.data).toString('hex')}`).join('; ')}`
    expect([about, ours]).toEqual([about, theirs])
    codes.add((theirs as { rcode: string }).rcode)
    const there = await stateOf(at(server.port))
    expect([about, differences(there, await stateOf(at(played.port)))]).toEqual([about, []])
  }
  expect([...codes].sort()).toEqual(['NOERROR', 'NOTZONE', 'NXDOMAIN', 'NXRRSET', 'YXDOMAIN', 'YXRRSET'])
})
