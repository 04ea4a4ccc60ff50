/** A domain that is taken over from its former host. */
import { join } from 'node:path'
import { answering, serve } from '../../../serve/sockets.ts'
import { bareFiles, loadZones } from '../../../workspace/workspace.ts'
import type { Story } from './story.ts'

export async function takingOver(story: Story): Promise<void> {
  const zone = 'hollowmere-rail.example'
  story.say(
    'Take over a domain with everything that its former host left in it: transfer it from the host’s server, which is simulated here. Then see what breaks, and apply the unambiguous fixes.',
  )
  await story.adopt('quay.hollowmere-rail.example', '2.0.192.in-addr.arpa')
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
