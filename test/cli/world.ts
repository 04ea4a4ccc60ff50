/** A workspace whose servers, their parent and a resolver are played on loopback. */

import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach } from 'vitest'
import { CLOCK } from '../../src/cli/clock.ts'
import { Asker } from '../../src/net/ask.ts'
import { Network, serveNetwork } from '../../src/sim/network.ts'
import { bareFiles, loadZones } from '../../src/workspace/workspace.ts'
import { folderWith, HEAD } from './program.ts'

/** What is closed after each test. */
export const open: { close(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.close()
})

export const ZONE = 'hollowmere.example'
const PARENT = `$TTL 3600
@ SOA ns.registry h 1 2 3 4 5
@ NS ns.registry
ns.registry A 198.51.100.1
hollowmere NS ns1.upland-dns.example.
hollowmere NS ns2.upland-dns.example.
ns1.upland-dns A 198.51.100.53
ns2.upland-dns A 203.0.113.53
`

/** A workspace with one zone, its servers, the parent's and a resolver; all of them listen here. */
export async function world(lines: string, vantages = ['authoritative', 'lake']) {
  const folder = folderWith({ [`zones/${ZONE}.zone`]: HEAD + lines, 'served/example.zone': PARENT })
  const file = join(folder, 'zones', `${ZONE}.zone`)
  const network = new Network(() => Date.now() / 1000)
  const serve = (address: string, path: string, zone?: string): void =>
    network.server(address, loadZones(bareFiles([path], zone)))
  const load = (address: string, text = readFileSync(file, 'utf8')): void => {
    mkdirSync(join(folder, 'served'), { recursive: true })
    const served = join(folder, 'served', `${ZONE}.zone`)
    writeFileSync(served, text)
    serve(address, served, ZONE)
  }
  serve('198.51.100.1', join(folder, 'served/example.zone'), 'example')
  load('198.51.100.53')
  load('203.0.113.53')
  network.resolver('192.0.2.3', ['198.51.100.1'])
  const served = await serveNetwork(network)
  open.push(served)
  const port = (address: string): number => served.ports.get(address)!.port
  const place = (address: string): string => `address: 127.0.0.1, port: ${port(address)}`
  const entry: Record<string, string> = { authoritative: 'authoritative', lake: `{label: lake, ${place('192.0.2.3')}}` }
  writeFileSync(
    join(folder, 'bramblefront.yaml'),
    `zones: [zones/*.zone]
vantages:
${vantages.map((each) => `  - ${entry[each]}\n`).join('')}servers:
  - {name: ns1.upland-dns.example, ${place('198.51.100.53')}}
  - {name: ns2.upland-dns.example, ${place('203.0.113.53')}}
  - {name: ns.registry.example, ${place('198.51.100.1')}}
`,
  )
  const asks = async (name: string, type: number): Promise<void> => {
    const asker = new Asker({ label: 'somebody', address: '127.0.0.1', port: port('192.0.2.3') }, CLOCK)
    await asker.ask(`${name}.${ZONE}.`, type)
    asker.close()
  }
  return {
    folder,
    file,
    network,
    load,
    asks,
    port,
    published: () => ['198.51.100.53', '203.0.113.53'].forEach((each) => void load(each)),
  }
}
