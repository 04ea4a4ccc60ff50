/** What writing a record of mail changes in a zone, and what there is to say of it. Nothing is written here. */

import type { SetChange } from '../file/edit/changes.ts'
import { looksLikeKey, parseKey } from '../mail/dkim/key.ts'
import { isDmarc, policyFor, readDmarc, strictness, TAG_NOTES, withTags } from '../mail/dmarc/record.ts'
import { nextStep } from '../mail/dmarc/steps.ts'
import { type KnownSpf, spfBudget } from '../mail/spf/budget.ts'
import { MAX_LOOKUPS } from '../mail/spf/check-host.ts'
import { buildSpf, mergeSpf, withEnd, withoutSender } from '../mail/spf/merge.ts'
import { rangesOf } from '../mail/spf/ranges.ts'
import { isSpf, letsSend, parseSpf, type Qualifier, spfText, termText } from '../mail/spf/record.ts'
import { isSts, isTlsReports, nextId, parsePolicy, parseSts, policyText, type StsMode } from '../mail/transport.ts'
import { setAt, type Zone, type Zones } from '../model/zones.ts'
import { toAsciiMailbox } from '../names/idna.ts'
import { bare, foldName, type Name, nameToWire } from '../names/name.ts'
import type { Rdata } from '../records/rdata.ts'
import { TYPE } from '../records/types.ts'
import { joined } from '../records/views.ts'
import { isSelector } from '../rules/look.ts'
import { type Mistyped, textData } from './typed.ts'

export interface MailChange {
  changes: SetChange[]
  /** What to know of it: why it is so, what it costs, what comes next. */
  notes: string[]
}

/** The texts at a name that are of a kind. */
export function textsAt(zones: Zones, zone: Zone, owner: Name, isOne: (text: string) => boolean): string[] {
  return (setAt(zones, zone, owner, TYPE.TXT)?.data ?? []).map(joined).filter(isOne)
}

/** The change that makes a text the only one of its kind at a name (undefined: none is left); other texts stay. */
function textChange(
  zones: Zones,
  zone: Zone,
  owner: Name,
  isOne: (text: string) => boolean,
  text: string | undefined,
  ttl?: number,
): SetChange {
  const present = setAt(zones, zone, owner, TYPE.TXT)?.data ?? []
  let placed = text === undefined
  const data: Rdata[] = []
  for (const each of present) {
    if (!isOne(joined(each))) data.push(each)
    else if (!placed) {
      // What says so already keeps its strings as they are parted.
      data.push(joined(each) === text ? each : textData(text!))
      placed = true
    }
  }
  if (!placed) data.push(textData(text!))
  return { owner, type: TYPE.TXT, ttl, data }
}

const ENDS: Record<string, Qualifier> = { fail: '-', softfail: '~', neutral: '?' }

export interface SpfWishes {
  /** Whole records, and senders as people name them. */
  records: readonly string[]
  allow: readonly string[]
  remove: readonly string[]
  end?: string
  /** Begin anew instead of joining what is there. */
  replace: boolean
  /** Includes that are to be replaced by what they hold now. */
  spellOut: readonly string[]
  ttl?: number
}

/** Writes or changes the one SPF record of a name. `recordAt` is what is known of other names’ records; `today` is for the note about what was spelled out. */
export function spfChange(
  zones: Zones,
  zone: Zone,
  owner: Name,
  wishes: SpfWishes,
  recordAt: (name: Name) => KnownSpf,
  today: string,
): MailChange | Mistyped {
  const notes: string[] = []
  const present = textsAt(zones, zone, owner, isSpf)
  if (wishes.end !== undefined && ENDS[wishes.end] === undefined)
    return { mistyped: `--end ${wishes.end} must be fail (-all), softfail (~all) or neutral (?all)` }
  for (const record of wishes.records) {
    if (!isSpf(record))
      return { mistyped: `${record} is no SPF record: it begins with v=spf1 and a space. For a sender, use --allow` }
    const [problem] = parseSpf(record).problems
    if (problem) return { mistyped: `${record} has a fault: ${problem.message}; right would be ${problem.wanted}` }
  }
  const built = wishes.allow.length === 0 ? undefined : buildSpf(wishes.allow, '~')
  if (built && 'problem' in built)
    return { mistyped: `--allow ${built.sender}: ${built.problem.message}; right would be ${built.problem.wanted}` }
  const parts = [...(wishes.replace ? [] : [...new Set(present)]), ...wishes.records, ...(built ? [built.text] : [])]
  if (parts.length === 0) {
    if (wishes.end === undefined)
      return {
        mistyped: `nobody is named who sends for ${owner}: name them with --allow (mx, an address or range, include:NAME); for a domain that does no mail, use: write no-mail`,
      }
    parts.push('v=spf1')
  }
  if (
    parts.length === 1 &&
    wishes.remove.length === 0 &&
    wishes.spellOut.length === 0 &&
    wishes.end === undefined &&
    present.length === 1 &&
    !wishes.replace
  )
    return {
      mistyped: `${owner} has an SPF record: ${present[0]}. Say what to change: --allow, --remove, --end, --spell-out, or --replace and a record`,
    }
  let text = parts[0]!
  for (const [i, part] of parts.entries()) {
    if (i === 0) continue
    const merged = mergeSpf(text, part)
    if ('refused' in merged) return { mistyped: `the records cannot be one: ${merged.refused}` }
    text = merged.text
    for (const { term, why } of merged.dropped) notes.push(`${term} was left out: ${why}.`)
    if (merged.otherEnd && !(built && part === built.text) && wishes.end === undefined)
      notes.push(`${part} ends with ${merged.otherEnd}; the end of the record that was there is kept.`)
  }
  const joinedHere = wishes.replace ? 0 : new Set(present).size
  if (joinedHere > 1)
    notes.push(
      `The ${joinedHere} SPF records that were there are one now: receivers took several for a permanent error.`,
    )
  for (const sender of wishes.remove) {
    const left = withoutSender(text, sender)
    if (left === undefined) return { mistyped: `${sender} is not in the record ${text}` }
    text = left
  }
  let copied: string | undefined
  for (const include of wishes.spellOut) {
    const spelled = spellOut(text, include, recordAt)
    if ('mistyped' in spelled) return spelled
    text = spelled.text
    copied = [copied, `copied from include:${spelled.name} on ${today}: ${spelled.ranges.join(' ')}`]
      .filter(Boolean)
      .join('; ')
    notes.push(
      `Danger: the addresses of ${spelled.name} change without notice. What it has now was copied (${spelled.ranges.length === 1 ? 'one range' : `${spelled.ranges.length} ranges`}); a note in the file says where from, and check compares it with that record where it is kept.`,
    )
  }
  if (wishes.end !== undefined) text = withEnd(text, ENDS[wishes.end]!)
  const [problem] = parseSpf(text).problems
  if (problem) return { mistyped: `${text} has a fault: ${problem.message}; right would be ${problem.wanted}` }
  notes.push(...aboutEnd(text, wishes), ...aboutBudget(owner, present, text, recordAt), ...aboutLength(text))
  return {
    changes: [{ ...textChange(zones, zone, owner, isSpf, text, wishes.ttl), ...(copied ? { note: copied } : {}) }],
    notes,
  }
}

function aboutEnd(text: string, wishes: SpfWishes): string[] {
  const { all } = parseSpf(text).record
  if (!all) return []
  if (all.qualifier === '~' && wishes.end === undefined && wishes.allow.length > 0)
    return [
      'It ends with ~all (softfail): with -all, some receivers refuse before they look at DKIM (RFC 7489 §10.1). --end fail chooses it all the same.',
    ]
  if (all.qualifier === '-' && letsSend(text))
    return [
      'It ends with -all (fail): forwarded mail may be refused before DKIM is looked at (RFC 7489 §10.1). --end softfail is milder.',
    ]
  return []
}

function aboutBudget(
  owner: Name,
  before: readonly string[],
  text: string,
  recordAt: (name: Name) => KnownSpf,
): string[] {
  const now = spfBudget(owner, text, recordAt)
  const then = before.length === 1 ? spfBudget(owner, before[0]!, recordAt) : undefined
  if (now.total === 0 && !then?.total) return []
  const least = now.whole ? '' : 'at least '
  return [
    `Lookups: ${least}${now.total} of ${MAX_LOOKUPS}${then ? `, ${then.total} before` : ''}${now.whole ? '' : '; what is included elsewhere is not known here: bramblefront show --live counts it'}.`,
  ]
}

function aboutLength(text: string): string[] {
  const strings = Math.ceil(text.length / 255)
  return strings > 1
    ? [
        `It has ${text.length} octets, and stands in ${strings} strings, which receivers join without anything between them.`,
      ]
    : []
}

/** The record with an include replaced by the ranges that it stands for now. */
function spellOut(
  text: string,
  include: string,
  recordAt: (name: Name) => KnownSpf,
): { text: string; name: string; ranges: string[] } | Mistyped {
  const name = include.replace(/^[+]?include:/i, '')
  const { terms, mechanisms } = parseSpf(text).record
  const at = mechanisms.find((each) => each.name === 'include' && each.domain?.toLowerCase() === name.toLowerCase())
  if (!at) return { mistyped: `include:${name} is not in the record ${text}` }
  const ranges = rangesOf(`${bare(name)}.`, recordAt)
  if ('mistyped' in ranges) return ranges
  // What it lets pass gets the include’s own sign.
  const copies = ranges.terms.map((each) => ({ ...each, qualifier: at.qualifier }))
  return { text: spfText(terms.flatMap((term) => (term === at ? copies : [term]))), name, ranges: copies.map(termText) }
}

/** What to publish at a selector: a key, an alias to another’s key, or that it is revoked. */
export type KeyWish = { text: string } | { alias: Rdata } | 'revoked'

/** Writes what stands at a selector. Whatever stood there of the other type goes. */
export function keyChange(zones: Zones, zone: Zone, owner: Name, wish: KeyWish, ttl?: number): MailChange {
  const alias = typeof wish === 'object' && 'alias' in wish
  const notes: string[] = []
  const text = wish === 'revoked' ? 'v=DKIM1; p=' : 'text' in wish ? wish.text : undefined
  if (wish === 'revoked')
    notes.push(
      `${owner} is revoked: mail that is signed with it fails from now on. When none is on its way any more, remove it: bramblefront remove ${bare(owner)} TXT`,
    )
  if (text !== undefined && wish !== 'revoked') {
    const { record } = parseKey(text)
    notes.push(
      `A key of ${record.bits} bits, ${record.type === 'ed25519' ? 'Ed25519: not every verifier knows it yet, so sign with an RSA key as well' : 'RSA'}. ${text.length > 255 ? `Its ${text.length} octets stand in ${Math.ceil(text.length / 255)} strings, which verifiers join.` : ''}`.trim(),
    )
  }
  const other = alias ? TYPE.TXT : TYPE.CNAME
  const changes: SetChange[] = setAt(zones, zone, owner, other) ? [{ owner, type: other, data: [] }] : []
  changes.push(
    alias
      ? { owner, type: TYPE.CNAME, ttl, data: [wish.alias] }
      : { owner, type: TYPE.TXT, ttl, data: [textData(text!)] },
  )
  return { changes, notes }
}

/** Selectors below a name that have a key or an alias, those that are revoked apart. */
export function selectorsOf(
  zones: Zones,
  zone: Zone,
  domain: Name,
): { selector: string; state: 'key' | 'alias' | 'revoked' }[] {
  const found: { selector: string; state: 'key' | 'alias' | 'revoked' }[] = []
  const suffix = `._domainkey.${foldName(domain)}`
  for (let record = 0; record < zones.count; record++) {
    const type = zones.type(record)
    if ((type !== TYPE.TXT && type !== TYPE.CNAME) || zones.zoneOfRecord(record) !== zone) continue
    if (!isSelector(zones, zones.owner(record))) continue
    const owner = zones.tree.text(zones.owner(record))
    if (!foldName(owner).endsWith(suffix)) continue
    const selector = owner.slice(0, -suffix.length)
    if (selector === '*' || found.some((each) => each.selector === selector)) continue
    const text = type === TYPE.TXT ? joined(zones.rdata(record)) : ''
    if (type === TYPE.TXT && !looksLikeKey(text)) continue
    found.push({
      selector,
      state: type === TYPE.CNAME ? 'alias' : parseKey(text).record.key?.length === 0 ? 'revoked' : 'key',
    })
  }
  return found
}

/** A selector to follow one: its number one higher; else with a 2 behind it. */
export const selectorAfter = (selector: string): string =>
  /\d+$/.test(selector)
    ? selector.replace(/\d+$/, (digits) => String(BigInt(digits) + 1n).padStart(digits.length, '0'))
    : `${selector}2`

export interface DmarcWishes {
  /** Tags and values; undefined takes a tag out. */
  tags: Readonly<Record<string, string | undefined>>
  /** Addresses for aggregate reports, as people write them. */
  reports: readonly string[]
  next: boolean
  percent?: number
  replace: boolean
  /** Loosening is refused otherwise. */
  force: boolean
  ttl?: number
}

const asMailto = (address: string): string =>
  /^[a-z][a-z0-9+.-]*:/i.test(address)
    ? address
    : `mailto:${address.replace(/[,!]/g, (sign) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`)}`

/** Addresses for reports as people write them, as URIs, the domains of mailboxes in A-labels. */
function reportUris(addresses: readonly string[]): string[] | Mistyped {
  const uris: string[] = []
  for (const address of addresses) {
    const ascii = /^(?!mailto:)[a-z][a-z0-9+.-]*:/i.test(address) ? { name: address } : toAsciiMailbox(address)
    if ('refused' in ascii) return { mistyped: `${address}: ${ascii.refused}` }
    uris.push(asMailto(ascii.name))
  }
  return uris
}

/** Writes or changes the policy at `_dmarc` of a domain. */
export function dmarcChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  wishes: DmarcWishes,
): (MailChange & { text: string }) | Mistyped | { missing: 'reports' } {
  const owner = `_dmarc.${domain}`
  const present = textsAt(zones, zone, owner, isDmarc)
  if (present.length > 1 && !wishes.replace)
    return {
      mistyped: `${owner} has ${present.length} policies; receivers apply none of them. Say which one it shall be, with --replace`,
    }
  const before = wishes.replace ? undefined : present[0]
  const reports = reportUris(wishes.reports)
  if ('mistyped' in reports) return reports
  const notes: string[] = []
  let text: string
  if (wishes.next) {
    const step = nextStep(before, { percent: wishes.percent, reports })
    if ('missing' in step) return step
    if ('refused' in step) return { mistyped: step.refused }
    if ('done' in step) return { changes: [], notes: [`${owner} has ${step.done}.`], text: before! }
    text = step.text
    notes.push(step.does, ...step.first.map((each) => `Before this step: ${each}.`))
  } else {
    const rua =
      reports.length === 0
        ? {}
        : {
            rua: [...(before ? readDmarc(before).record.rua.map(({ uri }) => uri) : []), ...reports]
              .filter((each, i, all) => all.indexOf(each) === i)
              .join(','),
          }
    const percent =
      wishes.percent === undefined ? {} : { pct: wishes.percent === 100 ? undefined : String(wishes.percent) }
    text = withTags(before ?? '', { ...rua, ...percent, ...wishes.tags })
  }
  const { record, problems } = readDmarc(text)
  const [bad] = problems.filter(({ kind }) => kind !== 'unknown-tag')
  if (bad) return { mistyped: `${text}: ${bad.message}; right would be ${bad.wanted}` }
  const old = present.length === 1 ? readDmarc(present[0]!).record : undefined
  if (old && !wishes.force) {
    const looser = (['itself', 'below', 'missing'] as const).find(
      (name) => strictness(policyFor(record, name)) < strictness(policyFor(old, name)),
    )
    if (looser || (record.policy === old.policy && old.policy !== 'none' && record.percent < old.percent))
      return { mistyped: `this loosens the policy (${present[0]} → ${text}): --force does it` }
  }
  for (const tag of record.tags)
    if (TAG_NOTES[tag.name]) notes.push(`${tag.name}=${tag.value}: ${TAG_NOTES[tag.name]}.`)
  return { changes: [textChange(zones, zone, owner, isDmarc, text, wishes.ttl)], notes, text }
}

/** The change that makes a domain refuse mail, and forbids mail from it; `text` is its policy. */
export function noMailChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  wishes: { emptyKeys: boolean; force: boolean; reports: readonly string[]; ttl?: number },
): (MailChange & { text: string }) | Mistyped {
  const mx = setAt(zones, zone, domain, TYPE.MX)
  const nothing = Uint8Array.from([0, 0, 0])
  const takes = mx?.data.some((data) => data.length > 3)
  if (takes && !wishes.force)
    return { mistyped: `${domain} takes mail now: a null MX would send all of it back. --force writes it all the same` }
  const [policy] = textsAt(zones, zone, `_dmarc.${domain}`, isDmarc)
  const reports = reportUris(wishes.reports)
  if ('mistyped' in reports) return reports
  const rua = [...new Set([...(policy ? readDmarc(policy).record.rua.map(({ uri }) => uri) : []), ...reports])]
  const text = withTags('', { p: 'reject', ...(rua.length > 0 ? { rua: rua.join(',') } : {}) })
  const { ttl } = wishes
  const changes: SetChange[] = [
    { owner: domain, type: TYPE.MX, ttl, data: [nothing] },
    textChange(zones, zone, domain, isSpf, 'v=spf1 -all', ttl),
    textChange(zones, zone, `_dmarc.${domain}`, isDmarc, text, ttl),
  ]
  if (wishes.emptyKeys)
    changes.push({ owner: `*._domainkey.${domain}`, type: TYPE.TXT, ttl, data: [textData('v=DKIM1; p=')] })
  return {
    text,
    changes,
    notes: [
      'Null MX: nobody tries to deliver (RFC 7505). v=spf1 -all: no host may send. p=reject: receivers refuse what claims to be from it.',
      ...(wishes.emptyKeys ? ['An empty key at every selector: no signature verifies.'] : []),
      ...(rua.length === 0 ? ['Without rua=, nobody hears of attempts; --reports ADDRESS asks for reports.'] : []),
    ],
  }
}

export interface StsChange extends MailChange {
  /** The text to serve, and whether it is another than before. */
  policy: string
  changed: boolean
}

/** Writes the record at `_mta-sts`, and makes the text of the policy from the domain’s MX set. `kept` is the text that the workspace has. */
export function stsChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  wishes: { mode?: StsMode; maxAge?: number; also?: readonly Name[]; ttl?: number },
  kept: string | undefined,
  now: Date,
): StsChange | Mistyped {
  const mx = setAt(zones, zone, domain, TYPE.MX)
  const id = zones.tree.findWire(nameToWire(domain) as Uint8Array)
  const exchanges = (mx ? zones.records(id, TYPE.MX, zone.index) : [])
    .map((record) => foldName(zones.tree.text(zones.target(record))).replace(/\.$/, ''))
    .filter((each) => each !== '')
  if (exchanges.length === 0)
    return {
      mistyped: `${domain} has no exchange: a policy says to which exchanges mail may be delivered. Write MX first`,
    }
  const before = kept === undefined ? undefined : parsePolicy(kept)
  // An exchange is listed before it takes mail: senders may have fetched the policy already.
  for (const each of wishes.also ?? []) exchanges.push(bare(foldName(each)))
  const mode = wishes.mode ?? before?.policy.mode ?? 'testing'
  const policy = policyText({
    mode,
    maxAge: wishes.maxAge ?? before?.policy.maxAge ?? 604_800,
    exchanges: [...new Set(exchanges)],
  })
  const changed = policy !== kept
  const owner = `_mta-sts.${domain}`
  const [record] = textsAt(zones, zone, owner, isSts)
  const id0 = record === undefined ? undefined : parseSts(record).id
  const text = changed || id0 === undefined ? `v=STSv1; id=${nextId(now, id0)}` : record
  const where = `https://mta-sts.${bare(domain)}/.well-known/mta-sts.txt`
  return {
    changes: [textChange(zones, zone, owner, isSts, text, wishes.ttl)],
    notes: [
      `First put the text at ${where}, on a host with a certificate for its name; then the record, whose id tells senders to fetch it anew.`,
      ...(mode === 'testing'
        ? [
            'In mode testing, senders only report (see write tls-rpt). When reports show nothing for a while: --mode enforce.',
          ]
        : []),
      ...(mode === 'enforce' && before?.policy.mode !== 'enforce'
        ? [
            'In mode enforce, senders deliver to these exchanges alone, and only with a sound certificate. Every later change of MX goes into the policy first.',
          ]
        : []),
      ...(mode === 'none'
        ? ['Mode none takes the policy back. Leave record and text in place until max_age is over for everybody.']
        : []),
    ],
    policy,
    changed,
  }
}

/** Writes the record at `_smtp._tls`: where reports of failed encryption go. */
export function tlsReportsChange(
  zones: Zones,
  zone: Zone,
  domain: Name,
  addresses: readonly string[],
  ttl?: number,
): MailChange | Mistyped {
  if (addresses.length === 0)
    return { mistyped: `state where reports go, as in: write tls-rpt ${bare(domain)} tls@hollowmere.example` }
  for (const address of addresses)
    if (!/^(?:mailto:)?[^@\s]+@[^@\s]+$|^https:\/\/\S+$/i.test(address))
      return { mistyped: `${address} is no mail address and no https: address` }
  const uris = reportUris(addresses)
  if ('mistyped' in uris) return uris
  const text = `v=TLSRPTv1; rua=${uris.join(',')}`
  return { changes: [textChange(zones, zone, `_smtp._tls.${domain}`, isTlsReports, text, ttl)], notes: [] }
}
