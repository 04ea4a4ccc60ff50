/** Servers for the histories: the primary that is played in this process, and real ones. */
import { execFileSync } from 'node:child_process'
import { transferOf } from '../../src/cli/commands/servers.ts'
import { setsOf, soaOf } from '../../src/core/change/difference.ts'
import { readZone } from '../../src/core/file/reader.ts'
import { UPDATE } from '../../src/core/message/message.ts'
import { type RecordSet, Zones } from '../../src/core/model/zones.ts'
import { octetsOf } from '../../src/core/names/octets.ts'
import { rdataText } from '../../src/core/records/rdata.ts'
import { TYPE, typeText } from '../../src/core/records/types.ts'
import { soa } from '../../src/core/records/views.ts'
import { Primary } from '../../src/serve/primary.ts'
import { serve } from '../../src/serve/sockets.ts'
import { updatableZones } from '../servers/servers.ts'
import type { State } from './model.ts'
import { type Judged, ZONE, zoneText } from './play.ts'

function zonesOf(text: string): Zones {
  const zones = new Zones()
  readZone(zones, zones.addSource(zones.addZone(`${ZONE}.`, 'z'), 'z', octetsOf(text)))
  zones.seal()
  return zones
}

/** A message of more octets than this is not read: so that a change of a few long texts takes several. */
const MOST = 1500
const AXFR = 252

export async function played(text: string): Promise<Judged> {
  const primary = new Primary(zonesOf(text))
  let hanging: { left: number; isDone: boolean; hangs(): void } | undefined
  let isClosed = false
  const served = await serve((query, id, udp) => {
    if ('garbled' in query) return primary.respond(query, id, udp)
    if (isClosed && query.questions[0]?.type === AXFR) return { ...query, response: true, rcode: 5 }
    if (query.opcode !== UPDATE) return primary.respond(query, id, udp)
    const octets = [...query.answers, ...query.authority].reduce(
      (sum, { owner, data }) => sum + owner.length + 12 + data.length,
      0,
    )
    if (octets > MOST) return { ...query, response: true, rcode: 1, answers: [], authority: [], additional: [] }
    if (hanging && --hanging.left === 0) {
      if (hanging.isDone) primary.respond(query, id, udp)
      hanging.hangs()
      return undefined
    }
    return primary.respond(query, id, udp)
  })
  const state = (): State => stateOf(setsOf(primary.zones, primary.zones.zones[0]!).values())
  return {
    port: served.port,
    state,
    others(key, value) {
      const next = state()
      if (value === undefined) next.delete(key)
      else next.set(key, value)
      const { serial } = soa(soaOf(primary.zones, primary.zones.zones[0]!)!.data[0]!)
      primary.zones = zonesOf(zoneText(next, serial + 1))
    },
    hang: (n, isDone) =>
      new Promise((hangs) => {
        hanging = n === 0 ? undefined : { left: n, isDone, hangs }
      }),
    close: (is) => void (isClosed = is),
    stop: () => served.close(),
  }
}

/** Sets in the model’s form. */
function stateOf(sets: Iterable<RecordSet>): State {
  const found: State = new Map()
  for (const { owner, type, ttl, data } of sets) {
    if (type === TYPE.NS) continue
    const name = owner === `${ZONE}.` ? '@' : owner.slice(0, -ZONE.length - 2)
    const values = data.map((each) => rdataText(type, each)).sort()
    found.set(`${name} ${typeText(type)}`, `${ttl} ${values.join('|')}`)
  }
  return found
}

/** Somebody else’s update, by a library that nobody here wrote: sets that go, then records that come. */
const OTHERS = `
my ($port, @lines) = @ARGV;
my $update = Net::DNS::Update->new('${ZONE}');
for (@lines) { $update->push(update => s/^add // ? rr_add($_) : s/^gone // ? rr_del($_) : die $_) }
my $reply = Net::DNS::Resolver->new(nameservers => ['127.0.0.1'], port => $port, usevc => 1)->send($update);
die 'no answer' unless $reply;
die $reply->header->rcode unless $reply->header->rcode eq 'NOERROR';
`

/** A real server, of its own for each history. */
export const real =
  (program: 'named' | 'knotd') =>
  async (text: string): Promise<Judged> => {
    const server = await updatableZones({ [ZONE]: text }, undefined, program)
    const vantage = { label: program, address: '127.0.0.1', port: server.port, transport: 'tcp' as const }
    return {
      port: server.port,
      async state() {
        const there = await transferOf(vantage, `${ZONE}.`, 5000)
        if ('failed' in there) throw new Error(there.failed)
        return stateOf(there.sets.values())
      },
      others(key, value) {
        const [owner, type] = key.split(' ')
        const name = owner === '@' ? `${ZONE}.` : `${owner}.${ZONE}.`
        const [, ttl, values] = /^(\d+) (.*)$/.exec(value ?? '0 ')!
        const come = value === undefined ? [] : values!.split('|').map((each) => `add ${name} ${ttl} ${type} ${each}`)
        execFileSync('perl', ['-MNet::DNS', '-e', OTHERS, String(server.port), `gone ${name} ${type}`, ...come])
      },
      stop: () => server.stop(),
    }
  }
