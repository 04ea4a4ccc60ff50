import type { RecordId, Zones } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { keyTag, signatureOf } from '../../records/dnssec/parts.ts'
import type * as Verify from '../../records/dnssec/verify.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { typeCovered } from '../../records/views.ts'
import type { Context, Rule } from '../rule.ts'
import { SIGNED_ZONE } from '../signed-example.ts'
import { eachSigned, keysOf, signedSets, whole } from './signed.ts'

/** Whether a moment on 32 bits lies before another (serial arithmetic, RFC 4034 §3.1.5). */
const before = (a: number, b: number): boolean => ((b - a) | 0) > 0

const moment = (seconds: number, now: Date): string => {
  const near = now.getTime() / 1000
  return new Date((near + ((seconds - near) | 0)) * 1000).toISOString().slice(0, 16).replace('T', ' ') + ' UTC'
}

export const dnssecSignaturesStale: Rule = {
  code: 'dnssec/signatures-stale',
  severity: 'error',
  source: 'RFC 4034 §3',
  title: 'signed zone file that was edited after signing, or whose signatures expired',
  why: 'Validating resolvers treat the data as forged and answer SERVFAIL: for their users the names are gone.',
  remedy: 'Sign the zone again, from the file without signatures.',
  silences: ['set/mixed-ttl'],
  bad: [
    whole(SIGNED_ZONE.replace('192.0.2.10', '192.0.2.11')),
    whole(`${SIGNED_ZONE}\nnew.hollowmere.example. 3600 IN A 192.0.2.12`),
    whole(SIGNED_ZONE.replace(/^www\.hollowmere\.example\.\s+\d+\s+IN\s+A\s.*$/m, '')),
    whole(SIGNED_ZONE, '2056-01-01T00:00:00Z'),
  ],
  good: [
    whole(SIGNED_ZONE),
    whole(
      SIGNED_ZONE.toLowerCase()
        .replace(/^.*\srrsig\s.*$/gm, '')
        .replace(/^.*\snsec\s.*$/gm, ''),
    ),
  ],
  visit: eachSigned(
    (zone, { zones }) =>
      zone.signed !== 'server' &&
      zone.signed !== 'no' &&
      zones.zoneWithApex(zone.apex) === zone &&
      zones.has(zone.apex, TYPE.RRSIG),
    ({ signatureFits }, zone, cx) => {
      const { zones } = cx
      const keys = keysOf(cx, zone)
      const now = cx.around.now && Math.floor(cx.around.now.getTime() / 1000)
      const late: RecordId[] = []
      for (const { owner, type, records, signatures } of signedSets(cx, zone)) {
        const cut = zones.cut(owner)
        if (cut !== NONE && (cut !== owner || (type !== TYPE.DS && type !== TYPE.NSEC))) continue
        const say = (record: RecordId, message: string): void =>
          cx.report({
            record,
            message,
            effect: 'Validating resolvers answer SERVFAIL.',
            fix: ['sign the zone again'],
          })
        const what = `${typeText(type)} at ${cx.name(owner)}`
        if (records.length === 0) say(signatures[0]!, `there is a signature for ${what}, and no such record any more`)
        else if (signatures.length === 0) say(records[0]!, `${what} has no signature, in a zone that is signed`)
        else {
          const judged = signatures.map((signature) => fits(signatureFits, cx, signature, owner, type, records, keys))
          if (judged.every((each) => each === false))
            say(records[0]!, `${what} does not fit its signature: it was changed after signing`)
          else if (now !== undefined && signatures.every((each) => !current(zones, each, now))) late.push(records[0]!)
        }
      }
      if (late.length === 0) return
      const first = late[0]!
      const times = signaturesOf(zones, first).map((each) => signatureOf(zones.rdata(each)))
      const over = times.every(({ expiration }) => before(expiration, now!))
      cx.report({
        record: first,
        message: `${over ? 'the signature has expired' : 'the signature is not valid yet'} (${moment(over ? times[0]!.expiration : times[0]!.inception, cx.around.now!)}): ${typeText(zones.type(first))} at ${cx.name(zones.owner(first))}${late.length > 1 ? ` and ${late.length - 1} more sets` : ''}`,
        effect: 'Validating resolvers answer SERVFAIL.',
        fix: ['sign the zone again'],
      })
    },
  ),
}

const signaturesOf = (zones: Zones, record: RecordId): RecordId[] =>
  zones.records(zones.owner(record), TYPE.RRSIG).filter((each) => typeCovered(zones.rdata(each)) === zones.type(record))

function current(zones: Zones, signature: RecordId, now: number): boolean {
  const { expiration, inception } = signatureOf(zones.rdata(signature))
  return !before(expiration, now | 0) && !before(now | 0, inception)
}

/** Whether a signature fits the set by one of the zone's keys; undefined where that cannot be told. */
function fits(
  signatureFits: typeof Verify.signatureFits,
  cx: Context,
  signature: RecordId,
  owner: NameId,
  type: number,
  records: readonly RecordId[],
  keys: readonly Uint8Array[],
): boolean | undefined {
  const rrsig = cx.zones.rdata(signature)
  const { tag, algorithm } = signatureOf(rrsig)
  const candidates = keys.filter((key) => key[3] === algorithm && keyTag(key) === tag)
  if (candidates.length === 0) return undefined
  const data = records.map((record) => cx.zones.rdata(record))
  const judged = candidates.map((key) => signatureFits(rrsig, cx.name(owner), type, data, key))
  return judged.includes(true) ? true : judged.includes(undefined) ? undefined : false
}
