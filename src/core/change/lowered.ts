/** Sets whose TTL was lowered and not raised again, by the log of the workspace. */
import type { Lowered } from '../rules/rule.ts'
import { isDataEntry } from './entry.ts'

/** By the lines of the log, oldest first; what is none of its lines is passed over. A set whose data changes in between stays lowered. */
export function loweredSets(lines: Iterable<unknown>): Lowered[] {
  const lowered = new Map<string, Lowered>()
  for (const line of lines) {
    if (!isDataEntry(line) || line.what === 'adopted') continue
    for (const { owner, type, before, after } of line.sets) {
      const key = `${line.view ?? ''} ${owner} ${type}`
      const known = lowered.get(key)
      if (!after || !before || (known && after.ttl >= known.from)) lowered.delete(key)
      else if (known) known.to = after.ttl
      else if (after.ttl < before.ttl && before.records.join('\n') === after.records.join('\n'))
        lowered.set(key, {
          owner,
          type,
          from: before.ttl,
          to: after.ttl,
          at: Date.parse(line.at) / 1000,
          ...(line.view === undefined ? {} : { view: line.view }),
        })
    }
  }
  return [...lowered.values()]
}
