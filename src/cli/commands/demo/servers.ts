/** The two name servers of the ferry line’s zones, a registry’s and a resolver, all of them simulated. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Network, serveNetwork } from '../../../sim/network.ts'
import { bareFiles, CONFIG_FILE, loadZones } from '../../../workspace/workspace.ts'
import { CLOCK } from '../../clock.ts'
import type { Story } from './story.ts'

/** Plays acts at them; the workspace knows where they are. */
export async function atServers(
  story: Story,
  acts: readonly ((story: Story, served: Served) => Promise<void>)[],
): Promise<void> {
  story.say(
    'The two name servers at Upland still have yesterday’s zones, and a resolver asked them this morning. All of them are simulated here.',
  )
  const started = CLOCK.elapsed()
  const network = new Network(() => (CLOCK.elapsed() - started) / 1000 + story.ahead)
  const elsewhere = ['upland-dns', 'larkpost', 'quillwing', 'northlight'].map((name) =>
    join(story.material, 'elsewhere', `${name}.example.zone`),
  )
  const serves = (address: string, ...files: string[]): void =>
    network.server(address, loadZones(bareFiles([...files, ...elsewhere])))
  const before = ['hollowmere', 'hollowmere-freight', 'lakepass'].map((name) =>
    join(story.material, 'zones', `${name}.example.zone`),
  )
  const written = ['hollowmere', 'hollowmere-freight', 'lakepass'].map((name) =>
    story.scratch.path('zones', `${name}.example.zone`),
  )
  const [NS1, NS2, RESOLVER] = ['198.51.100.53', '203.0.113.53', '192.0.2.3']
  network.server('198.51.100.1', loadZones(bareFiles([join(story.material, 'elsewhere', 'example.zone')])))
  serves(NS1, ...before)
  serves(NS2, ...before)
  network.resolver(RESOLVER, ['198.51.100.1'])
  const { ports, close } = await serveNetwork(network)
  try {
    const port = (address: string): string => `address: 127.0.0.1, port: ${ports.get(address)!.port}`
    const vantages = `vantages:\n  - authoritative\n  - {label: lake-office, ${port(RESOLVER)}}\n`
    const servers = `servers:\n  - {name: ns1.upland-dns.example, ${port(NS1)}}\n  - {name: ns2.upland-dns.example, ${port(NS2)}}\n  - {name: ns.registry.example, ${port('198.51.100.1')}}\n`
    story.scratch.put(
      CONFIG_FILE,
      readFileSync(story.scratch.path(CONFIG_FILE), 'utf8')
        .replace('vantages:\n  - authoritative\n  - system\n', vantages)
        .replace('servers: []\n', servers),
    )
    const served: Served = {
      port: ports.get(RESOLVER)!.port,
      written,
      serves: (address, ...files) => serves(address, ...files),
      NS1,
      NS2,
    }
    for (const act of acts) await act(story, served)
  } finally {
    await close()
  }
}

export interface Served {
  /** Of the resolver. */
  port: number
  /** The zone files as they are intended. */
  written: string[]
  serves(address: string, ...files: string[]): void
  NS1: string
  NS2: string
}
