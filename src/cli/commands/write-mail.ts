/** Writes the records that mail is judged by: SPF, DKIM, DMARC, the domain that does no mail, MTA-STS and TLS reports. */
import { existsSync, readFileSync } from 'node:fs'
import type { Command } from 'commander'
import {
  dmarcChange,
  type KeyWish,
  keyChange,
  type MailChange,
  noMailChange,
  selectorAfter,
  selectorsOf,
  spfChange,
  stsChange,
  tlsReportsChange,
} from '../../core/change/mail.ts'
import { type Mistyped, textData, typedName } from '../../core/change/typed.ts'
import { locateName, UNKNOWN } from '../../core/knowledge/answer.ts'
import { keyFromPasted } from '../../core/mail/dkim/key.ts'
import { consentName } from '../../core/mail/dmarc/discovery.ts'
import { isDmarc, readDmarc } from '../../core/mail/dmarc/record.ts'
import { findKept } from '../../core/mail/lookup.ts'
import { STS_MODES, type StsMode } from '../../core/mail/transport.ts'
import { setAt, type Zone, type Zones } from '../../core/model/zones.ts'
import { bare, foldName, isAtOrBelow, type Name, nameToWire } from '../../core/names/name.ts'
import { sameOctets } from '../../core/names/octets.ts'
import { TYPE } from '../../core/records/types.ts'
import { textLine } from '../../core/rules/text.ts'
import { keptKeyText, keptPolicy, keyFile, makeKey, policyFile } from '../../workspace/beside.ts'
import { systemText, Trouble } from '../../workspace/trouble.ts'
import { loadZones } from '../../workspace/workspace.ts'
import { answered } from '../output/ask.ts'
import {
  applyChange,
  type ChangeOptions,
  change,
  orTrouble,
  type Plan,
  type Result,
  render,
  type Target,
  targetOf,
  zoneFor,
} from './change.ts'
import { knownSpf, type LiveOptions, liveLookups } from './live.ts'
import { ttlOf } from './write.ts'

interface Common extends ChangeOptions {
  ttl?: string
}

interface Place {
  target: Target
  loaded: Zones
  zone: Zone
  name: Name
}

/** The zones, and the name that is meant in one of them. */
async function placeOf(typed: string, options: ChangeOptions): Promise<Place> {
  const target = await targetOf(options)
  const loaded = loadZones(target.files, options.includeAnywhere)
  const zone = zoneFor(typed, loaded, options)
  const name = orTrouble(typedName(typed, zone, loaded.zones))
  if (!isAtOrBelow(name, zone.name)) throw new Trouble(`${name} is not in the zone ${zone.name}`)
  return { target, loaded, zone, name }
}

const orTroubled = <T extends object>(made: T | Mistyped): T => orTrouble(made) as T

interface SpfOptions extends Common, LiveOptions {
  allow?: string[]
  remove?: string[]
  end?: string
  replace?: boolean
  spellOut?: string[]
}

export async function writeSpf(typed: string, records: string[], options: SpfOptions, command: Command): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options)
  const wishes = {
    records,
    allow: options.allow ?? [],
    remove: options.remove ?? [],
    end: options.end,
    replace: options.replace === true,
    spellOut: options.spellOut ?? [],
    ttl: ttlOf(options),
  }
  const today = new Date().toISOString().slice(0, 10)
  const live = await liveLookups(options)
  try {
    const known = await knownSpf(loaded, live, (recordAt) => {
      spfChange(loaded, zone, name, wishes, recordAt, today)
    })
    await change(target, loaded, zone, options, command, (zones, at) =>
      orTroubled(spfChange(zones, at, name, wishes, known, today)),
    )
  } finally {
    live?.close()
  }
}

interface DkimOptions extends Common {
  selector?: string
  kind?: string
  bits?: string
  key?: string
  alias?: string[]
  rotate?: boolean
  revoke?: boolean
}

const BITS = [2048, 3072, 4096]

export async function writeDkim(typed: string, options: DkimOptions, command: Command): Promise<void> {
  const ways = [
    options.key !== undefined && '--key',
    options.alias && '--alias',
    options.rotate && '--rotate',
    options.revoke && '--revoke',
  ].filter(Boolean)
  if (ways.length > 1) throw new Trouble(`${ways.join(' and ')} exclude one another: state one`)
  const place = await placeOf(typed, options)
  const { target, loaded, zone, name } = place
  const ttl = ttlOf(options)
  if (options.alias) {
    const changes = options.alias.map((each) => aliasAt(place, each, options))
    for (const { owner, wire } of changes) refuseReplacing(place, owner, { alias: wire }, options)
    await change(target, loaded, zone, options, command, (zones, at) =>
      joined(changes.map(({ owner, wire }) => keyChange(zones, at, owner, { alias: wire }, ttl))),
    )
    return
  }
  const present = selectorsOf(loaded, zone, name)
  const old = present.filter(({ state }) => state === 'key').at(-1)?.selector
  if (options.rotate && old === undefined)
    throw new Trouble(`${name} has no key of its own to follow: state the first one’s --selector, without --rotate`)
  const selector = options.selector ?? (options.rotate ? selectorAfter(old!) : undefined)
  if (selector === undefined)
    throw new Trouble(
      `state a selector, as in: write dkim ${typed} --selector ferry1${present.length > 0 ? ` (there are: ${present.map((each) => each.selector).join(', ')})` : ''}`,
    )
  const owner = selectorOwner(selector, name)
  if (options.revoke) {
    if (!present.some((each) => foldName(selectorOwner(each.selector, name)) === foldName(owner)))
      throw new Trouble(
        `${owner} has no key to revoke; there are: ${present.map((each) => each.selector).join(', ') || 'none'}`,
      )
    await change(target, loaded, zone, options, command, (zones, at) => keyChange(zones, at, owner, 'revoked', ttl))
    return
  }
  if (options.rotate && present.some((each) => each.selector === selector))
    throw new Trouble(`${selector} is there already: state another --selector for the next key`)
  const { wish, plan } = await keyFor(target, owner, options)
  if (typeof wish === 'object') refuseReplacing(place, owner, wish, options)
  await change(target, loaded, zone, options, command, (zones, at) => {
    const made = keyChange(zones, at, owner, wish, ttl)
    const rotation = options.rotate
      ? [
          `Next: let the mail host sign with ${selector}, once all servers have the new record. Keep ${old} for a week after that: signatures live as long as mail is on its way. Then: bramblefront write dkim ${typed} --selector ${old} --revoke`,
        ]
      : []
    return { ...made, ...plan, notes: [...made.notes, ...rotation] }
  })
}

/** A key that is replaced by another makes mail fail that is on its way: that is done only when it is asked for. */
function refuseReplacing(
  { loaded, zone, name }: Place,
  owner: Name,
  wish: Exclude<KeyWish, 'revoked'>,
  options: DkimOptions,
): void {
  const there = selectorsOf(loaded, zone, name).find(
    (each) => foldName(selectorOwner(each.selector, name)) === foldName(owner),
  )
  if (!there || there.state === 'revoked' || options.force) return
  const found = findKept(loaded, owner, 'TXT')
  const alias = setAt(loaded, zone, owner, TYPE.CNAME)
  const same =
    'text' in wish
      ? !alias && found && 'data' in found && found.data.includes(wish.text)
      : alias && sameOctets(alias.data[0], wish.alias)
  if (same) return
  throw new Trouble(
    `${owner} has ${there.state === 'key' ? 'a key' : 'an alias to a key'} already: mail that is signed with it would fail. State another selector, or --rotate for the next one; --force replaces it`,
  )
}

function selectorOwner(selector: string, domain: Name): Name {
  const owner = `${selector.replace(/\.$/, '')}._domainkey.${domain}`
  if (
    !/^[a-z0-9_](?:[a-z0-9_-]*[a-z0-9_])?(?:\.[a-z0-9_](?:[a-z0-9_-]*[a-z0-9_])?)*$/i.test(selector) ||
    typeof nameToWire(owner) === 'string'
  )
    throw new Trouble(`${selector} is no selector: letters, digits and hyphens, as in ferry1`)
  return owner
}

function aliasAt({ loaded, zone, name }: Place, text: string, options: DkimOptions): { owner: Name; wire: Uint8Array } {
  const [selector, typed, ...more] = text.split('=')
  const stated = typed === undefined ? [options.selector, selector] : [selector, typed]
  if (stated[0] === undefined || more.length > 0)
    throw new Trouble(
      `--alias ${text} must say which selector is an alias of what, as in lark1=lark1.keys.larkpost.example.`,
    )
  const target = orTrouble(
    typedName(stated[1]!.includes('.') && !stated[1]!.endsWith('.') ? `${stated[1]}.` : stated[1]!, zone, loaded.zones),
  )
  return { owner: selectorOwner(stated[0], name), wire: nameToWire(target) as Uint8Array }
}

/** Several changes as one. */
const joined = (all: readonly MailChange[]): MailChange => ({
  changes: all.flatMap((each) => each.changes),
  notes: [...new Set(all.flatMap((each) => each.notes))],
})

/** What to publish: the key that was handed over, the one that is kept, or a new one. */
async function keyFor(
  target: Target,
  owner: Name,
  options: DkimOptions,
): Promise<{ wish: KeyWish; plan: Pick<Plan, 'beside'> }> {
  if (options.key !== undefined) {
    const pasted = options.key === '-' || existsSync(options.key) ? textFrom(options.key) : options.key
    return { wish: orTroubled(keyFromPasted(pasted)), plan: {} }
  }
  const kind = options.kind ?? 'rsa'
  if (kind !== 'rsa' && kind !== 'ed25519') throw new Trouble(`--kind ${kind} must be rsa or ed25519`)
  const bits = Number(options.bits ?? 2048)
  if (!BITS.includes(bits)) throw new Trouble(`--bits ${options.bits} must be one of ${BITS.join(', ')}`)
  const kept = await keptKeyText(target.folder, owner)
  if (kept !== undefined) return { wish: { text: kept }, plan: {} }
  const { pem, text } = await makeKey(kind, bits)
  const path = keyFile(target.folder, owner)
  return {
    wish: { text },
    plan: {
      beside: {
        path,
        text: pem,
        secret: true,
        publicText: text,
        what: 'The private key, for the mail host alone (mode 0600)',
      },
    },
  }
}

function textFrom(file: string): string {
  try {
    return readFileSync(file === '-' ? 0 : file, 'utf8')
  } catch (error) {
    throw new Trouble(`cannot read ${file}: ${systemText(error)}`)
  }
}

interface DmarcOptions extends Common {
  next?: boolean
  percent?: string
  reports?: string[]
  replace?: boolean
}

export async function writeDmarc(
  typed: string,
  values: string[],
  options: DmarcOptions,
  command: Command,
): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options)
  const percent = options.percent === undefined ? undefined : Number(options.percent)
  if (percent !== undefined && !(Number.isInteger(percent) && percent >= 1 && percent <= 100))
    throw new Trouble(`--percent ${options.percent} must be a number from 1 to 100`)
  if (!options.next && values.length === 0 && !options.reports && percent === undefined)
    throw new Trouble(
      `say what the policy shall be: --next for the next step, or tags as in p=none rua=mailto:dmarc@hollowmere.example`,
    )
  const wishes = {
    tags: tagsOf(values),
    reports: options.reports ?? [],
    next: options.next === true,
    percent,
    replace: options.replace === true,
    force: options.force === true,
    ttl: ttlOf(options),
  }
  if (options.next && values.length > 0)
    throw new Trouble('--next takes the next step by itself: state no tags with it')
  const planOf = (zones: Zones, at: Zone) => {
    const made = dmarcChange(zones, at, name, wishes)
    if ('missing' in made)
      throw new Trouble(
        `nobody would get the reports: state an address with --reports, as in --reports dmarc@${bare(name)}`,
      )
    return orTroubled(made)
  }
  let first = dmarcChange(loaded, zone, name, wishes)
  if ('missing' in first) {
    const address = await answered('Where shall the reports go? A mail address:')
    if (address) wishes.reports = [address]
    first = planOf(loaded, zone)
  }
  const { text } = orTroubled(first)
  await withConsents({ target, loaded, zone, name }, text, options, command, planOf)
}

/** Writes a policy, and before it what others must say so that they get its reports: in kept zones; the lines for others are handed over. */
async function withConsents(
  { target, loaded, zone, name }: Place,
  text: string,
  options: ChangeOptions,
  command: Command,
  planOf: (zones: Zones, zone: Zone) => MailChange,
): Promise<void> {
  const { lines, kept } = await consents(loaded, name, text)
  /** The destinations say first that they take the reports. */
  const all = async (model: Zones, how: ChangeOptions): Promise<Result[]> => {
    const results: Result[] = []
    for (const {
      owner,
      zone: { index },
    } of kept) {
      const destination = model.zones[index]
      const notes = [`With it, ${destination.name} says that it takes the reports of ${name}`]
      results.push(
        await applyChange(target, model, destination, how, (zones, at) => ({
          changes: [consentAt(zones, at, owner)],
          notes,
        })),
      )
    }
    const main = await applyChange(target, model, model.zones[zone.index], how, (zones, at) => {
      const made = planOf(zones, at)
      return {
        ...made,
        notes: [
          ...made.notes,
          ...lines.map(
            (line) =>
              `Reports go to another organization, which must say that it takes them. Hand this line to whoever keeps its zone: ${line}`,
          ),
        ],
      }
    })
    return [...results, main]
  }
  // All of it is tried before any of it is written.
  const tried =
    kept.length === 0 ? [] : await all(loadZones(target.files, options.includeAnywhere), { ...options, dryRun: true })
  render(tried.some(({ refused }) => refused) ? tried : await all(loaded, options), options, command)
}

function tagsOf(values: readonly string[]): Record<string, string | undefined> {
  const tags: Record<string, string | undefined> = {}
  for (const value of values
    .flatMap((each) => each.split(';'))
    .map((each) => each.trim())
    .filter((each) => each !== '' && !/^v\s*=\s*DMARC1$/.test(each))) {
    const [, name, rest] = /^([a-z]+)\s*=\s*(.*)$/i.exec(value) ?? []
    if (name === undefined)
      throw new Trouble(`${value} is no tag of a policy: write them as in p=none rua=mailto:dmarc@hollowmere.example`)
    tags[name.toLowerCase()] = rest === '' ? undefined : rest
  }
  return tags
}

/** Where other organizations must say that they take the reports: in kept zones, and as lines to hand over. */
async function consents(
  zones: Zones,
  domain: Name,
  text: string,
): Promise<{ kept: { owner: Name; zone: Zone }[]; lines: string[] }> {
  const { organizationalDomain } = await import('../../core/names/public-suffix.ts')
  const { rua, ruf } = readDmarc(text).record
  const kept: { owner: Name; zone: Zone }[] = []
  const lines: string[] = []
  const destinations = new Map(
    [...rua, ...ruf].flatMap((each) => (each.domain ? [[foldName(each.domain), each.domain] as const] : [])),
  )
  for (const destination of destinations.values()) {
    if (foldName(organizationalDomain(destination)) === foldName(organizationalDomain(domain))) continue
    const owner = consentName(domain, destination)
    const found = findKept(zones, owner, 'TXT')
    if (found && 'data' in found && found.data.some(isDmarc)) continue
    const zone =
      locateName(zones, owner) === UNKNOWN
        ? undefined
        : zones.zones.filter((each) => isAtOrBelow(owner, each.name)).sort((a, b) => b.wire.length - a.wire.length)[0]
    if (zone) kept.push({ owner, zone })
    else lines.push(textLine(owner, 'v=DMARC1'))
  }
  return { kept, lines }
}

function consentAt(zones: Zones, zone: Zone, owner: Name): Plan['changes'][number] {
  return { owner, type: TYPE.TXT, data: [...(setAt(zones, zone, owner, TYPE.TXT)?.data ?? []), textData('v=DMARC1')] }
}

export async function writeNoMail(
  typed: string,
  options: Common & { emptyKeys?: boolean; reports?: string[] },
  command: Command,
): Promise<void> {
  const place = await placeOf(typed, options)
  const wishes = {
    emptyKeys: options.emptyKeys === true,
    force: options.force === true,
    reports: options.reports ?? [],
    ttl: ttlOf(options),
  }
  const planOf = (zones: Zones, at: Zone) => orTroubled(noMailChange(zones, at, place.name, wishes))
  await withConsents(place, planOf(place.loaded, place.zone).text, options, command, planOf)
}

export async function writeSts(
  typed: string,
  options: Common & { mode?: string; maxAge?: string; also?: string[] },
  command: Command,
): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options)
  const mode = STS_MODES.find((each) => each === options.mode)
  if (options.mode !== undefined && mode === undefined)
    throw new Trouble(`--mode ${options.mode} must be one of ${STS_MODES.join(', ')}`)
  const also = (options.also ?? []).map((each) =>
    orTrouble(typedName(each.includes('.') && !each.endsWith('.') ? `${each}.` : each, zone, loaded.zones)),
  )
  const wishes = {
    mode: mode as StsMode | undefined,
    maxAge: ttlOf({ ttl: options.maxAge }),
    also,
    ttl: ttlOf(options),
  }
  const now = new Date()
  await change(target, loaded, zone, options, command, (zones, at) => {
    const made = orTroubled(stsChange(zones, at, name, wishes, keptPolicy(target.folder, name), now))
    const path = policyFile(target.folder, name)
    return {
      ...made,
      ...(made.changed ? { beside: { path, text: made.policy, secret: false, what: 'The text of the policy' } } : {}),
    }
  })
}

export async function writeTlsReports(
  typed: string,
  addresses: string[],
  options: Common,
  command: Command,
): Promise<void> {
  const { target, loaded, zone, name } = await placeOf(typed, options)
  await change(target, loaded, zone, options, command, (zones, at) =>
    orTroubled(tlsReportsChange(zones, at, name, addresses, ttlOf(options))),
  )
}
