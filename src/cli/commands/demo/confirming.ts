/** What is intended gets to the servers by hand, and is confirmed. */
import { readFileSync } from 'node:fs'
import { TYPE } from '../../../core/records/types.ts'
import { CLOCK } from '../../clock.ts'
import type { Served } from './servers.ts'
import type { Story } from './story.ts'

export async function settling(story: Story, { port, serves, written, NS1, NS2 }: Served): Promise<void> {
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

export async function passing(story: Story): Promise<void> {
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

export async function mistyping(story: Story, { serves, written, NS1, NS2 }: Served): Promise<void> {
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

/** What the resolver was asked this morning. */
async function askNow(port: number): Promise<void> {
  const { Asker } = await import('../../../net/ask.ts')
  const asker = new Asker({ label: 'morning', address: '127.0.0.1', port }, CLOCK)
  for (const name of ['hollowmere.example.', 'office.hollowmere.example.'])
    for (const type of [TYPE.MX, TYPE.TXT, TYPE.A]) await asker.ask(name, type)
  asker.close()
}
