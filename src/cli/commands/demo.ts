import { spawn } from 'node:child_process'
import { readFileSync, realpathSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { Command } from 'commander'
import { TYPE } from '../../core/records/types.ts'
import { Network, serveNetwork } from '../../standin/network.ts'
import { Scratch } from '../../workspace/scratch.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, CONFIG_FILE, loadZones } from '../../workspace/workspace.ts'
import { jsonOption } from '../options.ts'
import { Page, printJson } from '../output/page.ts'

export const define = (command: Command): Command =>
  command.option('--keep', 'leave the folder there afterwards').addOption(jsonOption()).action(demo)

/** Plays the whole story in a temporary folder: each command is run as its own process, and what it prints is what it prints. */
async function demo(options: { keep?: boolean; json?: boolean }, command: Command): Promise<void> {
  const page = new Page(command)
  let skipped = 0
  const steps: { command: string[]; status: number; stdout: string }[] = []
  const program = realpathSync(process.argv[1]!)
  const material = join(dirname(program), '..', 'demo')
  const scratch = new Scratch()
  const { folder } = scratch
  const say = (text: string): void => {
    if (options.json) return
    page.line()
    page.text(text, '# ')
    page.print()
  }
  const run = async (expected: number, ...args: string[]): Promise<void> => {
    if (!options.json) {
      page.line()
      page.line(
        page.colour.bold(
          `$ bramblefront ${args.map((arg) => (/^[\w./:@-]+$/.test(arg) ? arg : `'${arg}'`)).join(' ')}`,
        ),
      )
      page.print()
    }
    let stdout = ''
    const status = await new Promise<number>((resolve, reject) => {
      const child = spawn(process.execPath, [program, ...args], {
        cwd: folder,
        stdio: ['ignore', options.json ? 'pipe' : 'inherit', 'inherit'],
        // The story's clock is ahead of this machine's once hours have passed in it.
        env: { ...process.env, COLUMNS: String(page.width), BRAMBLEFRONT_AHEAD: String(skipped) },
      })
      child.stdout?.setEncoding('utf8').on('data', (text) => (stdout += text))
      child.on('error', reject)
      child.on('close', (code) => resolve(code ?? 2))
    })
    steps.push({ command: ['bramblefront', ...args], status, stdout })
    if (!options.json) {
      page.line(page.colour.dim(`(exit status ${status})`))
      page.print()
    }
    if (status !== expected) throw new Trouble(`the demo expected exit status ${expected} there: please report this`, 1)
  }
  const put = (zone: string): void => scratch.copy(join(material, 'zones', `${zone}.zone`), `zones/${zone}.zone`)
  try {
    say('Hollowmere Ferries hand you their zone file. What is wrong with it?')
    scratch.copy(join(material, 'zones', 'hollowmere.example.zone'), 'hollowmere.example.zone')
    await run(1, 'check', 'hollowmere.example.zone')

    say('Five faults. A workspace keeps the line’s three zones together.')
    await run(0, 'init')
    for (const zone of ['hollowmere.example', 'hollowmere-freight.example', 'lakepass.example']) put(zone)
    // What the line knows of its names, beyond the zone files.
    const config = join(folder, CONFIG_FILE)
    const stated = readFileSync(join(material, CONFIG_FILE), 'utf8')
    const said = (key: string): string => new RegExp(`^${key}:\\n(?:  .*\\n)+`, 'm').exec(stated)![0]
    scratch.put(
      CONFIG_FILE,
      ['fronts', 'follows', 'exceptions'].reduce(
        (text, key) => text.replace(`${key}: []\n`, said(key)),
        readFileSync(config, 'utf8'),
      ),
    )

    say('The exchange must be the host itself, in both zones that use it.')
    await run(0, 'write', 'mx', 'hollowmere.example', '10 office', '20 mx2.larkpost.example.')
    await run(0, 'write', 'mx', 'hollowmere-freight.example', '10 office.hollowmere.example')
    say('One SPF record of the two; the ownership proof stays beside it. And the host says for itself that it sends.')
    await run(0, 'write', 'spf', 'hollowmere.example')
    await run(0, 'write', 'spf', 'office.hollowmere.example', '--allow', 'a', '--end', 'fail')
    say('A key of the line’s own, beside those of its services; and the next one, for when it is due.')
    await run(0, 'write', 'dkim', 'hollowmere.example', '--selector', 'ferry1')
    await run(0, 'write', 'dkim', 'hollowmere.example', '--rotate')
    say(
      'Reports were good for weeks: the policy takes one step. That of the freight domain reports to another domain, which must agree.',
    )
    await run(0, 'write', 'dmarc', 'hollowmere.example', '--next')
    await run(0, 'write', 'dmarc', 'hollowmere-freight.example', '--next')
    say('The parked domain says everywhere that it does no mail.')
    await run(0, 'write', 'no-mail', 'lakepass.example', '--empty-keys')
    say('The alias, the calendar service and the ticket kiosk.')
    await run(0, 'write', 'cname', 'timetable.hollowmere.example', 'www')
    await run(0, 'write', 'srv', '_caldavs._tcp.hollowmere.example', '0 1 443 calendar')
    await run(0, 'write', 'srv', 'caldavs._tcp.hollowmere.example', '--remove', '0 1 443 calendar')
    await run(0, 'write', 'srv', '_ferrykiosk._tcp.hollowmere.example', '0 0 8443 kiosk')
    await run(0, 'write', 'address', 'kiosk.hollowmere.example', '192.0.2.40', '2001:db8:40::40')

    say('Three slips of the hand, refused.')
    await run(1, 'write', 'cname', 'chat.hollowmere.example', 'office')
    await run(1, 'write', 'mx', 'hollowmere-freight.example', '10 192.0.2.25')
    await run(1, 'write', 'srv', 'xmpp-client._tcp.hollowmere.example', '5 0 5222 chat')

    await run(0, 'check')
    await run(0, 'show', 'hollowmere.example')

    say(
      'A domain is taken over, with everything that its former host had put in. First what is sure to break; then what has one right answer is put right.',
    )
    for (const zone of ['hollowmere-rail.example', 'quay.hollowmere-rail.example', '2.0.192.in-addr.arpa']) put(zone)
    await run(1, 'check', 'hollowmere-rail.example', '--severity', 'error')
    await run(1, 'check', 'hollowmere-rail.example', '--fix', '--yes')
    for (const zone of ['hollowmere-rail.example', 'quay.hollowmere-rail.example', '2.0.192.in-addr.arpa'])
      scratch.remove(`zones/${zone}.zone`)

    say(
      'Upland’s two name servers still have the files of yesterday, and a resolver has asked them this morning. All of them are played here.',
    )
    const started = Date.now()
    const network = new Network(() => (Date.now() - started) / 1000 + skipped)
    const elsewhere = ['upland-dns', 'larkpost', 'quillwing'].map((name) =>
      join(material, 'elsewhere', `${name}.example.zone`),
    )
    const serves = (address: string, ...files: string[]): void =>
      network.server(address, loadZones(bareFiles([...files, ...elsewhere])))
    const before = ['hollowmere', 'hollowmere-freight', 'lakepass'].map((name) =>
      join(material, 'zones', `${name}.example.zone`),
    )
    const written = ['hollowmere', 'hollowmere-freight', 'lakepass'].map((name) =>
      join(folder, 'zones', `${name}.example.zone`),
    )
    const [NS1, NS2, RESOLVER] = ['198.51.100.53', '203.0.113.53', '192.0.2.3']
    network.server('198.51.100.1', loadZones(bareFiles([join(material, 'elsewhere', 'example.zone')])))
    serves(NS1, ...before)
    serves(NS2, ...before)
    network.resolver(RESOLVER, ['198.51.100.1'])
    const { ports, close } = await serveNetwork(network)
    try {
      const port = (address: string): string => `address: 127.0.0.1, port: ${ports.get(address)!.port}`
      const vantages = `vantages:\n  - authoritative\n  - {label: lake-office, ${port(RESOLVER)}}\n`
      const servers = `servers:\n  - {name: ns1.upland-dns.example, ${port(NS1)}}\n  - {name: ns2.upland-dns.example, ${port(NS2)}}\n  - {name: ns.registry.example, ${port('198.51.100.1')}}\n`
      scratch.put(
        CONFIG_FILE,
        readFileSync(config, 'utf8')
          .replace('vantages:\n  - authoritative\n  - system\n', vantages)
          .replace('servers: []\n', servers),
      )
      const mail = ['confirm', 'office.hollowmere.example'] as const
      await askNow(ports.get(RESOLVER)!.port)

      await run(1, 'confirm', 'hollowmere.example', '--timeout', '2')

      say('The first server loads the files; the second has not fetched them yet.')
      serves(NS1, ...written)
      await run(4, ...mail)

      say('Now it has, too. The resolver still holds what it was told an hour ago: that is no fault, and it passes.')
      serves(NS2, ...written)
      await run(4, 'confirm', 'hollowmere.example')
      await run(0, 'timing', 'hollowmere.example', 'hollowmere.example', 'MX')

      say('An hour later.')
      skipped = 3700
      await run(0, 'confirm', 'hollowmere.example')

      say(
        'What do the services’ own records cost? And would mail pass: the office’s own, a newsletter, and one that somebody forges?',
      )
      await run(0, 'show', 'hollowmere.example', '--live')
      await run(
        0,
        'sender',
        '192.0.2.25',
        '--envelope',
        'crew@hollowmere.example',
        '--signed-by',
        'hollowmere.example:ferry1',
      )
      await run(
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
      await run(1, 'sender', '203.0.113.9', '--envelope', 'crew@hollowmere.example')

      say(
        'A kiosk for the pier. Somebody types it into the host’s web form, with the whole name, and the form adds the zone’s once more.',
      )
      await run(0, 'write', 'address', 'pier-kiosk.hollowmere.example', '192.0.2.41', '--ttl', '10m')
      const typed = readFileSync(written[0]!, 'utf8').replace(/^pier-kiosk /m, 'pier-kiosk.hollowmere.example ')
      scratch.put('form/hollowmere.example.zone', typed)
      for (const address of [NS1, NS2])
        serves(address, scratch.path('form/hollowmere.example.zone'), ...written.slice(1))
      await run(1, 'confirm', 'pier-kiosk.hollowmere.example')

      say(
        'Put right there; and a moment later everybody has it. Nobody had asked the resolver for it before, so nobody has to wait.',
      )
      for (const address of [NS1, NS2]) serves(address, ...written)
      await run(0, 'confirm', 'pier-kiosk.hollowmere.example', '--watch', '--deadline', '10s')
    } finally {
      await close()
    }
    if (options.json) printJson({ format: 1, steps })
    say(
      options.keep
        ? `That was the story. Its folder: ${folder}`
        : 'That was the story. Its folder is gone again (--keep leaves it there).',
    )
  } finally {
    if (!options.keep) scratch.drop()
  }
}

/** What the resolver was asked this morning. */
async function askNow(port: number): Promise<void> {
  const { Asker } = await import('../../net/ask.ts')
  const asker = new Asker({ label: 'morning', address: '127.0.0.1', port })
  for (const name of ['hollowmere.example.', 'office.hollowmere.example.'])
    for (const type of [TYPE.MX, TYPE.TXT, TYPE.A]) await asker.ask(name, type)
  asker.close()
}
