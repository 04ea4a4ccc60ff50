// Plays the demo's servers and a resolver on loopback for pictures: node with tsx, scripts/play.ts WORKSPACE [untouched]. It serves the demo's zones as they are shipped; each SIGUSR2 takes it
// one stage further: the workspace's own files; then those with two slips of the hand. The resolver was asked before, unless “untouched” is said.

import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { CLOCK } from '../src/cli/clock.ts'
import { Asker } from '../src/net/ask.ts'
import { Network, serveNetwork } from '../src/sim/network.ts'
import { bareFiles, loadZones } from '../src/workspace/workspace.ts'

const workspace = process.argv[2]!
const [PARENT, NS1, NS2, RESOLVER] = ['198.51.100.1', '198.51.100.53', '203.0.113.53', '192.0.2.3']
const ZONES = ['hollowmere', 'hollowmere-freight', 'lakepass']
const network = new Network(() => Date.now() / 1000)
const elsewhere = ['upland-dns', 'larkpost', 'quillwing', 'northlight'].map(
  (name) => `demo/elsewhere/${name}.example.zone`,
)
const serves = (address: string, files: string[]): void =>
  network.server(address, loadZones(bareFiles([...files, ...elsewhere])))
const shipped = ZONES.map((name) => `demo/zones/${name}.example.zone`)
const own = ZONES.map((name) => join(workspace, 'zones', `${name}.example.zone`))

function mistyped(): string[] {
  const folder = join(workspace, 'form')
  mkdirSync(folder, { recursive: true })
  const file = join(folder, 'hollowmere.example.zone')
  const text = readFileSync(own[0]!, 'utf8')
  writeFileSync(
    file,
    text
      .replace(/^calendar /m, 'calendar.hollowmere.example ')
      .replace(/IN MX {4}20 mx2\.larkpost\.example\./, 'IN MX    20 mx2.larkpost.example'),
  )
  return [file, ...own.slice(1)]
}

const stages = [() => [shipped, shipped], () => [own, own], () => [mistyped(), mistyped()]]
let stage = 0
function play(): void {
  const [first, second] = stages[Math.min(stage++, stages.length - 1)]!()
  serves(NS1, first!)
  serves(NS2, second!)
}
network.server(PARENT, loadZones(bareFiles(['demo/elsewhere/example.zone'])))
play()
network.resolver(RESOLVER, [PARENT])
const { ports } = await serveNetwork(network)
const at = (address: string): string => `address: 127.0.0.1, port: ${ports.get(address)!.port}`
const config = join(workspace, 'bramblefront.yaml')
writeFileSync(
  config,
  readFileSync(config, 'utf8').replace(
    /\n# A server and a resolver[\s\S]*?\n\n/,
    `
vantages:
  - authoritative
  - {label: lake-office, ${at(RESOLVER)}}
servers:
  - {name: ns1.upland-dns.example, ${at(NS1)}}
  - {name: ns2.upland-dns.example, ${at(NS2)}}
  - {name: ns.registry.example, ${at(PARENT)}}

`,
  ),
)
if (process.argv[3] !== 'untouched') {
  const asker = new Asker({ label: 'morning', address: '127.0.0.1', port: ports.get(RESOLVER)!.port }, CLOCK)
  for (const type of [15, 16]) await asker.ask('hollowmere.example.', type)
  await asker.ask('timetable.hollowmere.example.', 5)
  asker.close()
}
process.on('SIGUSR2', play)
writeFileSync(join(workspace, 'playing'), '')
