/** Asks a few more questions about a set that is not as intended, and says what it looks like. */
import type { Message } from '../message/message.ts'
import { type Cause, causesOf, type Probe, probesFor } from './causes.ts'
import type { Looks } from './looks.ts'
import type { Asking, Confirmation, Plan } from './plan.ts'
import { signaturesBroken } from './signatures.ts'
import type { ConfirmedSet } from './status.ts'

export async function examine(
  plan: Plan,
  asking: Asking,
  { parties, state, remarks }: Pick<Confirmation, 'parties' | 'state' | 'remarks'>,
  set: ConfirmedSet,
  known: Looks,
): Promise<Cause[]> {
  const { question, answers } = set
  const { zones, zone } = plan
  const causes: Cause[] = []
  const behind = remarks.find(({ what }) => what === 'behind')
  const servers = answers.filter(({ role }) => role === 'authoritative')
  const published = servers.length > 0 && servers.every(({ verdict }) => verdict === 'as-intended')
  const problem = known.came.get(question)?.[0]
  if (behind && servers.some(({ verdict }) => verdict === 'as-intended') && !published)
    causes.push({
      kind: 'secondary-behind',
      text: 'one secondary is behind',
      evidence: behind.text,
      fix: 'check that it is notified (RFC 1996) and allowed to transfer the zone; it also tries by itself after refresh and retry',
    })
  const delegation = remarks.find(({ what }) => what === 'delegation')
  if (delegation)
    causes.push({
      kind: 'old-delegation',
      text: 'the parent zone still delegates to other servers',
      evidence: delegation.text,
      fix: `have the registrar enter ${state.intended.ns.join(', ')}; until then resolvers ask the other servers`,
    })
  for (const { vantage, ownAnswer } of answers)
    if (ownAnswer)
      causes.push({
        kind: 'answers-itself',
        text: `${vantage} answers this name by itself, and not with what the zone’s servers told it`,
        evidence: ownAnswer,
        fix: 'look there for a local entry, a block list, a policy or a fixed TTL for the name',
      })
  causes.push(...signaturesBroken(answers, state, asking.now()))
  // What an earlier state said needs no further explanation.
  if (
    !question.intended ||
    question.referral ||
    !problem ||
    answers.some(({ verdict, role }) => verdict === 'earlier-answer' && role === 'authoritative')
  )
    return causes
  const party = parties.find(({ label }) => label === problem.party.label) ?? parties[0]
  // What is settling needs no explanation; asking a cache for odd names would only fill it. Names above are asked of the zone's servers.
  const probes = probesFor(zones, zone, question, plan.fresh).filter(
    ({ kind }) => set.status.word !== 'settling' || kind === 'denied-above',
  )
  const found = new Map<Probe, Message | undefined>()
  const server = parties.find(({ role }) => role === 'authoritative')
  await Promise.all(
    probes.map(async (probe) => {
      const whom = probe.kind === 'denied-above' ? (server ?? party!) : party!
      found.set(
        probe,
        (await asking.ask(whom.label, probe.name, probe.type, { recursion: whom.role === 'resolver' })).message,
      )
    }),
  )
  return [
    ...causes,
    ...causesOf(zones, zone, question, probes, {
      found: (probe) => found.get(probe),
      came: problem.data,
      denied: problem.denied,
      nodata: problem.nodata,
      published,
      before: plan.earlier,
    }),
  ]
}
