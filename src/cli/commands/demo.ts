import { spawn } from 'node:child_process'
import { cpSync, mkdirSync, mkdtempSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import type { Command } from 'commander'
import { StandInResolver } from '../../standin/resolver.ts'
import { REFUSED, respond } from '../../standin/respond.ts'
import { type Responder, serveStandIn } from '../../standin/server.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, CONFIG_FILE, loadZones, openWorkspace } from '../../workspace/workspace.ts'
import { Page, printJson } from '../output/page.ts'

/** Plays the whole story in a temporary folder: each command is run as its own process, and what it prints is what it prints. */
export async function demo(options: { keep?: boolean; json?: boolean }, command: Command): Promise<void> {
  const page = new Page(command)
  const steps: { command: string[]; status: number; stdout: string }[] = []
  const program = realpathSync(process.argv[1])
  const material = join(dirname(program), '..', 'demo')
  const folder = mkdtempSync(join(tmpdir(), 'bramblefront-demo-'))
  const say = (text: string): void => {
    if (options.json) return
    page.line()
    page.text(text, '# ')
    page.print()
  }
  const run = async (expected: number, ...args: string[]): Promise<void> => {
    if (!options.json) {
      page.line()
      page.line(page.colour.bold(`$ bramblefront ${args.map((arg) => (/^[\w./:@-]+$/.test(arg) ? arg : `'${arg}'`)).join(' ')}`))
      page.print()
    }
    let stdout = ''
    const status = await new Promise<number>((resolve, reject) => {
      const child = spawn(process.execPath, [program, ...args], {
        cwd: folder,
        stdio: ['ignore', options.json ? 'pipe' : 'inherit', 'inherit'],
        env: { ...process.env, COLUMNS: String(page.width) },
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
  const put = (zone: string): void => cpSync(join(material, 'zones', `${zone}.zone`), join(folder, 'zones', `${zone}.zone`))
  try {
    say('Hollowmere Ferries hand you their zone file. What is wrong with it?')
    cpSync(join(material, 'zones', 'hollowmere.example.zone'), join(folder, 'hollowmere.example.zone'))
    await run(1, 'check', 'hollowmere.example.zone')

    say('Five faults. A workspace keeps the line’s three zones together.')
    await run(0, 'init')
    mkdirSync(join(folder, 'zones'), { recursive: true })
    for (const zone of ['hollowmere.example', 'hollowmere-freight.example', 'lakepass.example']) put(zone)
    // What the line knows of its names, beyond the zone files.
    const config = join(folder, CONFIG_FILE)
    const stated = readFileSync(join(material, CONFIG_FILE), 'utf8')
    const said = (key: string): string => new RegExp(`^${key}:\\n(?:  .*\\n)+`, 'm').exec(stated)![0]
    writeFileSync(
      config,
      ['fronts', 'follows', 'allowances'].reduce((text, key) => text.replace(`${key}: []\n`, said(key)), readFileSync(config, 'utf8')),
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
    say('Reports were good for weeks: the policy takes one step. That of the freight domain reports to another domain, which must agree.')
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

    say('A domain is taken over, with everything that its former host had put in. First what is sure to break; then what has one right answer is put right.')
    for (const zone of ['hollowmere-rail.example', 'quay.hollowmere-rail.example', '2.0.192.in-addr.arpa']) put(zone)
    await run(1, 'check', 'hollowmere-rail.example', '--severity', 'error')
    await run(1, 'check', 'hollowmere-rail.example', '--fix', '--yes')
    for (const zone of ['hollowmere-rail.example', 'quay.hollowmere-rail.example', '2.0.192.in-addr.arpa']) rmSync(join(folder, 'zones', `${zone}.zone`))

    say('A server on this machine now serves the files, with a caching resolver in front of it. Both become vantages.')
    let zones = loadZones((await openWorkspace(folder)).files)
    // The resolver knows what the line’s services publish, too.
    const elsewhere = loadZones(bareFiles(['larkpost', 'quillwing'].map((name) => join(material, 'elsewhere', `${name}.example.zone`))))
    const answer: Responder = (query, id) => respond(zones, query, id)
    const everywhere: Responder = (query, id) => {
      const response = answer(query, id)
      return response?.rcode === REFUSED ? respond(elsewhere, query, id) : response
    }
    const started = Date.now()
    let skipped = 0
    const cache = new StandInResolver(everywhere, () => (Date.now() - started) / 1000 + skipped)
    const server = await serveStandIn(answer)
    const resolver = await serveStandIn((query, id) => cache.respond(query, id))
    try {
      const vantages = `vantages:\n  - {label: server, address: 127.0.0.1, port: ${server.port}}\n  - {label: resolver, address: 127.0.0.1, port: ${resolver.port}}\n`
      writeFileSync(config, readFileSync(config, 'utf8').replace('vantages: []\n', vantages))
      await run(0, 'confirm', 'hollowmere.example')

      say('What do the services’ own records cost? And would mail pass: the office’s own, a newsletter, and one that somebody forges?')
      await run(0, 'show', 'hollowmere.example', '--live')
      await run(0, 'sender', '192.0.2.25', '--envelope', 'crew@hollowmere.example', '--signed-by', 'hollowmere.example:ferry1')
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

      say('Somebody changes the office’s address on the server, behind everyone’s back. The resolver still has the earlier answer.')
      const tampered = readFileSync(join(folder, 'zones', 'hollowmere.example.zone'), 'utf8').replace('192.0.2.25', '192.0.2.66')
      const other = join(folder, 'hollowmere.example.zone')
      writeFileSync(other, tampered)
      zones = loadZones(bareFiles([other]))
      await run(1, 'confirm', 'office.hollowmere.example')

      say('An hour later, the resolver has forgotten it, too.')
      skipped = 3600
      await run(1, 'confirm', 'office.hollowmere.example')
    } finally {
      await Promise.all([server.close(), resolver.close()])
    }
    if (options.json) printJson({ format: 1, steps })
    say(options.keep ? `That was the story. Its folder: ${folder}` : 'That was the story. Its folder is gone again (--keep leaves it there).')
  } finally {
    if (!options.keep) rmSync(folder, { recursive: true, force: true })
  }
}
