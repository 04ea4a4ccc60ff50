/**
 * What writing bears, in the long form: kills and suspensions at every file call of every command that writes, disks that take less or fail, ten writers at once over a shared file,
 * links that lead out. Held means: after it and one ordinary call, every file is as before or as after a run without it. Ends with the counts.
 *
 *     npm run endure                     all of it
 *     npm run endure -- kills adopt      one kind, of the commands with such a name
 */
import { lstatSync, readFileSync, rmSync, symlinkSync } from 'node:fs'
import { cpus } from 'node:os'
import { join } from 'node:path'
import { updatable } from '../test/servers/servers.ts'
import {
  between,
  described,
  folderOf,
  HARDSHIPS,
  type Hardship,
  hadNoSuchCall,
  killed,
  run,
  states,
  statesOfTwo,
  suspended,
  unlock,
} from './hardships.ts'

const [kind, ...words] = process.argv.slice(2)
const chosen = HARDSHIPS.filter(({ what }) => words.length === 0 || words.some((word) => what.includes(word)))
const counts = new Map<string, { tried: number; held: number }>()

function count(of: string, fault: string | undefined): void {
  const known = counts.get(of) ?? { tried: 0, held: 0 }
  counts.set(of, { tried: known.tried + 1, held: known.held + Number(fault === undefined) })
  if (fault) process.stdout.write(`not held: ${fault}\n`)
}

/** Tries one call after the other, several at a time, until there is none left. */
async function everyCall(
  of: string,
  attempt: (at: number) => Promise<{ ended: boolean; fault?: string }>,
): Promise<void> {
  let next = 1
  let ended = false
  const worker = async (): Promise<void> => {
    while (!ended) {
      const found = await attempt(next++)
      if (found.ended) ended = true
      else count(of, found.fault)
    }
  }
  await Promise.all(cpus().map(worker))
}

async function kills(hardship: Hardship): Promise<void> {
  const { before, after } = await states(hardship)
  await everyCall('kills', (at) => killed(hardship, at, before, after))
}

async function suspensions(hardship: Hardship): Promise<void> {
  // Where there is nothing yet, there is nothing for another call to write.
  if (hardship.what === 'init') return
  const known = await statesOfTwo(hardship)
  await everyCall('suspended', (at) => suspended(hardship, at, known))
}

async function disks(hardship: Hardship, fault: string): Promise<void> {
  const { before, after } = await states(hardship)
  await everyCall(fault === 'short' ? 'short writes' : 'full and failing disks', async (at) => {
    const folder = folderOf(hardship.files)
    const ran = await run(folder, hardship.args, { kind: fault, at })
    if (hadNoSuchCall(ran)) return { ended: true }
    const wrong = between(folder, fault === 'short' ? after : before, after)
    rmSync(folder, { recursive: true })
    return { ended: false, fault: wrong && `${hardship.what}, ${fault} at call ${at}: ${wrong}` }
  })
}

/** Ten writers, each with a host of its own in one file that two zones include. */
async function writers(round: number): Promise<void> {
  const { files } = HARDSHIPS.find(({ what }) => what.includes('two zones include'))!
  const folder = folderOf(files)
  const hosts = Array.from({ length: 10 }, (_, i) => `h${i}`)
  const ran = await Promise.all(
    hosts.map((_, i) => {
      const zone = i % 2 ? 'lakepass.example' : 'hollowmere-freight.example'
      return run(folder, ['write', 'address', `dock.${zone}`, `198.51.100.${i + 1}`, '--add', '--force'])
    }),
  )
  const text = readFileSync(join(folder, 'zones/parts/shared'), 'utf8')
  const lost = hosts.filter((_, i) => !text.includes(`198.51.100.${i + 1}\n`))
  const lines = readFileSync(join(folder, 'log.jsonl'), 'utf8').trim().split('\n').length - 1
  const failed = ran.filter(({ status }) => status !== 0).length
  const held = lost.length === 0 && failed === 0 && lines === 10
  count(
    'ten writers',
    held ? undefined : `round ${round}: lost ${lost.join(', ') || 'none'}, ${failed} failed, ${lines} in the log`,
  )
  rmSync(folder, { recursive: true })
}

/** Links in the places that a command writes to, which lead out of the workspace. */
async function links(hardship: Hardship): Promise<void> {
  // A bare file is in no workspace that a link could lead out of.
  if (hardship.files['bramblefront.yaml'] === undefined && hardship.what !== 'init') return
  const { after } = await states(hardship)
  const places = ['zones', 'keys', 'policies', 'backups', 'log.jsonl', '.bramblefront.journal', ...Object.keys(after)]
  for (const path of places.filter((each) => !each.includes('TIME'))) {
    const [folder, outside] = [folderOf(hardship.files), folderOf({ 'a.txt': 'outside', 'folder/b.txt': 'outside' })]
    const before = described(outside)
    const place = join(folder, path)
    const isThere = lstatSync(place, { throwIfNoEntry: false })
    if (isThere && !/\.(?:zone|jsonl)$/.test(path)) continue
    rmSync(place, { force: true })
    try {
      symlinkSync(join(outside, path.includes('.') ? 'new.txt' : 'folder'), place)
    } catch {
      continue
    }
    await run(folder, hardship.args)
    count('planted links', between(outside, before, before) && `${hardship.what}, with a link at ${path}`)
    for (const each of [folder, outside]) rmSync(each, { recursive: true })
  }
}

/** publish by dynamic update, killed at each of its file calls: after the next one, workspace and server agree, and the log says what was delivered. */
async function publishing(): Promise<void> {
  const ZONE = 'hollowmere.example'
  const KEY = { name: 'upland', algorithm: 'hmac-sha256', secret: Buffer.alloc(32, 7).toString('base64') }
  const text = `$TTL 3600\n@ SOA ns1.upland-dns.example. hostmaster 2026010101 7200 900 1209600 3600\n@ NS ns1.upland-dns.example.\nwww A 192.0.2.1\nold A 192.0.2.9\n`
  await everyCall('publishing, killed', async (at) => {
    const server = await updatable('named', ZONE, text, KEY)
    const folder = folderOf({
      'keys/upland.key': `key "${KEY.name}" { algorithm ${KEY.algorithm}; secret "${KEY.secret}"; };\n`,
      'bramblefront.yaml': `zones: [zones/*.zone]\ndeliveries:\n  - {label: upland, zones: ["*"], by: update, address: 127.0.0.1, port: ${server.port}, key: keys/upland.key}\n`,
    })
    const publish = ['publish', ZONE, '--yes', '--force']
    try {
      await run(folder, ['adopt', ZONE, '--from', server.at])
      await run(folder, ['write', 'address', `www.${ZONE}`, '192.0.2.2', '--force'])
      await run(folder, ['remove', `old.${ZONE}`, 'A', '--force'])
      if (hadNoSuchCall(await run(folder, publish, { kind: 'kill', at }))) return { ended: true }
      unlock(folder)
      const next = await run(folder, publish)
      const [there, told] = [
        await run(folder, ['diff', ZONE, '--with', server.at]),
        await run(folder, ['diff', ZONE, '--with', 'published']),
      ]
      const isHeld = next.status === 0 && there.status === 0 && told.status === 0
      return {
        ended: false,
        fault: isHeld
          ? undefined
          : `publish, killed at call ${at}: ${next.stdout}${next.stderr}${there.stdout}${told.stderr}`,
      }
    } finally {
      await server.stop()
      rmSync(folder, { recursive: true })
    }
  })
}

const is = (one: string): boolean => kind === undefined || kind === one
for (const hardship of chosen) {
  process.stdout.write(`${hardship.what}\n`)
  if (is('kills')) await kills(hardship)
  if (is('suspensions')) await suspensions(hardship)
  if (is('disks')) for (const fault of ['short', 'ENOSPC', 'EIO']) await disks(hardship, fault)
  if (is('links')) await links(hardship)
}
if (is('publishing') && (words.length === 0 || words.includes('update'))) await publishing()
if (is('writers') && words.length === 0) for (let round = 1; round <= 5; round++) await writers(round)
for (const [of, { tried, held }] of counts) process.stdout.write(`${of}: ${tried} tried, ${held} held\n`)
process.exitCode = [...counts.values()].some(({ tried, held }) => tried !== held) ? 1 : 0
