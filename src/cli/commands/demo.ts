import { spawn } from 'node:child_process'
import { readFileSync, realpathSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { Command } from 'commander'
import { TYPE } from '../../core/records/types.ts'
import { answering, serve } from '../../serve/sockets.ts'
import { Network, serveNetwork } from '../../sim/network.ts'
import { Scratch } from '../../workspace/scratch.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, CONFIG_FILE, loadZones } from '../../workspace/workspace.ts'
import { CLOCK } from '../clock.ts'
import type { DemoDocument } from '../documents/demo.ts'
import { jsonOption } from '../options.ts'
import { Page, printJson } from '../output/page.ts'

export const define = (command: Command): Command =>
  command.option('--keep', 'keep the folder afterwards').addOption(jsonOption()).action(demo)

/** Plays the whole story in a temporary folder: each command is run as its own process, and what it prints is what it prints. */
async function demo(options: { keep?: boolean; json?: boolean }, command: Command): Promise<void> {
  const story = new Story(command, options.json === true)
  try {
    for (const act of [beingHandedRecords, keepingTogether, mending, goingBack, takingOver, confirming])
      await act(story)
    const document: DemoDocument = { format: 1, steps: story.steps }
    if (options.json) printJson(document)
    story.say(
      options.keep
        ? `End of the demo. Its folder: ${story.scratch.folder}`
        : 'End of the demo. Its folder has been removed (--keep keeps it).',
    )
  } finally {
    if (!options.keep) story.scratch.drop()
  }
}

/** What is told, where it is played, and how commands are run in it. */
class Story {
  readonly steps: { command: string[]; status: number; stdout: string }[] = []
  readonly scratch = new Scratch()
  /** The story's clock is so many seconds ahead of this machine's once hours have passed in it. */
  ahead = 0
  private readonly program = realpathSync(process.argv[1]!)
  readonly material = join(dirname(this.program), '..', 'demo')
  private readonly page: Page
  private readonly silent: boolean

  constructor(command: Command, silent: boolean) {
    this.page = new Page(command)
    this.silent = silent
  }

  say(text: string): void {
    if (this.silent) return
    this.page.line()
    this.page.text(text, '# ')
    this.page.print()
  }

  /** Puts a zone file of the demo's into the workspace. */
  put(zone: string): void {
    this.scratch.copy(join(this.material, 'zones', `${zone}.zone`), `zones/${zone}.zone`)
  }

  async run(expected: number, ...args: string[]): Promise<void> {
    const { page, silent } = this
    if (!silent) {
      const typed = args.map((arg) => (/^[\w./:@-]+$/.test(arg) ? arg : `'${arg}'`)).join(' ')
      page.line()
      page.line(page.colour.bold(`$ bramblefront ${typed}`))
      page.print()
    }
    const { status, stdout } = await this.spawned(args)
    this.steps.push({ command: ['bramblefront', ...args], status, stdout })
    if (!silent) {
      page.line(page.colour.dim(`(exit status ${status})`))
      page.print()
    }
    if (status !== expected) throw new Trouble(`the demo expected exit status ${expected} there: please report this`, 1)
  }

  private async spawned(args: readonly string[]): Promise<{ status: number; stdout: string }> {
    let stdout = ''
    const status = await new Promise<number>((resolve, reject) => {
      const child = spawn(process.execPath, [this.program, ...args], {
        cwd: this.scratch.folder,
        stdio: ['ignore', this.silent ? 'pipe' : 'inherit', 'inherit'],
        env: { ...process.env, COLUMNS: String(this.page.width), BRAMBLEFRONT_AHEAD: String(this.ahead) },
      })
      child.stdout?.setEncoding('utf8').on('data', (text) => (stdout += text))
      child.on('error', reject)
      child.on('close', (code) => resolve(code ?? 2))
    })
    return { status, stdout }
  }
}

/** Bare files, before there is a workspace. */
const FREIGHT = 'hollowmere-freight.example.zone'

async function beingHandedRecords(story: Story): Promise<void> {
  story.say(
    'Hollowmere Ferries, a small ferry line, send notices for their freight domain through a newsletter sender, who wrote an email with the records it needs. Take them over as they were pasted.',
  )
  story.scratch.copy(join(story.material, 'mail', 'quillwing.txt'), 'quillwing.txt')
  story.scratch.copy(join(story.material, 'zones', FREIGHT), FREIGHT)
  await story.run(0, 'transcribe', 'quillwing.txt', '--file', FREIGHT, '--yes')
  await typingThem(story)
}

/** The host of the freight domain has a web form, and servers, which are simulated here. */
async function typingThem(story: Story): Promise<void> {
  const network = new Network(CLOCK.now)
  const HOST = '192.0.2.53'
  const has = (file: string): void => network.server(HOST, loadZones(bareFiles([file])))
  has(join(story.material, 'zones', FREIGHT))
  const { ports, close } = await serveNetwork(network)
  const at = ['--at', `127.0.0.1:${ports.get(HOST)!.port}`]
  try {
    story.say('The freight domain’s host has a web form. What has to be typed into it, in that form’s way?')
    await story.run(1, 'sheet', FREIGHT, '--changes', '--style', 'blank-apex', ...at)
    story.say('Typed in; once more into a field that adds the domain’s name, which nobody noticed.')
    const right = readFileSync(story.scratch.path(FREIGHT), 'utf8')
    story.scratch.put(`form/${FREIGHT}`, right.replace('u77.quillwing.example.', 'u77.quillwing.example'))
    has(story.scratch.path('form', FREIGHT))
    await story.run(1, 'sheet', FREIGHT, '--tick', '--style', 'blank-apex', ...at)
    story.say('Corrected. At a terminal, --tick goes through the rows one by one and waits while you type.')
    has(story.scratch.path(FREIGHT))
    await story.run(0, 'sheet', FREIGHT, '--tick', '--style', 'blank-apex', ...at)
    await story.run(0, 'confirm', FREIGHT, ...at)
  } finally {
    await close()
  }
}

async function keepingTogether(story: Story): Promise<void> {
  story.say('They hand you the zone file of their main domain, too. What is wrong with it?')
  story.scratch.copy(join(story.material, 'zones', 'hollowmere.example.zone'), 'hollowmere.example.zone')
  await story.run(1, 'check', 'hollowmere.example.zone')

  story.say('Five faults. A workspace keeps the three zones of the ferry line together.')
  await story.run(0, 'init')
  for (const zone of ['hollowmere.example', 'lakepass.example']) story.put(zone)
  story.scratch.copy(story.scratch.path(FREIGHT), `zones/${FREIGHT}`)
  // What the line knows of its names, beyond the zone files.
  const stated = readFileSync(join(story.material, CONFIG_FILE), 'utf8')
  const said = (key: string): string => new RegExp(`^${key}:\\n(?:  .*\\n)+`, 'm').exec(stated)![0]
  story.scratch.put(
    CONFIG_FILE,
    ['fronts', 'follows', 'exceptions'].reduce(
      (text, key) => text.replace(`${key}: []\n`, said(key)),
      readFileSync(story.scratch.path(CONFIG_FILE), 'utf8'),
    ),
  )
}

async function mending(story: Story): Promise<void> {
  story.say(
    'First SPF: merge the two records (the domain verification record stays), and give the mail host a record of its own.',
  )
  await story.run(0, 'write', 'spf', 'hollowmere.example')
  await story.run(0, 'write', 'spf', 'office.hollowmere.example', '--allow', 'a', '--end', 'fail')
  story.say('The MX target must be the host itself, in both zones that use it.')
  await story.run(0, 'write', 'mx', 'hollowmere.example', '10 office', '20 mx2.larkpost.example.')
  await story.run(0, 'write', 'mx', 'hollowmere-freight.example', '10 office.hollowmere.example')
  story.say(
    'A DKIM key for the office’s own mail server, next to those of its providers, and the next key for the rotation.',
  )
  await story.run(0, 'write', 'dkim', 'hollowmere.example', '--selector', 'ferry1')
  await story.run(0, 'write', 'dkim', 'hollowmere.example', '--rotate')
  story.say(
    'The DMARC reports have been good for weeks: take the next step. The freight domain’s reports go to another domain, which must consent.',
  )
  await story.run(0, 'write', 'dmarc', 'hollowmere.example', '--next')
  await story.run(0, 'write', 'dmarc', 'hollowmere-freight.example', '--next')
  story.say('Lock down the parked domain: it does no mail.')
  await story.run(0, 'write', 'no-mail', 'lakepass.example', '--empty-keys', '--reports', 'dmarc@hollowmere.example')
  story.say('Correct the CNAME, the calendar service and the ticket kiosk.')
  await story.run(0, 'write', 'cname', 'timetable.hollowmere.example', 'site.northlight.example.')
  await story.run(0, 'write', 'srv', '_caldavs._tcp.hollowmere.example', '0 1 443 calendar')
  await story.run(0, 'write', 'srv', 'caldavs._tcp.hollowmere.example', '--remove', '0 1 443 calendar')
  await story.run(0, 'write', 'srv', '_ferrykiosk._tcp.hollowmere.example', '0 0 8443 kiosk')
  await story.run(0, 'write', 'address', 'kiosk.hollowmere.example', '192.0.2.40', '2001:db8:40::40')

  story.say('Three typing mistakes, refused.')
  await story.run(1, 'write', 'cname', 'chat.hollowmere.example', 'office')
  await story.run(1, 'write', 'mx', 'hollowmere-freight.example', '10 192.0.2.25')
  await story.run(1, 'write', 'srv', 'xmpp-client._tcp.hollowmere.example', '5 0 5222 chat')

  await story.run(0, 'check')
  await story.run(0, 'show', 'hollowmere.example')
}

async function goingBack(story: Story): Promise<void> {
  story.say('Somebody tidies up and removes an address that the ticket office needs. What happened to it, and back.')
  await story.run(0, 'remove', 'kiosk.hollowmere.example', 'A')
  await story.run(0, 'history', 'hollowmere.example', 'kiosk', 'A')
  const log = readFileSync(story.scratch.path('log.jsonl'), 'utf8').trimEnd().split('\n')
  const { id } = JSON.parse(log.at(-1)!) as { id: string }
  await story.run(0, 'restore', 'hollowmere.example', 'kiosk', 'A', '--from', id.slice(-6), '--yes')
}

async function takingOver(story: Story): Promise<void> {
  const zone = 'hollowmere-rail.example'
  story.say(
    'Take over a domain with everything that its former host left in it: transfer it from the host’s server, which is simulated here. Then see what breaks, and apply the unambiguous fixes.',
  )
  for (const each of ['quay.hollowmere-rail.example', '2.0.192.in-addr.arpa']) story.put(each)
  const former = await serve(answering(loadZones(bareFiles([join(story.material, 'zones', `${zone}.zone`)]))))
  try {
    await story.run(0, 'adopt', zone, '--from', `127.0.0.1:${former.port}`)
  } finally {
    await former.close()
  }
  await story.run(1, 'check', zone, '--severity', 'error')
  await story.run(1, 'check', zone, '--fix', '--yes')
  story.say('Its booking office keeps calendars and contacts at desk: a recipe writes the usual records in one go.')
  await story.run(0, 'recipe', 'write', 'calendars-and-contacts', zone, '--fill', 'host=desk', '--yes')
  for (const each of [zone, 'quay.hollowmere-rail.example', '2.0.192.in-addr.arpa'])
    story.scratch.remove(`zones/${each}.zone`)
}

async function confirming(story: Story): Promise<void> {
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
    await settling(story, served)
    await passing(story)
    await mistyping(story, served)
    await publishing(story, served)
  } finally {
    await close()
  }
}

interface Served {
  /** Of the resolver. */
  port: number
  /** The zone files as they are intended. */
  written: string[]
  serves(address: string, ...files: string[]): void
  NS1: string
  NS2: string
}

async function settling(story: Story, { port, serves, written, NS1, NS2 }: Served): Promise<void> {
  const mail = ['confirm', 'office.hollowmere.example'] as const
  await askNow(port)

  await story.run(1, 'diff', 'lakepass.example')
  await story.run(1, 'confirm', 'hollowmere.example', '--timeout', '2')

  story.say('The first server has loaded the files; the second has not transferred them yet.')
  serves(NS1, ...written)
  await story.run(4, ...mail)

  story.say(
    'Now it has, too. The resolver still has the answers of an hour ago in its cache: that is normal and will pass.',
  )
  serves(NS2, ...written)
  await story.run(4, 'confirm', 'hollowmere.example')
  await story.run(0, 'timing', 'hollowmere.example', 'hollowmere.example', 'MX')
}

async function passing(story: Story): Promise<void> {
  story.say('An hour later.')
  story.ahead = 3700
  await story.run(0, 'confirm', 'hollowmere.example')

  story.say(
    'How many SPF lookups do the providers’ records cost? And would mail pass: from the office, a newsletter, and a forgery?',
  )
  await story.run(0, 'show', 'hollowmere.example', '--live')
  await story.run(
    0,
    'sender',
    '192.0.2.25',
    '--envelope',
    'crew@hollowmere.example',
    '--signed-by',
    'hollowmere.example:ferry1',
  )
  await story.run(
    0,
    'sender',
    '203.0.113.130',
    '--envelope',
    'bounce@quillwing.example',
    '--from',
    'news@hollowmere.example',
    '--signed-by',
    'hollowmere.example:quill',
  )
  await story.run(1, 'sender', '203.0.113.9', '--envelope', 'crew@hollowmere.example')
}

async function mistyping(story: Story, { serves, written, NS1, NS2 }: Served): Promise<void> {
  story.say(
    'A kiosk for the pier. Somebody enters it in the host’s web form with its full name, and the form appends the zone’s name again.',
  )
  await story.run(0, 'write', 'address', 'pier-kiosk.hollowmere.example', '192.0.2.41', '--ttl', '10m')
  const typed = readFileSync(written[0]!, 'utf8').replace(/^pier-kiosk /m, 'pier-kiosk.hollowmere.example ')
  story.scratch.put('form/hollowmere.example.zone', typed)
  for (const address of [NS1, NS2])
    serves(address, story.scratch.path('form/hollowmere.example.zone'), ...written.slice(1))
  await story.run(1, 'confirm', 'pier-kiosk.hollowmere.example')

  story.say(
    'Corrected there, and everyone has it at once. Nobody had asked the resolver for it before, so there is nothing to wait for.',
  )
  for (const address of [NS1, NS2]) serves(address, ...written)
  await story.run(0, 'confirm', 'pier-kiosk.hollowmere.example', '--watch', '--deadline', '10s')
}

/** As a file, in a folder that the name servers read. */
async function publishing(story: Story, { serves, written, NS1, NS2 }: Served): Promise<void> {
  const zone = 'lakepass.example'
  story.say('Until now, the files got to the servers by hand. From here on, publish puts one where they read it.')
  story.scratch.put(
    CONFIG_FILE,
    `${readFileSync(story.scratch.path(CONFIG_FILE), 'utf8')}deliveries:\n  - {label: office-files, zones: ["${zone}"], by: file, folder: delivered}\n`,
  )
  story.scratch.copy(written[2]!, `delivered/${zone}.zone`)
  await story.run(0, 'publish', zone, '--yes')
  await story.run(0, 'write', 'txt', zone, 'ferry-proof=9d20-44b1')

  story.say('A colleague has changed the delivered file in the meantime: nothing is overwritten.')
  const there = story.scratch.path('delivered', `${zone}.zone`)
  const before = readFileSync(there, 'utf8')
  story.scratch.put(`delivered/${zone}.zone`, `${before}press IN A 192.0.2.50\n`)
  await story.run(1, 'publish', zone, '--yes')

  story.say('They take theirs back. Delivered, and confirmed.')
  story.scratch.put(`delivered/${zone}.zone`, before)
  await story.run(0, 'publish', zone, '--yes')
  for (const address of [NS1, NS2]) serves(address, ...written.slice(0, 2), there)
  await story.run(0, 'confirm', zone, '--only-authoritative')
}

/** What the resolver was asked this morning. */
async function askNow(port: number): Promise<void> {
  const { Asker } = await import('../../net/ask.ts')
  const asker = new Asker({ label: 'morning', address: '127.0.0.1', port }, CLOCK)
  for (const name of ['hollowmere.example.', 'office.hollowmere.example.'])
    for (const type of [TYPE.MX, TYPE.TXT, TYPE.A]) await asker.ask(name, type)
  asker.close()
}
