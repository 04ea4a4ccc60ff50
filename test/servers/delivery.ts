/** A primary that takes updates, a workspace with a delivery to it, others who change it, and what stands between. */
import { execFileSync, spawnSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { connect, createServer, type Socket } from 'node:net'
import { join } from 'node:path'
import { afterEach } from 'vitest'
import { folderWith, HEAD, type Ran, run } from '../cli/program.ts'
import { type RealServer, type SharedKey, updatable } from './servers.ts'

/** What a test has started, to be stopped with it. */
export const open: { stop(): unknown }[] = []
afterEach(async () => {
  for (const each of open.splice(0)) await each.stop()
})

export const ZONE = 'hollowmere.example'
export const KEY: SharedKey = {
  name: 'upland',
  algorithm: 'hmac-sha256',
  secret: Buffer.alloc(32, 7).toString('base64'),
}
export const LINES = '@ MX 10 mail\nmail A 192.0.2.25\nwww A 192.0.2.1\nold A 192.0.2.9\n@ TXT "v=spf1 mx -all"\n'
export const keyText = ({ name, algorithm, secret }: SharedKey): string =>
  `key "${name}" { algorithm ${algorithm}; secret "${secret}"; };\n`

/** A workspace with the zone as the server handed it over, and a delivery to it. */
export async function workspace(
  program: 'named' | 'knotd',
  around: Parameters<typeof updatable>[4] = {},
  { lines = LINES, adopt = [] }: { lines?: string; adopt?: string[] } = {},
) {
  const server = await updatable(program, ZONE, HEAD + lines, KEY, around)
  open.push(server)
  const folder = folderWith({ 'keys/upland.key': keyText(KEY), 'bramblefront.yaml': 'zones: [zones/*.zone]\n' })
  writeFileSync(
    join(folder, 'bramblefront.yaml'),
    `zones: [zones/*.zone]\ndeliveries:\n  - {label: upland, zones: ["*"], by: update, address: 127.0.0.1, port: ${server.port}, key: keys/upland.key}\n`,
  )
  const { status, stderr } = await run(folder, 'adopt', ZONE, '--from', server.at, ...adopt)
  if (status !== 0) throw new Error(stderr)
  return { folder, server }
}
export const publish = (folder: string, ...args: string[]): Promise<Ran> =>
  run(folder, 'publish', ZONE, '--force', '--json', ...args)
export const differs = async (folder: string, server: RealServer): Promise<string[]> =>
  (await run(folder, 'diff', ZONE, '--with', server.at, '--json'))
    .json()
    .sets.map(({ owner, type }: any) => `${owner.split('.')[0]} ${type}`)

/** Somebody else’s update, made and signed by a library that nobody here wrote: `add` records, and `gone` sets. */
const OTHERS = `
my ($port, $key, $secret, @lines) = @ARGV;
my $update = Net::DNS::Update->new('hollowmere.example');
for (@lines) { $update->push(update => s/^add // ? rr_add($_) : s/^gone // ? rr_del($_) : die $_) }
$update->sign_tsig(Net::DNS::RR->new(name => $key, type => 'TSIG', algorithm => 'HMAC-SHA256', key => $secret));
my $reply = Net::DNS::Resolver->new(nameservers => ['127.0.0.1'], port => $port, usevc => 1)->send($update);
die 'no answer' unless $reply;
die $reply->header->rcode unless $reply->header->rcode eq 'NOERROR';
`
export const byOthers = (server: RealServer, ...lines: string[]): void =>
  void execFileSync('perl', ['-MNet::DNS', '-e', OTHERS, String(server.port), KEY.name, KEY.secret, ...lines])

/** Stands between the program and a server, and decides what becomes of each piece that goes there. */
export async function relay(
  port: number,
  asked: (piece: Buffer, client: Socket, server: Socket) => unknown,
): Promise<{ port: number }> {
  const listening = createServer((client) => {
    const server: Socket = connect(port, '127.0.0.1')
    client.on('data', (piece: Buffer) => void asked(piece, client, server))
    server.on('data', (piece) => void (client.destroyed || client.write(piece)))
    for (const each of [client, server])
      each
        .on('error', () => {})
        .on('close', () => {
          client.destroy()
          server.destroy()
        })
  })
  await new Promise<void>((done) => listening.listen(0, '127.0.0.1', done))
  open.push({ stop: () => listening.close() })
  return listening.address() as { port: number }
}

/** Lets everything through, but the first message of dynamic update. */
export function butTheFirst(
  held: (piece: Buffer, client: Socket, server: Socket) => void,
): Parameters<typeof relay>[1] {
  let isHeld = false
  return (piece, client, server) => {
    const isUpdate = piece.length > 4 && ((piece[4]! >> 3) & 15) === 5
    if (!isUpdate || isHeld) return server.write(piece)
    isHeld = true
    return held(piece, client, server)
  }
}

/** Lets through what is small; what is larger it refuses, or hangs up. */
export const onlySmall =
  (most: number, rcode?: number): Parameters<typeof relay>[1] =>
  (piece, client, server) => {
    if (piece.length <= most) return server.write(piece)
    if (rcode === undefined) return client.destroy()
    const refusal = Buffer.concat([Buffer.from([0, 12]), piece.subarray(2, 4), Buffer.from([0xa8, rcode])])
    return client.write(Buffer.concat([refusal, Buffer.alloc(8)]))
  }

/** Has the delivery go to another port. */
export function through(folder: string, from: { port: number }, to: { port: number }): void {
  const path = join(folder, 'bramblefront.yaml')
  writeFileSync(path, readFileSync(path, 'utf8').replace(`port: ${from.port}`, `port: ${to.port}`))
}

/** Whether the others’ library is missing; never in CI. */
export const nobodyElse = (): boolean => spawnSync('perl', ['-MNet::DNS', '-e', '1']).status !== 0 && !process.env.CI
