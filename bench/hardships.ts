/** What writing has to bear: the commands that write, on small workspaces; the program killed, or its disk failing, at any of its file calls; and what is there afterwards. */
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'

/** The program that is tried: another build, for comparing. */
const PROGRAM = resolve(process.env.ENDURING ?? 'dist/bramblefront.js')
const FAULTS = resolve('bench/faults.cjs')

const HEAD = `$TTL 3600
@ SOA ns1.upland-dns.example. hostmaster 2026010101 7200 900 1209600 3600
@ NS ns1.upland-dns.example.
@ NS ns2.upland-dns.example.
`
const PROOF = '@ TXT "ferry-proof=41c2"\n'
const ZONES: Record<string, string> = {
  'bramblefront.yaml': '# The line’s own.\nzones:\n  - zones/*.zone # all\n',
  'log.jsonl': '{"at":"2026-01-01T00:00:00.000Z","what":"other","zone":"hollowmere.example."}\n',
  'zones/hollowmere.example.zone': `${HEAD}$INCLUDE parts/hosts\n@ MX 10 mail\n${PROOF}www CNAME mail.hollowmere.example\n`,
  'zones/lakepass.example.zone': `${HEAD}$INCLUDE parts/shared\n@ MX 10 mail.hollowmere.example.\n`,
  'zones/hollowmere-freight.example.zone': `${HEAD}$INCLUDE parts/shared\n`,
  'zones/parts/hosts': 'mail A 192.0.2.25\nold A 192.0.2.26\n',
  'zones/parts/shared': 'dock A 192.0.2.30\n',
  'old/hollowmere-rail.example.zone': `${HEAD}$INCLUDE parts/more\n`,
  'old/parts/more': 'pier A 192.0.2.27\n',
  'other/quay.example.zone': `${HEAD}pier A 192.0.2.28\n`,
}

export interface Hardship {
  what: string
  files: Record<string, string>
  args: string[]
  /** What is called afterwards: a command that writes, and has nothing to change. */
  after: string[]
  /** Tried in the long form alone: another like it is in the short one. */
  isLong?: boolean
}

/** A zone that was changed before: its backup, and the line of the log. It is of a time to come, so that nothing is made small. */
const COPY = 'backups/quay.example/2199-01-02T00-00-00-000Z_quay.example.zone'
const CHANGED: Record<string, string> = {
  ...ZONES,
  'zones/quay.example.zone': `${HEAD}pier A 192.0.2.28\n`,
  [COPY]: `; as it was\n${HEAD}pier A 192.0.2.27\n`,
  'log.jsonl': `${JSON.stringify({
    id: '2199-01-02T00-00-00-000Z-a1b2c3',
    at: '2199-01-02T00:00:00.000Z',
    zone: 'quay.example.',
    what: 'change',
    file: 'zones/quay.example.zone',
    sets: [],
    digest: 'of something else',
    backup: COPY,
  })}\n`,
}
const PUBLISH = ['publish', 'quay.example', '--yes', '--force']
const PRUNE = ['history', '--prune', '--yes']

const NOTHING = ['write', 'txt', 'hollowmere.example', 'ferry-proof=41c2', '--force']
const on = (what: string, ...args: string[]): Hardship => ({ what, files: ZONES, args, after: NOTHING })

const ALL: readonly Hardship[] = [
  { what: 'init', files: {}, args: ['init'], after: ['init'] },
  on('write, in the zone’s own file', 'write', 'mx', 'hollowmere.example', '10 mail', '20 mx2.larkpost.example.'),
  on('write, in an included file', 'write', 'address', 'old.hollowmere.example', '192.0.2.99'),
  on('write, in a file that two zones include', 'write', 'address', 'dock.lakepass.example', '192.0.2.31', '--force'),
  on('write dkim, with a key', 'write', 'dkim', 'hollowmere.example', '--selector', 's1', '--kind', 'ed25519'),
  on('write mta-sts, with a policy', 'write', 'mta-sts', 'hollowmere.example', '--force'),
  {
    ...on('write mta-sts, with another policy', 'write', 'mta-sts', 'hollowmere.example', '--force'),
    files: {
      ...ZONES,
      'policies/hollowmere.example.mta-sts.txt':
        'version: STSv1\r\nmode: testing\r\nmx: a.example\r\nmax_age: 604800\r\n',
    },
  },
  on(
    'write dmarc, with the consent of another zone',
    'write',
    'dmarc',
    'hollowmere.example',
    'p=none',
    '--reports',
    'd@lakepass.example',
  ),
  on('write no-mail', 'write', 'no-mail', 'hollowmere-freight.example', '--force'),
  { ...on('write spf', 'write', 'spf', 'lakepass.example', '--allow', 'mx'), isLong: true },
  {
    ...on('write srv', 'write', 'srv', '_imaps._tcp.lakepass.example', '0 1 993 mail.hollowmere.example.'),
    isLong: true,
  },
  on('remove', 'remove', 'old.hollowmere.example', 'A'),
  on('check --fix, in several zones', 'check', '--fix', '--yes'),
  on('adopt, of two files', 'adopt', 'old/hollowmere-rail.example.zone', 'other/quay.example.zone'),
  on('adopt, with a line in bramblefront.yaml', 'adopt', 'other/quay.example.zone'),
  {
    ...on('restore, of a set', 'restore', 'quay.example', 'pier', '--from', 'a1b2c3', '--yes'),
    files: CHANGED,
    isLong: true,
  },
  {
    ...on('restore, of a zone with its comments', 'restore', 'quay.example', '--from', 'a1b2c3', '--yes'),
    files: CHANGED,
    isLong: true,
  },
  {
    what: 'pruning',
    files: {
      ...CHANGED,
      'bramblefront.yaml': `${ZONES['bramblefront.yaml']}backups: {copies: 1}\n`,
      [COPY.replace('2199', '2198')]: HEAD,
      [COPY.replace('2199', '2197')]: HEAD,
    },
    args: PRUNE,
    after: PRUNE,
    isLong: true,
  },
  {
    what: 'publish, as a file with a later serial',
    files: {
      ...ZONES,
      'bramblefront.yaml': `${ZONES['bramblefront.yaml']}deliveries:\n  - {label: here, zones: ["*"], by: file, folder: delivered}\n`,
      'zones/quay.example.zone': `${HEAD}pier A 192.0.2.28\n`,
      'delivered/quay.example.zone': `${HEAD.replace('2026010101', '2033010101')}pier A 192.0.2.27\n`,
    },
    args: PUBLISH,
    after: PUBLISH,
    isLong: true,
  },
  {
    what: 'write, in a bare file',
    files: { 'hollowmere.example.zone': `${HEAD}$INCLUDE part\n${PROOF}`, part: 'old A 192.0.2.26\n' },
    args: ['write', 'address', 'old.hollowmere.example', '192.0.2.99', '--file', 'hollowmere.example.zone'],
    after: [...NOTHING, '--file', 'hollowmere.example.zone'],
  },
]

/** Those that are tried in the short form, too: each has something that no other has. */
const SHORT = /included file|dkim|consent|--fix|two files|bare file/

export const HARDSHIPS: readonly Hardship[] = ALL.map((each) => ({
  ...each,
  isLong: each.isLong ?? !SHORT.test(each.what),
})).map((each) =>
  each.what.startsWith('adopt, with')
    ? { ...each, files: { ...each.files, 'bramblefront.yaml': 'zones:\n  # by name\n  - zones/h*.zone\n' } }
    : each,
)

/** A temporary folder with these files in it. */
export function folderOf(files: Record<string, string>): string {
  const folder = mkdtempSync(join(tmpdir(), 'bramblefront-endure-'))
  for (const [name, text] of Object.entries(files)) {
    mkdirSync(dirname(join(folder, name)), { recursive: true })
    writeFileSync(join(folder, name), text)
  }
  return folder
}

export interface Ran {
  status: number | null
  stdout: string
  stderr: string
}

/** Runs the program; with a fault (`short`, `kill`, `stop`, ENOSPC, EIO) at one of its file calls. */
export function run(
  folder: string,
  args: readonly string[],
  fault?: { kind: string; at: number },
  started?: (pid: number) => void,
): Promise<Ran> {
  const env = fault && {
    NODE_OPTIONS: `--require ${FAULTS}`,
    FAULT_KIND: fault.kind,
    FAULT_AT: String(fault.at),
  }
  return new Promise((done) => {
    const child = spawn(process.execPath, [PROGRAM, ...args], {
      cwd: folder,
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined, ...env },
    })
    started?.(child.pid!)
    let stdout = ''
    let stderr = ''
    child.stdout.setEncoding('utf8').on('data', (text) => (stdout += text))
    child.stderr.setEncoding('utf8').on('data', (text) => (stderr += text))
    child.on('close', (status) => done({ status, stdout, stderr }))
  })
}

/** Whether the program came to its end without making so many calls. */
export const hadNoSuchCall = ({ stderr }: Ran): boolean => stderr.includes('no such call')

/** What is another each time: keys, ids, times, what copies are called. */
const plain = (text: string): string =>
  text
    .replace(/p=[\w+/=]+/g, 'p=')
    .replace(/-----[\s\S]*-----/g, 'PEM')
    .replace(/\b20\d{8,12}\b/g, 'SERIAL')
    .replace(/\b20\d\d-\d\d-\d\dT[\w:.-]*/g, 'TIME')
    .replace(/"digest":"\w+"/g, 'DIGEST')

/** Every file below a folder with what it holds, as far as that is the same each time. What a lock leaves is not looked at. */
export function described(folder: string, below = ''): Record<string, string> {
  const found: Record<string, string> = {}
  for (const name of readdirSync(join(folder, below)).sort()) {
    const path = join(below, name)
    if (/^\..*\.lock$/.test(name)) continue
    if (statSync(join(folder, path)).isDirectory()) Object.assign(found, described(folder, path))
    else {
      // Those that differ in their time alone, in whatever order they were made.
      const key = plain(path)
      const text = plain(readFileSync(join(folder, path), 'utf8'))
      found[key] = key in found ? [...found[key]!.split('\u0000'), text].sort().join('\u0000') : text
    }
  }
  return found
}

/** Why a folder is neither as before nor as after; undefined where it is one of them. */
export function between(folder: string, before: object, after: object): string | undefined {
  const now = described(folder)
  const [fromBefore, fromAfter] = [differences(before, now), differences(after, now)]
  return fromBefore.length === 0 || fromAfter.length === 0
    ? undefined
    : `other than before: ${fromBefore.join(', ')}; other than after: ${fromAfter.join(', ')}`
}

/** The files in which two states differ. */
const differences = (state: object, now: Record<string, string>): string[] =>
  [...new Set([...Object.keys(state), ...Object.keys(now)])].filter(
    (name) => (state as Record<string, string>)[name] !== now[name],
  )

/** Publishing, and removing backups, are several steps, each of them whole. */
const isInSteps = ({ args }: Hardship): boolean => args[0] === 'publish' || args.includes('--prune')

const comparable = (hardship: Hardship, state: Record<string, string>): Record<string, string> =>
  isInSteps(hardship)
    ? Object.fromEntries(Object.entries(state).filter(([name]) => !/^(?:log|backups)/.test(name)))
    : state

/** What another call writes meanwhile: a host of its own. */
const otherCall = ({ files }: Hardship): string[] =>
  files['bramblefront.yaml'] === undefined
    ? ['write', 'address', 'second.hollowmere.example', '192.0.2.77', '--force', '--file', 'hollowmere.example.zone']
    : ['write', 'address', 'second.hollowmere.example', '192.0.2.77', '--force']

/** Stops the program at one of its file calls, lets another call take its lock over and finish, and goes on. Says what does not fit together then. */
export async function suspended(
  hardship: Hardship,
  at: number,
  known: readonly { state: object; has: 'both' | 'other' }[],
): Promise<{ ended: boolean; fault?: string }> {
  const folder = folderOf(hardship.files)
  let pid = 0
  const slow = run(folder, hardship.args, { kind: 'stop', at }, (started) => (pid = started))
  const isStopped = await Promise.race([slow.then(() => false), untilStopped(pid)])
  if (!isStopped) {
    rmSync(folder, { recursive: true })
    return { ended: hadNoSuchCall(await slow), fault: undefined }
  }
  unlock(folder)
  const other = await run(folder, otherCall(hardship))
  process.kill(pid, 'SIGCONT')
  const ran = await slow
  // Of what is written in several steps, the next call does the rest; what is told of each is not compared.
  if (isInSteps(hardship)) await run(folder, hardship.args)
  const now = comparable(hardship, described(folder))
  const found = known.find(({ state }) => differences(state, now).length === 0)
  const failed = ran.status !== 0 && ran.status !== 1
  const fault =
    other.status === 2
      ? `the other call failed: ${other.stderr}`
      : !found
        ? `neither of the known states: ${known.map(({ state }) => differences(state, now).join(', ')).join('; or ')}`
        : !isInSteps(hardship) && failed !== (found.has === 'other')
          ? `ended with ${ran.status}, and its change is ${found.has === 'both' ? 'there' : 'not there'}`
          : undefined
  rmSync(folder, { recursive: true })
  return {
    ended: false,
    fault: fault && `${hardship.what}, stopped at call ${at}: ${fault}\n${ran.stderr}`,
  }
}

/** What may be there after one was stopped, and another written: both in either order, or the other alone. */
export async function statesOfTwo(hardship: Hardship): Promise<{ state: object; has: 'both' | 'other' }[]> {
  const after = async (...calls: readonly (readonly string[])[]): Promise<object> => {
    const folder = folderOf(hardship.files)
    for (const args of [...calls, ...(isInSteps(hardship) ? [hardship.args] : [])]) await run(folder, args)
    const state = comparable(hardship, described(folder))
    rmSync(folder, { recursive: true })
    return state
  }
  const [args, other] = [hardship.args, otherCall(hardship)]
  return [
    { state: await after(args, other), has: 'both' },
    { state: await after(other, args), has: 'both' },
    { state: await after(other), has: 'other' },
  ]
}

/** Waits until a process is stopped; false where it is gone. */
async function untilStopped(pid: number): Promise<boolean> {
  for (;;) {
    try {
      if (/^\d+ \(.*\) T/.test(readFileSync(`/proc/${pid}/stat`, 'utf8'))) return true
    } catch {
      return false
    }
    await new Promise((done) => setTimeout(done, 5))
  }
}

/** Takes the locks of a killed call away, as time does. */
export function unlock(folder: string): void {
  for (const name of readdirSync(folder)) if (/^\..*\.lock$/.test(name)) rmSync(join(folder, name), { recursive: true })
}

/** Kills the program at one of its calls, makes one ordinary call, and says what is left between two states; `ended` where it made no such call. */
export async function killed(
  hardship: Hardship,
  at: number,
  before: object,
  after: object,
): Promise<{ ended: boolean; fault?: string }> {
  const folder = folderOf(hardship.files)
  const ran = await run(folder, hardship.args, { kind: 'kill', at })
  if (hadNoSuchCall(ran)) return { ended: true }
  unlock(folder)
  const next = await run(folder, hardship.after)
  const fault = between(folder, before, after)
  rmSync(folder, { recursive: true })
  return {
    ended: false,
    fault:
      fault &&
      `${hardship.what}, killed at call ${at}: ${fault}\n${next.stderr || next.stdout.trimEnd().split('\n').at(-1)}`,
  }
}

/** The states before and after a hardship without any, and after the ordinary call. */
export async function states(hardship: Hardship): Promise<{ before: object; after: object }> {
  const [untouched, whole] = [folderOf(hardship.files), folderOf(hardship.files)]
  const { status, stderr } = await run(whole, hardship.args)
  if (status !== 0 && status !== 1) throw new Error(`${hardship.what}: ${stderr}`)
  if (existsSync(join(untouched, 'bramblefront.yaml'))) await run(untouched, hardship.after)
  return { before: described(untouched), after: described(whole) }
}
