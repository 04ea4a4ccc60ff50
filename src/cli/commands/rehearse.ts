/** Serves what is intended on this machine, to try it before it is public. */

import { isIP } from 'node:net'
import { dirname } from 'node:path'
import type { Command } from 'commander'
import type { Vantage } from '../../core/confirm/observation.ts'
import { parseVantage } from '../../core/confirm/vantage.ts'
import type { Zones } from '../../core/model/zones.ts'
import { bothWays } from '../../core/names/idna.ts'
import { bare, foldName } from '../../core/names/name.ts'
import { printable } from '../../core/printable.ts'
import { Asker } from '../../net/ask.ts'
import { systemVantages } from '../../net/system.ts'
import { type Heard, rehearsing } from '../../serve/rehearse.ts'
import { type Served, serve } from '../../serve/sockets.ts'
import { stampOf } from '../../workspace/journal.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { CLOCK } from '../clock.ts'
import type { RehearseDocument } from '../documents/rehearse.ts'
import { includeOption, jsonOption, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { counted, Page, printJson } from '../output/page.ts'
import { printNote } from '../output/terminal.ts'
import { choose, type SourceOptions } from './source.ts'
import { limitOf } from './whom.ts'

export const define = (command: Command): Command =>
  command
    .argument('[what]', 'a zone file, or a zone of the workspace (default: all of it)')
    .option('--port <number>', 'the port, by UDP and TCP', '5300')
    .option('--listen <address>', 'the address; beyond loopback nothing is forwarded or transferred', '127.0.0.1')
    .option(
      '--forward <whom>',
      'who is asked for everything else: ADDRESS[:PORT], or system for this machine’s resolver',
    )
    .option('--timeout <seconds>', 'how long to wait for whoever is asked', '5')
    .addOption(zoneOption())
    .addOption(workspaceOption())
    .addOption(viewOption())
    .addOption(includeOption())
    .addOption(jsonOption())
    .action(rehearse)

interface RehearseOptions extends SourceOptions {
  port: string
  listen: string
  forward?: string
  timeout: string
  json?: boolean
}

/** So many questions are remembered for the document. */
const REMEMBERED = 10_000
/** Files are looked at this often, in milliseconds; more seldom where there are many. */
const LOOK = 500

async function rehearse(what: string | undefined, options: RehearseOptions, command: Command): Promise<void> {
  const port = Number(options.port)
  if (!(Number.isInteger(port) && port >= 0 && port <= 65_535))
    throw new Trouble(`--port ${options.port} must be a number from 0 to 65535`)
  if (isIP(options.listen) === 0)
    throw new Trouble(`--listen ${options.listen} must be an address of this machine, as in 127.0.0.1`)
  const isLocal = /^(127\.|::1$)/.test(options.listen)
  if (!isLocal && options.forward !== undefined)
    throw new Trouble(
      '--forward is for loopback alone: whoever reaches this machine could ask anything of anybody through it',
    )
  const vantage = forwardOf(options)
  const asker = vantage && new Asker(vantage, CLOCK, { limitMs: limitOf(options) })
  let { zones, chosen } = await choose(what, options)
  const page = new Page(command)
  const say = (text: string): void => {
    if (options.json) return
    page.text(text)
    page.print()
  }
  const heard: Heard[] = []
  const counts: Record<Heard['by'], number> = { zones: 0, others: 0, both: 0, nobody: 0 }
  const responder = rehearsing({
    zones: () => zones,
    others: asker && (async (name, type) => (await asker.ask(name, type)).message),
    transfers: isLocal,
    heard(each) {
      counts[each.by]++
      if (heard.push(each) > REMEMBERED) heard.shift()
      if (!options.json) told(page, each)
    },
  })
  const served = await opened(responder, options.listen, port)
  let reloads = 0
  say(
    `${counted(chosen.length, 'zone')} at ${served.address} port ${served.port} (UDP and TCP). ${vantage ? `Everything else is asked of ${vantage.label}.` : 'Everything else is refused; --forward asks somebody for it.'} Stop with Ctrl-C.`,
  )
  say('Point a resolver or a program there to try them.')
  await untilStopped(
    () => filesOf(zones),
    async () => {
      try {
        ;({ zones, chosen } = await choose(what, options))
        reloads++
        say(`Read again: ${counted(chosen.length, 'zone')}.`)
      } catch (error) {
        if (!(error instanceof Trouble)) throw error
        printNote(`bramblefront: ${printable(error.message)}; what was read before is served\n`)
      }
    },
  )
  asker?.close()
  await served.close()
  const total = Object.values(counts).reduce((sum, each) => sum + each, 0)
  if (!options.json)
    return say(
      `Ended after ${counted(total, 'question')}: ${counts.zones + counts.both} answered from your zones, ${counts.others} by others, ${counts.nobody} by nobody.`,
    )
  const document: RehearseDocument = {
    format: 1,
    address: served.address,
    port: served.port,
    zones: chosen.map(({ name }) => foldName(name)),
    forward: vantage?.label ?? null,
    reloads,
    asked: heard.map((each) => ({ ...each, name: foldName(each.name) })),
    counts,
  }
  printJson(document)
}

function forwardOf({ forward }: RehearseOptions): Vantage | undefined {
  if (forward === undefined) return undefined
  const vantage = forward === 'system' ? systemVantages()[0] : parseVantage(forward)
  if (!vantage)
    throw new Trouble(`--forward ${forward}: must be ADDRESS[:PORT], or system, if this machine has a resolver`)
  return vantage
}

async function opened(responder: Parameters<typeof serve>[0], address: string, port: number): Promise<Served> {
  try {
    return await serve(responder, { address, port })
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    const why =
      code === 'EADDRINUSE'
        ? 'something else uses that port: choose another with --port'
        : code === 'EACCES'
          ? 'ports below 1024 need more rights: choose another with --port'
          : code === 'EADDRNOTAVAIL'
            ? 'this machine has no such address'
            : String(code ?? error)
    throw new Trouble(`cannot listen at ${address} port ${port}: ${why}`)
  }
}

const BY: Record<Heard['by'], string> = {
  zones: 'your zones',
  others: 'asked',
  both: 'your zones, then asked',
  nobody: 'nobody',
}

function told(page: Page, { transport, name, type, by, rcode, answers }: Heard): void {
  const { colour } = page
  const time = new Date(CLOCK.now() * 1000).toISOString().slice(11, 19)
  const said = answers.length > 0 ? answers.join(', ') : rcode === 'NOERROR' ? 'nothing of that type' : rcode
  page.text(
    `${bothWays(bare(name))} ${type} → ${said} (${BY[by]})`,
    '               ',
    `${time}  ${transport}  `,
    by === 'nobody' ? colour.red : undefined,
  )
  page.print()
}

/** What tells that a file was changed, or that another came beside it. */
function filesOf(zones: Zones): string {
  const files = zones.sources.map(({ file }) => file)
  return [...files, ...new Set(files.map((file) => dirname(file)))].map((each) => stampOf(each) ?? '').join('\n')
}

/** Waits for an interrupt; calls `changed` whenever `state` is another. */
async function untilStopped(state: () => string, changed: () => Promise<void>): Promise<void> {
  let isStopped = false
  let wake = (): void => {}
  const stop = (): void => {
    isStopped = true
    wake()
  }
  process.on('SIGINT', stop).on('SIGTERM', stop)
  let before = state()
  while (!isStopped) {
    const started = CLOCK.elapsed()
    const now = state()
    const took = CLOCK.elapsed() - started
    if (now !== before) {
      await changed()
      before = state()
    }
    await new Promise<void>((resolve) => {
      wake = resolve
      CLOCK.after(Math.max(LOOK, took * 20), resolve)
    })
  }
}
