/** Records that came by mail, taken over, and typed into a web form. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Network, serveNetwork } from '../../../sim/network.ts'
import { bareFiles, loadZones } from '../../../workspace/workspace.ts'
import { CLOCK } from '../../clock.ts'
import type { Story } from './story.ts'

/** Bare files, before there is a workspace. */
export const FREIGHT = 'hollowmere-freight.example.zone'

export async function beingHandedRecords(story: Story): Promise<void> {
  story.say(
    'Hollowmere Ferries, a small ferry line, send notices for their freight domain through a newsletter sender, who wrote an email with the records it needs. Take them over as they were pasted.',
  )
  story.scratch.copy(join(story.material, 'mail', 'quillwing.txt'), 'quillwing.txt')
  story.show(readFileSync(story.scratch.path('quillwing.txt'), 'utf8'))
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
