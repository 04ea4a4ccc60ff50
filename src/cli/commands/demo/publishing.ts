/** Publishing by dynamic update, with a colleague’s change in between. */
import { readFileSync } from 'node:fs'
import { zoneInForm } from '../../../core/file/forms.ts'
import { emptyMessage, type MessageRecord, UPDATE } from '../../../core/message/message.ts'
import { parseRdata } from '../../../core/records/rdata.ts'
import { CLASS_ANY, CLASS_IN, TYPE } from '../../../core/records/types.ts'
import { sendUpdate } from '../../../net/update.ts'
import { CONFIG_FILE } from '../../../workspace/workspace.ts'
import { CLOCK } from '../../clock.ts'
import { transferOf } from '../servers.ts'
import { type Running, startPrimary } from './primary.ts'
import type { Served } from './servers.ts'
import type { Story } from './story.ts'

const ZONE = 'hollowmere.example'

export async function publishing(story: Story, { serves, written, NS1, NS2 }: Served): Promise<void> {
  const [kept, ...others] = written
  const primary = await startPrimary(story.scratch, `${ZONE}.`, kept!)
  try {
    story.say(
      `Until now, the files got to the servers by hand. From here on, publish brings changes to Upland’s primary server, from which the other two copy (${primary.isReal ? 'named, which is installed here, on loopback' : 'simulated here'}). The kiosk gets another address.`,
    )
    const { address, port } = primary.vantage
    story.scratch.put(
      CONFIG_FILE,
      `${readFileSync(story.scratch.path(CONFIG_FILE), 'utf8')}deliveries:\n  - {label: upland-primary, zones: ["hollowmere*.example"], by: update, address: ${address}, port: ${port}}\n`,
    )
    await story.run(0, 'write', 'address', `kiosk.${ZONE}`, '192.0.2.44')
    await story.run(1, 'diff', ZONE)

    story.say('A colleague was faster, and gave it a third one. Nothing is overwritten.')
    await byColleague(primary)
    await story.run(1, 'publish', ZONE, '--yes')

    story.say('They agree that yours is right; what else the colleague added stays.')
    await story.run(0, 'publish', ZONE, '--yes', '--overwrite')
    await copies(primary, story)
    for (const each of [NS1, NS2]) serves(each, story.scratch.path('copied', `${ZONE}.zone`), ...others)
    await story.run(0, 'confirm', ZONE, '--only-authoritative')
  } finally {
    await primary.close()
  }
}

/** Another address for the kiosk, and one for the press. */
async function byColleague({ vantage }: Running): Promise<void> {
  const address = (owner: string, text: string): MessageRecord => {
    const made = parseRdata(TYPE.A, text, new Uint8Array([0]))
    if (!('wire' in made)) throw new Error(text)
    return { owner: `${owner}.${ZONE}.`, type: TYPE.A, class: CLASS_IN, ttl: 3600, data: made.wire }
  }
  const kiosk = address('kiosk', '192.0.2.45')
  const none = { ...kiosk, class: CLASS_ANY, ttl: 0, data: new Uint8Array() }
  const head = { opcode: UPDATE, questions: [{ name: `${ZONE}.`, type: TYPE.SOA, class: CLASS_IN }] }
  const message = { ...emptyMessage(0), ...head, authority: [none, kiosk, address('press', '192.0.2.50')] }
  await sendUpdate(vantage, message, { clock: CLOCK, limitMs: 5000 })
}

/** The other servers fetch the zone. */
async function copies({ vantage }: Running, { scratch }: Story): Promise<void> {
  const there = await transferOf(vantage, `${ZONE}.`, 5000)
  if ('failed' in there) throw new Error(there.failed)
  scratch.put(`copied/${ZONE}.zone`, [...zoneInForm(there.zones, there.zone, 'canonical')].join(''))
}
