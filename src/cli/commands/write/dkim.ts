/** Writes keys that mail is signed with. */

import { existsSync, readFileSync } from 'node:fs'
import type { Command } from 'commander'
import type { FileBeside } from '../../../core/change/change-set.ts'
import { type KeyWish, keyChange, selectorAfter, selectorsOf } from '../../../core/change/mail/dkim.ts'
import { tooEarlyToRevoke } from '../../../core/change/mail/step-time.ts'
import type { MailChange } from '../../../core/change/mail/text.ts'
import { typedTarget } from '../../../core/change/typed.ts'
import { dataOf, findIntended } from '../../../core/knowledge/find.ts'
import { keyFromPasted, selectorOf } from '../../../core/mail/dkim/key.ts'
import { setAt } from '../../../core/model/zones.ts'
import { bare, foldName, type Name, nameToWire } from '../../../core/names/name.ts'
import { sameOctets } from '../../../core/names/octets.ts'
import { TYPE } from '../../../core/records/types.ts'
import { joined as joinedText } from '../../../core/records/views.ts'
import { keptKeyText, keyFiles, makeKey } from '../../../workspace/beside.ts'
import { readLog } from '../../../workspace/log.ts'
import { notices, orTrouble, systemText, Trouble } from '../../../workspace/trouble.ts'
import { now } from '../../clock.ts'
import { collect } from '../../options.ts'
import { change, ofZone } from '../change/apply.ts'
import type { Target } from '../change/target.ts'
import { type Common, mailOptions, type Place, placeOf, ttlOf } from './place.ts'

export const define = (command: Command): Command =>
  mailOptions(command, 'example.com --selector SELECTOR')
    .option('--selector <selector>', 'the selector of the key')
    .option('--kind <kind>', 'rsa or ed25519 (default: rsa)')
    .option('--bits <bits>', 'length of an RSA key: 2048, 3072 or 4096 (default: 2048)')
    .option('--key <key>', 'publish this key: a file, - for standard input, base64, or a key record')
    .option('--alias <selector=target>', 'a CNAME to a provider’s key record, as SELECTOR=TARGET (repeatable)', collect)
    .option('--rotate', 'add the next key next to the current one')
    .option('--revoke', 'revoke the key (empty p=)')
    .action(writeDkim)

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

async function writeDkim(typed: string, options: DkimOptions, command: Command): Promise<void> {
  const ways = [
    options.key !== undefined && '--key',
    options.alias && '--alias',
    options.rotate && '--rotate',
    options.revoke && '--revoke',
  ].filter(Boolean)
  if (ways.length > 1) throw new Trouble(`${ways.join(' and ')} exclude each other: use one`)
  const place = await placeOf(typed, options)
  const { target, loaded, zone, name } = place
  const ttl = ttlOf(options)
  if (options.alias) {
    const changes = options.alias.map((each) => aliasAt(place, each, options))
    for (const { owner, wire } of changes) refuseReplacing(place, owner, { alias: wire }, options)
    await change(
      target,
      loaded,
      options,
      command,
      ofZone(zone, (zones, at) =>
        joined(changes.map(({ owner, wire }) => keyChange(zones, at, owner, { alias: wire }, ttl))),
      ),
    )
    return
  }
  const present = selectorsOf(loaded, zone, name)
  const old = present.filter(({ state }) => state === 'key').at(-1)?.selector
  if (options.rotate && old === undefined)
    throw new Trouble(`${name} has no key to rotate yet: create the first one with --selector, without --rotate`)
  const selector = options.selector ?? (options.rotate ? selectorAfter(old!) : undefined)
  if (selector === undefined)
    throw new Trouble(
      `give a selector: bramblefront write dkim ${typed} --selector SELECTOR${present.length > 0 ? ` (existing: ${present.map((each) => each.selector).join(', ')})` : ''}`,
    )
  const owner = selectorOwner(selector, name)
  if (options.revoke) {
    if (!present.some((each) => foldName(selectorOwner(each.selector, name)) === foldName(owner)))
      throw new Trouble(
        `${owner} has no key to revoke; existing selectors: ${present.map((each) => each.selector).join(', ') || 'none'}`,
      )
    const log = target.bareFile || options.force ? [] : readLog(target.folder, [zone.name])
    const early = tooEarlyToRevoke(log, owner, name, now(), zone.view)
    if (early !== undefined)
      throw new Trouble(`too early to revoke ${bare(owner)}: ${early}. Nothing was written; --force revokes it now`, 1)
    await change(
      target,
      loaded,
      options,
      command,
      ofZone(zone, (zones, at) => keyChange(zones, at, owner, 'revoked', ttl)),
    )
    return
  }
  if (options.rotate && present.some((each) => each.selector === selector))
    throw new Trouble(`${selector} already exists: give another --selector for the next key`)
  const { wish, beside } = await keyFor(target, owner, options)
  if (typeof wish === 'object') refuseReplacing(place, owner, wish, options)
  const rotation = options.rotate
    ? [
        `When all servers have the new record, sign with ${selector}. Keep ${old} for another week, for mail in transit. Then revoke it: bramblefront write dkim ${typed} --selector ${old} --revoke`,
      ]
    : []
  await change(
    target,
    loaded,
    options,
    command,
    ofZone(zone, (zones, at) => {
      const { changes, notes } = keyChange(zones, at, owner, wish, ttl)
      return { changes, notes: [...notes, ...rotation], beside }
    }),
  )
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
  const alias = setAt(loaded, zone, owner, TYPE.CNAME)
  const same =
    'text' in wish
      ? !alias && dataOf(findIntended(loaded, owner, TYPE.TXT)).some((data) => joinedText(data) === wish.text)
      : alias && sameOctets(alias.data[0]!, wish.alias)
  if (same) return
  throw new Trouble(
    `${owner} already has ${there.state === 'key' ? 'a key' : 'a CNAME to a key'}: mail signed with it would fail. Use another selector, or --rotate for the next one; --force replaces it`,
  )
}

function selectorOwner(typed: string, domain: Name): Name {
  // The whole name of the record, or a part of it, may be typed for its selector.
  const selector = selectorOf(typed)
  if (selector !== typed) notices.add(`--selector ${typed} was read as the selector ${selector}.`)
  const owner = `${selector.replace(/\.$/, '')}._domainkey.${domain}`
  if (
    !/^[a-z0-9_](?:[a-z0-9_-]*[a-z0-9_])?(?:\.[a-z0-9_](?:[a-z0-9_-]*[a-z0-9_])?)*$/i.test(selector) ||
    typeof nameToWire(owner) === 'string'
  )
    throw new Trouble(`“${selector}” is not a valid selector (letters, digits and hyphens)`)
  return owner
}

function aliasAt({ loaded, zone, name }: Place, text: string, options: DkimOptions): { owner: Name; wire: Uint8Array } {
  const [selector, typed, ...more] = text.split('=')
  const stated = typed === undefined ? [options.selector, selector] : [selector, typed]
  if (stated[0] === undefined || more.length > 0)
    throw new Trouble(`--alias ${text} must have the form SELECTOR=TARGET`)
  const target = orTrouble(typedTarget(stated[1]!, zone, loaded, options.force === true))
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
): Promise<{ wish: KeyWish; beside?: FileBeside[] }> {
  if (options.key !== undefined) {
    const pasted = options.key === '-' || existsSync(options.key) ? textFrom(options.key) : options.key
    return { wish: orTrouble(keyFromPasted(pasted)) }
  }
  const kind = options.kind ?? 'rsa'
  if (kind !== 'rsa' && kind !== 'ed25519') throw new Trouble(`--kind ${kind} must be rsa or ed25519`)
  const bits = Number(options.bits ?? 2048)
  if (!BITS.includes(bits)) throw new Trouble(`--bits ${options.bits} must be one of ${BITS.join(', ')}`)
  const kept = await keptKeyText(target.folder, owner)
  if (kept !== undefined) return { wish: { text: kept } }
  const made = await makeKey(kind, bits)
  return { wish: { text: made.text }, beside: keyFiles(target.folder, owner, made) }
}

function textFrom(file: string): string {
  try {
    return readFileSync(file === '-' ? 0 : file, 'utf8')
  } catch (error) {
    throw new Trouble(`cannot read ${file}: ${systemText(error)}`)
  }
}
