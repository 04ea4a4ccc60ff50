/** Zones kept together in a workspace: what is wrong with them is mended, and what was removed comes back. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { CONFIG_FILE } from '../../../workspace/workspace.ts'
import type { Story } from './story.ts'

export async function keepingTogether(story: Story): Promise<void> {
  story.say('They hand you the zone file of their main domain, too. What is wrong with it?')
  story.scratch.copy(join(story.material, 'zones', 'hollowmere.example.zone'), 'hollowmere.example.zone')
  await story.run(1, 'check', 'hollowmere.example.zone')

  story.say('A workspace keeps the three zones of the ferry line together.')
  await story.run(0, 'init')
  await story.adopt('hollowmere.example', 'hollowmere-freight.example', 'lakepass.example')
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

export async function mending(story: Story): Promise<void> {
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

export async function goingBack(story: Story): Promise<void> {
  story.say('Somebody tidies up and removes an address that the ticket office needs. What happened to it, and back.')
  await story.run(0, 'remove', 'kiosk.hollowmere.example', 'A')
  await story.run(0, 'history', 'hollowmere.example', 'kiosk', 'A')
  const log = readFileSync(story.scratch.path('log.jsonl'), 'utf8').trimEnd().split('\n')
  const { id } = JSON.parse(log.at(-1)!) as { id: string }
  await story.run(0, 'restore', 'hollowmere.example', 'kiosk', 'A', '--from', id.slice(-6), '--yes')
}
