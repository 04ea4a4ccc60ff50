/** Looks names up at vantages, as evaluations of mail need it: aliases followed, the first vantage that knows. */

import type { Vantage } from '../core/confirm/observation.ts'
import type { Found, Lookup, LookupType } from '../core/mail/lookup.ts'
import type { Message } from '../core/message/message.ts'
import { foldName, type Name, wireToName } from '../core/names/name.ts'
import { rdataText } from '../core/records/rdata.ts'
import { TYPE } from '../core/records/types.ts'
import { joined } from '../core/records/views.ts'
import { Asker } from './ask.ts'

const NXDOMAIN = 3
const MAX_ALIASES = 8

export interface Lookups {
  lookup: Lookup
  close(): void
}

/** Answers are remembered for as long as this is open. A vantage that refuses, or knows nothing of the name, leaves it to the next one. */
export function lookupsAt(vantages: readonly Vantage[], limitMs: number): Lookups {
  const askers = vantages.map((vantage) => new Asker(vantage, { limitMs }))
  const known = new Map<string, Promise<Found>>()
  return {
    lookup(name, type) {
      const key = `${foldName(name)} ${type}`
      let found = known.get(key)
      if (!found) known.set(key, (found = first(askers, name, type)))
      return found
    },
    close() {
      for (const asker of askers) asker.close()
    },
  }
}

async function first(askers: readonly Asker[], name: Name, type: LookupType): Promise<Found> {
  let trouble: Found = { trouble: 'time-out' }
  for (const asker of askers) {
    let at = name
    for (let i = 0; i < MAX_ALIASES; i++) {
      const { message } = await asker.ask(at, TYPE[type])
      const found = message ? read(message, at, type) : undefined
      if (found === undefined) {
        if (message) trouble = { trouble: 'server-failure' }
        break
      }
      if (!('alias' in found)) return found
      at = found.alias
    }
  }
  return trouble
}

/** What an answer says; where it ends with an alias, the name to go on with; undefined where it says nothing of the name. */
function read(message: Message, name: Name, type: LookupType): Found | { alias: Name } | undefined {
  let at = foldName(name)
  for (let i = 0; i <= message.answers.length; i++) {
    const data = message.answers.filter((each) => each.type === TYPE[type] && foldName(each.owner) === at)
    if (data.length > 0)
      return { data: data.map((each) => (type === 'TXT' ? joined(each.data) : rdataText(each.type, each.data))) }
    const alias = message.answers.find((each) => each.type === TYPE.CNAME && foldName(each.owner) === at)
    if (!alias) break
    at = foldName(wireToName(alias.data))
    // A circle says nothing.
    if (i === message.answers.length || at === foldName(name)) return undefined
  }
  if (message.rcode === NXDOMAIN) return { trouble: 'no-name' }
  if (message.rcode !== 0) return undefined
  if (at !== foldName(name)) return { alias: at }
  // An empty answer counts where somebody answers for it: a referral says nothing.
  return message.authoritative || message.recursionAvailable || message.authority.some((each) => each.type === TYPE.SOA)
    ? { trouble: 'no-data' }
    : undefined
}
