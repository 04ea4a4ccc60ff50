/** A story of commands: each is run as its own process, and what it prints is what it prints. */
import { spawn } from 'node:child_process'
import { existsSync, realpathSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { Command } from 'commander'
import { printable } from '../../../core/printable.ts'
import { Scratch } from '../../../workspace/scratch.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { Page } from '../../output/page.ts'

/** What is told, where it is played, and how commands are run in it. */
export class Story {
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

  /** Shows a text that somebody was sent, as it is. */
  show(text: string): void {
    if (this.silent) return
    this.page.line()
    for (const line of text.trimEnd().split('\n')) this.page.line(printable(`  | ${line}`.trimEnd()))
    this.page.print()
  }

  /** Takes zone files of the demo's into the workspace, in the open. */
  async adopt(...zones: readonly string[]): Promise<void> {
    const files = zones.map((zone) => `${zone}.zone`)
    for (const file of files)
      if (!existsSync(this.scratch.path(file))) this.scratch.copy(join(this.material, 'zones', file), file)
    await this.run(0, 'adopt', ...files)
    for (const file of files) this.scratch.remove(file)
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
        // A session of its own: no command of the story finds a terminal to ask at, and waits there for an answer that the story does not give.
        detached: true,
        env: { ...process.env, COLUMNS: String(this.page.width), BRAMBLEFRONT_AHEAD: String(this.ahead) },
      })
      const end = (): void => void child.kill()
      process.once('exit', end).once('SIGINT', interrupted)
      child.stdout?.setEncoding('utf8').on('data', (text) => (stdout += text))
      child.on('error', reject)
      child.on('close', (code) => {
        process.removeListener('exit', end).removeListener('SIGINT', interrupted)
        resolve(code ?? 2)
      })
    })
    return { status, stdout }
  }
}

/** As a shell has it (128 + SIGINT); what is run ends with it. */
const interrupted = (): void => process.exit(130)
