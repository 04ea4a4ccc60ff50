/** Whether the signatures of a zone hold, by that of its SOA record at each server, and what who validates says of them. */
import type { Cause } from './causes.ts'
import type { ConfirmedSet } from './status.ts'
import { momentText, spanText, timeText } from './time-text.ts'
import type { Judged } from './verdict.ts'
import type { Remark, ServerState, ZoneState } from './zone-state.ts'

/** A signature that ends within this many seconds is told. */
export const ENDS_SOON = 86_400

/** Why the signatures of a server's copy do not hold now; undefined where they do, or there are none. */
export function signaturesFail({ vantage, signed }: ServerState, now: number): string | undefined {
  if (!signed || (signed.until >= now && signed.from <= now)) return undefined
  return signed.until < now
    ? `the signature of the SOA record at ${vantage} expired at ${momentText(signed.until)}`
    : `the signature of the SOA record at ${vantage} is valid only from ${momentText(signed.from)}`
}

/** What is to be said of the signatures of a zone at its servers. */
export function remarksOnSignatures({ servers, secured }: ZoneState, now: number): Remark[] {
  return servers.flatMap((server): Remark[] => {
    const { vantage, signed } = server
    const failing = signaturesFail(server, now)
    if (failing) {
      const effect =
        secured === false
          ? 'the parent zone has no DS record, so nobody validates them yet'
          : 'validating resolvers answer SERVFAIL for the zone'
      return [{ what: 'signature', wrong: secured !== false, text: `${failing}: ${effect}` }]
    }
    if (!signed || signed.until - now > ENDS_SOON) return []
    const text = `the signature of the SOA record at ${vantage} expires in ${spanText(signed.until - now)}, at ${timeText(signed.until, now)}: unless the zone is signed again before, validating resolvers will answer SERVFAIL`
    return [{ what: 'signature', wrong: secured !== false, text }]
  })
}

/** Whether it matters that the parent zone says that the zone is signed. */
export const needsSecured = ({ servers }: ZoneState, now: number): boolean =>
  servers.some(
    (each) => each.signed && (signaturesFail(each, now) !== undefined || each.signed.until - now <= ENDS_SOON),
  )

/** Why nothing of a zone is there for those who validate; undefined where it is, or nobody validates it. */
export function signaturesBreak({ servers, secured }: ZoneState, now: number): string | undefined {
  if (secured === false) return undefined
  return servers.flatMap((server) => signaturesFail(server, now) ?? [])[0]
}

/** A set of a zone whose signatures do not hold, which `why` tells of. */
export function withSignatures(set: ConfirmedSet, why: string): ConfirmedSet {
  if (!['confirmed', 'settling'].includes(set.status.word)) return set
  const text = `${why}: validating resolvers answer SERVFAIL, though the data is as intended`
  return { ...set, status: { word: 'wrong', text } }
}

/** What the signatures fail of, by the extended errors of who validates (RFC 8914 §4.6–4.13). */
const BROKEN: Record<number, { text: string; fix: string }> = {
  7: { text: 'the signatures have expired', fix: 'sign the zone again, and find out why the signer did not run' },
  8: {
    text: 'the signatures are not valid yet',
    fix: 'correct the signer’s clock, and sign the zone again',
  },
  9: {
    text: 'no DNSKEY record matches the DS record in the parent zone',
    fix: 'have the registrar enter the DS record of the present key, or put the former key back',
  },
  10: {
    text: 'the zone is served without signatures, but the parent zone has a DS record',
    fix: 'sign the zone again, or have the DS record removed at the registrar',
  },
}

/** The cause where those who validate refuse what they get: by their word for it, else by the signature of the SOA record. */
export function signaturesBroken(answers: readonly Judged[], { servers }: ZoneState, now: number): Cause[] {
  const refusing = answers.filter(({ bogus }) => bogus)
  if (refusing.length === 0) return []
  const [seen] = servers.flatMap((server) => signaturesFail(server, now) ?? [])
  const code = refusing.flatMap(({ errors }) => errors.map((each) => each.code)).find((each) => BROKEN[each])
  // What is seen of the signatures themselves says more than who refuses them: some say that no key fits where it has only expired.
  const known = seen ? BROKEN[7] : code === undefined ? undefined : BROKEN[code]
  return [
    {
      kind: 'signatures-broken',
      text: known?.text ?? 'DNSSEC validation fails for the zone',
      evidence: seen ?? refusing[0]!.detail,
      fix:
        known?.fix ??
        'sign the zone again; if its keys were changed, compare the DS records in the parent zone with them',
    },
  ]
}
