/** Plays the whole story in a temporary folder. */
import type { Command } from 'commander'
import type { DemoDocument } from '../../documents/demo.ts'
import { jsonOption } from '../../options.ts'
import { printJson } from '../../output/page.ts'
import { mistyping, passing, settling } from './confirming.ts'
import { publishing } from './publishing.ts'
import { beingHandedRecords } from './records.ts'
import { atServers } from './servers.ts'
import { Story } from './story.ts'
import { takingOver } from './takeover.ts'
import { goingBack, keepingTogether, mending } from './workspace.ts'

export const define = (command: Command): Command =>
  command.option('--keep', 'keep the folder afterwards').addOption(jsonOption()).action(demo)

async function demo(options: { keep?: boolean; json?: boolean }, command: Command): Promise<void> {
  const story = new Story(command, options.json === true)
  // Interrupted, too.
  if (!options.keep) process.once('exit', () => story.scratch.drop())
  try {
    for (const act of [beingHandedRecords, keepingTogether, mending, goingBack, takingOver]) await act(story)
    await atServers(story, [settling, passing, mistyping, publishing])
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
