/** Real name servers on loopback, each in a temporary folder, for the tests that need what nobody here wrote. */

import { type ChildProcess, spawn } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CLOCK } from '../../src/cli/clock.ts'
import { Asker } from '../../src/net/ask.ts'
import { freePort } from '../../src/serve/free-port.ts'
import type { Certificates } from '../certificates.ts'

const where = (program: string): string | undefined =>
  ['/usr/sbin', '/usr/bin', '/usr/local/sbin'].map((folder) => join(folder, program)).find((path) => existsSync(path))

/** Whether tests that need these programs may be skipped: they are not here but this is not CI. */
export const mayskip = (...programs: string[]): boolean =>
  !process.env.CI && programs.some((program) => !where(program))

/** A key that transfers need. The secret is base64. */
export interface SharedKey {
  name: string
  algorithm: string
  secret: string
}

export interface RealServer {
  port: number
  at: string
  /** Further ports of this server that files() took, by what they are for. */
  ports: Record<string, number>
  /** Has it read its files anew. */
  reload(): void
  /** What it has printed. */
  said(): string
  stop(): Promise<void>
}

async function start(
  program: string,
  args: (folder: string, port: number) => string[],
  files: (folder: string, port: number) => Record<string, string>,
  probe: string,
  ports: Record<string, number> = {},
  own?: number,
): Promise<RealServer> {
  const path = where(program)
  if (!path) throw new Error(`${program} is not installed: scripts/install-servers.sh installs it`)
  const folder = mkdtempSync(join(tmpdir(), `bramblefront-${program}-`))
  const port = own ?? (await freePort())
  for (const [name, text] of Object.entries(files(folder, port))) writeFileSync(join(folder, name), text)
  const child: ChildProcess = spawn(path, args(folder, port), { stdio: ['ignore', 'pipe', 'pipe'] })
  let said = ''
  child.stdout!.on('data', (text) => (said += text))
  child.stderr!.on('data', (text) => (said += text))
  const stop = async (): Promise<void> => {
    if (child.exitCode === null && child.signalCode === null)
      await new Promise<void>((resolve) => child.on('exit', () => resolve()) && child.kill('SIGKILL'))
    rmSync(folder, { recursive: true, force: true })
  }
  const asker = new Asker({ label: program, address: '127.0.0.1', port }, CLOCK, {
    limitMs: 400,
    firstWaitMs: 200,
    patient: true,
  })
  for (let tries = 0; tries < 100; tries++) {
    const { message } = await asker.ask(probe, 6)
    if (message?.rcode === 0) {
      asker.close()
      return { port, at: `127.0.0.1:${port}`, ports, reload: () => void child.kill('SIGHUP'), said: () => said, stop }
    }
    if (child.exitCode !== null) break
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  asker.close()
  await stop()
  throw new Error(`${program} did not start:\n${said.slice(-2000)}`)
}

/** Where knotd runs, listens and complains: the head of its configuration. */
const knotHead = (folder: string, port: number): string => `server:
    rundir: "${folder}"
    listen: 127.0.0.1@${port}
log:
  - target: stderr
    any: info
database:
    storage: "${folder}"
`

/** The same for named, in its options. */
const namedHead = (
  folder: string,
  port: number,
): string => `directory "${folder}"; pid-file "${folder}/pid"; session-keyfile "${folder}/session.key"; lock-file none;
  listen-on port ${port} { 127.0.0.1; }; listen-on-v6 { none; };`

/** named with these zone files, authoritative only, signing them where it `signs`; with certificates also over TLS and HTTPS. */
export async function named(
  zones: Record<string, string>,
  secured?: Certificates,
  key?: SharedKey,
  signs = false,
): Promise<RealServer> {
  const ports: Record<string, number> = secured ? { tls: await freePort(), https: await freePort() } : {}
  const secure = secured && {
    before: `tls here { key-file "${secured.keyFile}"; cert-file "${secured.certificateFile}"; };\nhttp here { endpoints { "/dns-query"; }; };\n`,
    listen: `listen-on port ${ports.tls} tls here { 127.0.0.1; }; listen-on port ${ports.https} tls here http here { 127.0.0.1; };`,
  }
  return start(
    'named',
    (folder) => ['-g', '-c', join(folder, 'named.conf')],
    (folder, port) => ({
      'named.conf': `${key ? `key "${key.name}" { algorithm ${key.algorithm}; secret "${key.secret}"; };\n` : ''}${secure?.before ?? ''}options {
  ${secure?.listen ?? ''}
  ${namedHead(folder, port)}
  recursion no; dnssec-validation no; allow-query { any; }; allow-transfer { ${key ? `key "${key.name}"` : '127.0.0.1'}; }; notify no; minimal-responses yes; check-names primary ignore;
};
controls { };
${signs ? 'dnssec-policy "nsec" { keys { csk lifetime unlimited algorithm ecdsap256sha256; }; };' : ''}
${Object.entries(zones)
  .map(
    ([zone, file]) =>
      `zone "${zone}" { type primary; file "${file}";${signs ? ' dnssec-policy "nsec"; inline-signing yes;' : ''} };`,
  )
  .join('\n')}
`,
    }),
    `${Object.keys(zones)[0]}.`,
    ports,
  )
}

/** knotd with these zone files. */
export function knotd(zones: Record<string, string>, key?: SharedKey): Promise<RealServer> {
  return start(
    'knotd',
    (folder) => ['-c', join(folder, 'knot.conf')],
    (folder, port) => ({
      'knot.conf': `${knotHead(folder, port)}${key ? `key:\n  - id: ${key.name}\n    algorithm: ${key.algorithm}\n    secret: ${key.secret}\n` : ''}acl:
  - id: here
    ${key ? `key: ${key.name}` : 'address: 127.0.0.1'}
    action: transfer
template:
  - id: default
    storage: "${folder}"
    zonefile-load: whole
    zonefile-sync: -1
    journal-content: none
    semantic-checks: off
zone:
${Object.entries(zones)
  .map(([zone, file]) => `  - domain: ${zone}\n    file: "${file}"\n    acl: here`)
  .join('\n')}
`,
    }),
    `${Object.keys(zones)[0]}.`,
  )
}

/** Who else has to do with a primary that takes updates. */
interface Around {
  /** It listens over TLS, too. */
  secured?: Certificates
  /** It tells the server at this port of each change. */
  notifies?: number
  /** It signs the zone by itself. */
  signs?: boolean
  /** Only who has the key may transfer it. */
  closed?: boolean
  /** It is a secondary of the server at this port, and passes updates on (named). */
  primary?: number
}

/** A primary that takes dynamic updates of one zone from whoever has the key; anybody here may transfer it. */
export async function updatable(
  program: 'named' | 'knotd',
  zone: string,
  text: string,
  { name, algorithm, secret }: SharedKey,
  { secured, notifies, signs, closed, primary }: Around = {},
): Promise<RealServer> {
  const ports: Record<string, number> = secured ? { tls: await freePort() } : {}
  const file = (folder: string): string => join(folder, 'dynamic.zone')
  return program === 'named'
    ? start(
        'named',
        (folder) => ['-g', '-c', join(folder, 'named.conf')],
        (folder, port) => ({
          'dynamic.zone': text,
          'named.conf': `key "${name}" { algorithm ${algorithm}; secret "${secret}"; };
key "other" { algorithm ${algorithm}; secret "${secret}"; };
${secured ? `tls here { key-file "${secured.keyFile}"; cert-file "${secured.certificateFile}"; };` : ''}
options {
  ${namedHead(folder, port)}
  ${secured ? `listen-on port ${ports.tls} tls here { 127.0.0.1; };` : ''}
  recursion no; dnssec-validation no; allow-query { any; }; allow-transfer { ${closed ? `key "${name}"` : '127.0.0.1'}; }; check-names primary ignore;
};
controls { };
zone "${zone}" { ${
            primary === undefined
              ? `type primary; file "${file(folder)}"; allow-update { key "${name}"; }; ${signs ? 'dnssec-policy default; ' : ''}${notifies === undefined ? 'notify no;' : `notify explicit; also-notify { 127.0.0.1 port ${notifies}; };`}`
              : `type secondary; file "${folder}/copy"; primaries { 127.0.0.1 port ${primary}; }; allow-update-forwarding { any; };`
          } };
`,
        }),
        `${zone}.`,
        ports,
      )
    : start(
        'knotd',
        (folder) => ['-c', join(folder, 'knot.conf')],
        (folder, port) => ({
          'dynamic.zone': text,
          'knot.conf': `${knotHead(folder, port)}key:
  - id: ${name}
    algorithm: ${algorithm}
    secret: ${secret}
${notifies === undefined ? '' : `remote:\n  - id: secondary\n    address: 127.0.0.1@${notifies}\n`}acl:
  - id: fetch
    address: 127.0.0.1
    action: transfer
  - id: change
    key: ${name}
    action: [update, transfer]
template:
  - id: default
    storage: "${folder}"
    semantic-checks: off
zone:
  - domain: ${zone}
    file: "${file(folder)}"
    acl: [change${closed ? '' : ', fetch'}]
${signs ? '    dnssec-signing: on\n' : ''}${notifies === undefined ? '' : '    notify: secondary\n'}`,
        }),
        `${zone}.`,
      )
}

interface Second {
  key?: SharedKey
  /** The port from which it fetches its zones. */
  primary?: number
  /** Its own port, where the primary must know it. */
  port?: number
  /** It looks for changes only when it is told of them. */
  notified?: boolean
}

/** nsd with these zone files; or, where there is a primary, with these zones fetched from there. */
export function nsd(
  zones: Record<string, string>,
  { primary, key, port: own, notified }: Second = {},
): Promise<RealServer> {
  const refresh = notified
    ? 'allow-notify: 127.0.0.1 NOKEY\n  min-refresh-time: 3600'
    : 'min-refresh-time: 2\n  max-refresh-time: 2'
  return start(
    'nsd',
    (folder) => ['-d', '-c', join(folder, 'nsd.conf')],
    (folder, port) => ({
      'nsd.conf': `server:
  ip-address: 127.0.0.1@${port}
  username: ""
  zonesdir: "${folder}"
  pidfile: "${folder}/pid"
  database: ""
  zonelistfile: "${folder}/zone.list"
  xfrdfile: "${folder}/xfrd.state"
  xfrdir: "${folder}"
  server-count: 1
remote-control:
  control-enable: no
${key ? `key:\n  name: "${key.name}"\n  algorithm: ${key.algorithm}\n  secret: "${key.secret}"\n` : ''}${Object.entries(
  zones,
)
  .map(
    ([zone, file]) =>
      `zone:\n  name: "${zone}"\n  zonefile: "${file}"\n  ${primary === undefined ? `provide-xfr: 127.0.0.1 ${key?.name ?? 'NOKEY'}` : `request-xfr: AXFR 127.0.0.1@${primary} NOKEY\n  ${refresh}`}\n`,
  )
  .join('')}`,
    }),
    `${Object.keys(zones)[0]}.`,
    {},
    own,
  )
}

/** Unbound as a resolver that asks a server on loopback for these zones; with `lines` for its server clause, and with certificates also over TLS and HTTPS. */
export async function unbound(
  zones: string[],
  port: number,
  lines: string[] = [],
  secured?: Certificates,
): Promise<RealServer> {
  const ports: Record<string, number> = secured ? { tls: await freePort(), https: await freePort() } : {}
  const secure = secured
    ? [
        `interface: 127.0.0.1@${ports.tls}`,
        `interface: 127.0.0.1@${ports.https}`,
        `tls-port: ${ports.tls}`,
        `https-port: ${ports.https}`,
        `tls-service-key: "${secured.keyFile}"`,
        `tls-service-pem: "${secured.certificateFile}"`,
      ]
    : []
  return start(
    'unbound',
    (folder) => ['-d', '-c', join(folder, 'unbound.conf')],
    (folder, own) => ({
      'unbound.conf': `server:
  directory: "${folder}"
  chroot: ""
  username: ""
  pidfile: "${folder}/pid"
  use-syslog: no
  logfile: ""
  do-daemonize: no
  interface: 127.0.0.1@${own}
  access-control: 127.0.0.0/8 allow
  do-not-query-localhost: no
${lines.some((line) => line.startsWith('trust-anchor')) ? '' : '  module-config: "iterator"\n'}${[...lines, ...secure].map((line) => `  ${line}\n`).join('')}  do-ip6: no
  num-threads: 1
remote-control:
  control-enable: no
${zones.map((zone) => `stub-zone:\n  name: "${zone}"\n  stub-addr: 127.0.0.1@${port}\n`).join('')}`,
    }),
    `${zones[0]}.`,
    ports,
  )
}

/** named as a resolver that asks a server on loopback for these zones; with `lines` for its options. */
export function namedResolver(zones: string[], port: number, lines: string[] = []): Promise<RealServer> {
  return start(
    'named',
    (folder) => ['-g', '-c', join(folder, 'named.conf')],
    (folder, own) => ({
      'named.conf': `options {
  ${namedHead(folder, own)}
  recursion yes; dnssec-validation no; allow-query { any; }; allow-recursion { any; }; notify no; empty-zones-enable no;
  ${lines.join('\n  ')}
};
controls { };
${zones.map((zone) => `zone "${zone}" { type forward; forward only; forwarders { 127.0.0.1 port ${port}; }; };`).join('\n')}
`,
    }),
    `${zones[0]}.`,
  )
}

/** A primary of these zones (their texts), which takes updates of all of them from whoever is on this machine; named tells `notifies` of each. */
export function updatableZones(
  zones: Record<string, string>,
  notifies?: number,
  program: 'named' | 'knotd' = 'named',
): Promise<RealServer> {
  const names = Object.keys(zones)
  if (program === 'knotd')
    return start(
      'knotd',
      (folder) => ['-c', join(folder, 'knot.conf')],
      (folder, port) => ({
        ...Object.fromEntries(names.map((name) => [`${name}.zone`, zones[name]!])),
        'knot.conf': `${knotHead(folder, port)}acl:
  - id: here
    address: 127.0.0.1
    action: [update, transfer]
template:
  - id: default
    storage: "${folder}"
    semantic-checks: off
zone:
${names.map((name) => `  - domain: ${name}\n    file: "${folder}/${name}.zone"\n    acl: here`).join('\n')}
`,
      }),
      `${names[0]}.`,
    )
  return start(
    'named',
    (folder) => ['-g', '-c', join(folder, 'named.conf')],
    (folder, port) => ({
      ...Object.fromEntries(names.map((name) => [`${name}.zone`, zones[name]!])),
      'named.conf': `options {
  ${namedHead(folder, port)}
  recursion no; dnssec-validation no; allow-query { any; }; allow-transfer { 127.0.0.1; }; check-names primary ignore;
  ${notifies === undefined ? 'notify no;' : `notify explicit; notify-delay 0; also-notify { 127.0.0.1 port ${notifies}; };`}
};
controls { };
${names.map((name) => `zone "${name}" { type primary; file "${folder}/${name}.zone"; allow-update { 127.0.0.1; }; };`).join('\n')}
`,
    }),
    `${names[0]}.`,
  )
}

/** A server that reads a catalog zone (RFC 9432) from the primary at a port, and serves the zones that it lists. It is told of changes at `own`. */
export function catalogConsumer(
  program: 'named' | 'knotd',
  catalog: string,
  primary: number,
  own: number,
): Promise<RealServer> {
  if (program === 'named')
    return start(
      'named',
      (folder) => ['-g', '-c', join(folder, 'named.conf')],
      (folder, port) => ({
        'named.conf': `options {
  ${namedHead(folder, port)}
  recursion no; dnssec-validation no; allow-query { any; }; notify no; allow-notify { 127.0.0.1; };
  catalog-zones { zone "${catalog}" default-primaries { 127.0.0.1 port ${primary}; } in-memory yes min-update-interval 1; };
};
controls { };
zone "${catalog}" { type secondary; file "${folder}/catalog"; primaries { 127.0.0.1 port ${primary}; }; };
`,
      }),
      `${catalog}.`,
      {},
      own,
    )
  return start(
    'knotd',
    (folder) => ['-c', join(folder, 'knot.conf')],
    (folder, port) => ({
      ready: '@ 60 SOA a. b. 1 1 1 1 1\n@ 60 NS a.\n',
      'knot.conf': `${knotHead(folder, port)}remote:
  - id: primary
    address: 127.0.0.1@${primary}
acl:
  - id: told
    address: 127.0.0.1
    action: notify
template:
  - id: default
    storage: "${folder}"
    semantic-checks: off
  - id: member
    storage: "${folder}"
    master: primary
    acl: told
    semantic-checks: off
zone:
  - domain: ${catalog}
    master: primary
    acl: told
    catalog-role: interpret
    catalog-template: member
  # It answers nothing about catalogs; of this one it does once it is ready.
  - domain: ready.example
    file: "${folder}/ready"
`,
    }),
    'ready.example.',
    {},
    own,
  )
}
