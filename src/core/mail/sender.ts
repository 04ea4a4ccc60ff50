/** Whether mail from a sender would pass: SPF, the keys that it is said to be signed with, alignment, and what the domain’s policy asks for (RFC 7489 §6.6). */

import { UNANSWERED, type Unanswered } from '../knowledge/find.ts'
import { foldName, type Name } from '../names/name.ts'
import { type KeyRecord, parseKey } from './dkim/key.ts'
import { type Discovered, discoverByList, discoverByWalk, isAligned } from './dmarc/discovery.ts'
import { type DmarcRecord, type Policy, policyFor } from './dmarc/record.ts'
import { domainToName, type Lookup, unanswered } from './lookup.ts'
import { type CheckHostResult, checkHost } from './spf/check-host.ts'

export interface SenderInput {
  ip: string
  helo: string
  /** The envelope sender; empty for bounces. */
  envelope: string
  /** The domain of `From:`, absolute. */
  from: Name
  /** Who is said to sign: a domain, and the selector where it is known. The signatures themselves are taken to be sound. */
  signedBy: readonly { domain: Name; selector?: string }[]
  lookup: Lookup
  /** The organizational domain by the public suffix list. */
  organizational: (name: Name) => Name
}

export interface Signature {
  domain: Name
  selector?: string
  aligned: boolean
  /** Whether its key can verify: `taken` where no selector is stated. */
  key: 'usable' | 'taken' | 'none' | 'revoked' | 'unusable' | 'several' | Unanswered
  /** What is wrong with it, in words. */
  why?: string
}

export interface SenderVerdict {
  /** The domain that SPF judged, absolute; undefined where it is none. */
  spfDomain?: Name
  spf: CheckHostResult
  spfAligned: boolean
  signatures: Signature[]
  dmarc: Discovered
  /** What the successor’s tree walk finds, where that is another record or organization. */
  walked?: Discovered
  /** The policy for this name: undefined where receivers find none. */
  policy?: Policy
  /** Which tag said so. */
  policyBy: 'p' | 'sp' | 'np'
  /** Passes by SPF, by DKIM, or by none of them, as the policy counts; without a policy, alignment is not asked for. */
  by: ('SPF' | 'DKIM')[]
  /** What becomes of the message: `passes`; `no policy` where nothing passed and nobody said what to do; else what is asked for; `later` where asking failed. */
  disposition: 'passes' | 'no policy' | 'later' | Policy
}

/** Judges a sender on the data that `lookup` has. An `ip` that is no address is a RangeError. */
export async function judgeSender(input: SenderInput): Promise<SenderVerdict> {
  const { ip, helo, envelope, from, lookup, organizational } = input
  const stated = envelope === '' ? helo : envelope.slice(envelope.lastIndexOf('@') + 1)
  const [spf, dmarc, walked, keys] = await Promise.all([
    checkHost({ ip, helo, mailFrom: envelope, lookup }),
    discoverByList(from, lookup, organizational),
    discoverByWalk(from, lookup),
    Promise.all(input.signedBy.map((each) => keyAt(each, lookup))),
  ])
  const spfDomain = domainToName(stated)
  const modes: Pick<DmarcRecord, 'spf' | 'dkim'> = dmarc.record ?? { spf: 'relaxed', dkim: 'relaxed' }
  const spfAligned = spfDomain !== undefined && isAligned(spfDomain, from, modes.spf, organizational)
  const signatures = input.signedBy.map(
    (each, i): Signature => ({
      ...each,
      ...keys[i]!,
      aligned: isAligned(each.domain, from, modes.dkim, organizational),
    }),
  )
  const counts = (aligned: boolean): boolean => dmarc.record === undefined || aligned
  const by: SenderVerdict['by'] = []
  if (spf.result === 'pass' && counts(spfAligned)) by.push('SPF')
  if (signatures.some(({ key, aligned }) => (key === 'usable' || key === 'taken') && counts(aligned))) by.push('DKIM')
  const where =
    !dmarc.at || foldName(dmarc.at) === foldName(from) ? 'itself' : (await exists(from, lookup)) ? 'below' : 'missing'
  const policy = dmarc.record && policyFor(dmarc.record, where)
  const policyBy =
    where === 'itself' ? 'p' : where === 'missing' && dmarc.record?.missing ? 'np' : dmarc.record?.below ? 'sp' : 'p'
  const waits =
    dmarc.trouble !== undefined ||
    (by.length === 0 &&
      ((spf.result === 'temperror' && counts(spfAligned)) ||
        signatures.some(({ key, aligned }) => key in UNANSWERED && counts(aligned))))
  const other =
    walked.trouble === undefined &&
    (foldName(walked.organization) !== foldName(dmarc.organization) || walked.text !== dmarc.text)
  return {
    ...(spfDomain === undefined ? {} : { spfDomain }),
    spf,
    spfAligned,
    signatures,
    dmarc,
    ...(other ? { walked } : {}),
    ...(policy === undefined ? {} : { policy }),
    policyBy,
    by,
    disposition: by.length > 0 && dmarc.trouble === undefined ? 'passes' : waits ? 'later' : (policy ?? 'no policy'),
  }
}

/** A name that receivers’ first question finds is there (RFC 9091 §2.7: any of A, AAAA, MX). */
async function exists(name: Name, lookup: Lookup): Promise<boolean> {
  const found = await Promise.all((['MX', 'A', 'AAAA'] as const).map((type) => lookup(name, type)))
  return found.some((each) => 'data' in each || each.trouble !== 'no-name')
}

async function keyAt(
  { domain, selector }: { domain: Name; selector?: string },
  lookup: Lookup,
): Promise<Pick<Signature, 'key' | 'why'>> {
  if (selector === undefined) return { key: 'taken' }
  const name = domainToName(`${selector}._domainkey.${domain}`)
  if (name === undefined) return { key: 'none', why: `${selector} is not a valid selector` }
  const found = await lookup(name, 'TXT')
  const trouble = unanswered(found)
  if (trouble) return { key: trouble }
  if ('trouble' in found) return { key: 'none', why: `there is no key record at ${name}` }
  if (found.data.length > 1) return { key: 'several', why: `there are ${found.data.length} TXT records at ${name}` }
  return usability(parseKey(found.data[0]!))
}

/** Whether verifiers can use a key record. */
function usability({
  record,
  problems,
}: {
  record: KeyRecord
  problems: ReturnType<typeof parseKey>['problems']
}): Pick<Signature, 'key' | 'why'> {
  const fatal = problems.find(
    ({ kind, severity }) =>
      [
        'syntax',
        'key-missing',
        'key-unreadable',
        'key-type',
        'hash',
        'service',
        'escaped-semicolon',
        'quotes-inside',
      ].includes(kind) || severity === 'error',
  )
  if (fatal) return { key: 'unusable', why: fatal.message }
  if (record.key?.length === 0) return { key: 'revoked', why: 'its p= is empty' }
  return {
    key: 'usable',
    why: `${record.type}, ${record.bits} bits${record.testing ? '; t=y: verifiers may treat it as unsigned' : ''}`,
  }
}
