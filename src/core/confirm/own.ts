/** What holds for a whole zone, and for the sets in it: whether its servers answer for it, whether its signatures hold, whether a set that follows a name is up to date. */
import { bare } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import type { Drift } from './looks.ts'
import type { PartyInRole, Plan } from './plan.ts'
import type { Question } from './questions.ts'
import { type ConfirmedSet, statusOfOwn } from './status.ts'
import type { ZoneState } from './zone-state.ts'

/** SOA and NS of a zone as sets of their own; none where only resolvers were asked, and for something else. */
export function ownOf(
  { zone, questions }: Plan,
  { servers }: ZoneState,
  parties: readonly PartyInRole[],
): ConfirmedSet[] {
  const asked = parties.some(({ role }) => role === 'authoritative')
  if (!asked && questions.length > 0 && parties.length > 0) return []
  return (['soa', 'ns'] as const).map((which) => {
    const answers = servers.map(({ own }) => own[which])
    const type = which === 'soa' ? TYPE.SOA : TYPE.NS
    const question: Question = { owner: zone.name, type, asked: zone.name, own: true }
    return { question, answers, status: statusOfOwn(answers), causes: [] }
  })
}

/** A set that follows a name, by what that has now. */
export function withDrift(set: ConfirmedSet, { follow, now, same }: Drift): ConfirmedSet {
  const { word } = set.status
  const isQuiet = word === 'confirmed' || word === 'settling'
  if (same) {
    for (const answer of set.answers)
      if (answer.verdict === 'as-intended' && !answer.notes.includes(`follows ${follow}`))
        answer.notes.push(`follows ${follow}`)
    return set
  }
  const name = bare(follow)
  if (now === undefined)
    return isQuiet
      ? {
          ...set,
          status: {
            word: 'unreachable',
            text: `the current addresses of ${name}, which it follows, could not be looked up: whether the file still has them is not known`,
          },
        }
      : set
  const has = now.length === 0 ? 'no address of this type' : now.join(', ')
  const text = `${name}, which it follows, now has ${has}`
  return {
    ...set,
    status: isQuiet ? { word: 'wrong', text: `${text}; the file has other addresses` } : set.status,
    causes: [
      {
        kind: 'follow-drifted',
        text: `the addresses of ${name}, which it follows, have changed`,
        evidence: text,
        fix: 'bramblefront follow',
      },
    ],
  }
}
