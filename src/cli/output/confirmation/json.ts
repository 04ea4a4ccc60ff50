import type { Confirmation } from '../../../core/confirm/plan.ts'
import { type Status, statusCounts, worst } from '../../../core/confirm/status.ts'
import { foldName } from '../../../core/names/name.ts'
import { typeText } from '../../../core/records/types.ts'
import type { ConfirmDocument } from '../../documents/confirm.ts'
import type { Confirmed } from './confirmed.ts'

/** The status of a zone at its servers: the worse one of its SOA and its NS records. */
export const statusOfZone = ({ own }: Pick<Confirmation, 'own'>): { status: Status } => ({
  status: own.length > 0 ? worst(own.map(({ status }) => status)) : { word: 'confirmed', text: '' },
})

const isoOf = (seconds: number): string => new Date(seconds * 1000).toISOString()

export function confirmationJson({ plans, confirmations, vantages, samples }: Confirmed): ConfirmDocument {
  const one = plans.length === 1
  const sets = confirmations.flatMap((each) => each.sets)
  const roles = new Map(confirmations.flatMap((each) => each.parties.map(({ label, role }) => [label, role] as const)))
  return {
    format: 1,
    zone: one ? foldName(plans[0]!.zone.name) : null,
    at: isoOf(confirmations[0]!.at),
    vantages: [...vantages.values()]
      .filter(({ label }) => roles.has(label))
      .map(({ authority, ...each }) => ({ ...each, role: roles.get(each.label)! })),
    samples,
    zones: plans.map(({ zone, unfound, unread }, i) => {
      const { state, remarks, own, unknownTargets } = confirmations[i]!
      return {
        zone: foldName(zone.name),
        intended: state.intended,
        servers: state.servers.map(({ signed, own: _, ...server }) => ({
          ...server,
          ...(signed ? { signed: { from: isoOf(signed.from), until: isoOf(signed.until) } } : {}),
        })),
        own: own.map(({ question, status, answers }) => ({
          type: typeText(question.type),
          status: status.word,
          says: status.text,
          answers: answers.map(({ vantage, verdict, rcode, detail }) => ({ vantage, verdict, rcode, detail })),
        })),
        parents: state.parents.map(({ glue, ...parent }) => parent),
        unfound,
        unread: unread.map(({ owner, type, ...entry }) => ({
          ...entry,
          owner: owner === undefined ? null : foldName(owner),
          type: type === undefined ? null : typeText(type),
        })),
        remarks,
        unknownTargets,
      }
    }),
    sets: confirmations.flatMap(({ sets: ofZone }, i) =>
      ofZone.map(({ question, status, answers, causes }) => ({
        ...(one ? {} : { zone: foldName(plans[i]!.zone.name) }),
        owner: foldName(question.owner),
        type: typeText(question.type),
        ...(question.asked === question.owner ? {} : { asked: question.asked }),
        ...(question.intended || question.follow ? {} : { removed: true }),
        status: status.word,
        until: status.until === undefined ? null : isoOf(status.until),
        atMost: status.atMost === true,
        says: status.text,
        answers: answers.map(({ at, otherTtl, earlierTtl, state, ownAnswer, ofTarget, ...answer }) => ({
          ...answer,
          at: isoOf(at),
        })),
        causes,
      })),
    ),
    nowhere: confirmations.flatMap(({ nowhere }) =>
      nowhere.map(({ owner, type, target, why }) => ({ owner: foldName(owner), type: typeText(type), target, why })),
    ),
    left: plans.flatMap(({ left }) =>
      left.map(({ owner, type, why }) => ({ owner: foldName(owner), type: typeText(type), why })),
    ),
    counts: statusCounts(sets),
    zoneCounts: statusCounts(confirmations.map(statusOfZone)),
  }
}
