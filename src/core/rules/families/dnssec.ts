/** Signed zones: signatures, keys and what the parent says of them. */

import type { RecordId, Zone, Zones } from '../../model/zones.ts'
import { type NameId, NONE } from '../../names/tree.ts'
import { keyTag, signatureOf } from '../../records/dnssec/parts.ts'
import type * as Verify from '../../records/dnssec/verify.ts'
import { rdataFields } from '../../records/rdata.ts'
import { TYPE, typeText } from '../../records/types.ts'
import { nsec3, typeCovered } from '../../records/views.ts'
import { parentZone } from '../look.ts'
import type { Context, Rule } from '../rule.ts'
import { SIGNED_ZONE, SIGNED_ZONE_DS } from '../signed-example.ts'

/** Whether a moment on 32 bits lies before another (serial arithmetic, RFC 4034 §3.1.5). */
const before = (a: number, b: number): boolean => ((b - a) | 0) > 0

const moment = (seconds: number, now: Date): string => {
  const near = now.getTime() / 1000
  return new Date((near + ((seconds - near) | 0)) * 1000).toISOString().slice(0, 16).replace('T', ' ') + ' UTC'
}

/** Every set that the zone's own file holds and answers for, with the signatures that cover it. */
function* signedSets(cx: Context, zone: Zone): Generator<{ owner: NameId; type: number; records: RecordId[]; signatures: RecordId[] }> {
  const { zones } = cx
  const seen = new Set<NameId>()
  const [{ firstRecord, endRecord }] = cx.sourcesOf(zone)
  for (let record = firstRecord; record < endRecord; record++) {
    const owner = zones.owner(record)
    if (seen.has(owner) || zones.zoneOf(owner) !== zone || !cx.isAbout(owner)) continue
    seen.add(owner)
    const byType = new Map<number, { records: RecordId[]; signatures: RecordId[] }>()
    const at = (type: number): { records: RecordId[]; signatures: RecordId[] } => {
      let found = byType.get(type)
      if (!found) byType.set(type, (found = { records: [], signatures: [] }))
      return found
    }
    for (let each = zones.first(owner); each !== NONE; each = zones.next(each)) {
      if (zones.zoneOfRecord(each) !== zone) continue
      if (zones.type(each) === TYPE.RRSIG) at(typeCovered(zones.rdata(each))).signatures.push(each)
      else at(zones.type(each)).records.push(each)
    }
    for (const [type, found] of byType) yield { owner, type, ...found }
  }
}

const keysOf = ({ zones }: Context, zone: Zone): Uint8Array[] => zones.records(zone.apex, TYPE.DNSKEY, zone.index).map((record) => zones.rdata(record))

/** Visits such zones with what verifies signatures and digests, which is loaded only if there is one. */
function eachSigned(isOne: (zone: Zone, cx: Context) => boolean, visit: (verify: typeof Verify, zone: Zone, cx: Context) => void): Rule['visit'] {
  return {
    zone(zone, cx) {
      if (isOne(zone, cx)) cx.memory((): Zone[] => []).push(zone)
    },
    async finish(cx) {
      const zones = cx.memory((): Zone[] => [])
      if (zones.length === 0) return
      const verify = await import('../../records/dnssec/verify.ts')
      for (const zone of zones) visit(verify, zone, cx)
    },
  }
}

const whole = (text: string, now = '2026-11-23T08:00:00Z') => ({ whole: true, zones: { 'hollowmere.example': text }, around: { now: new Date(now) } })

export const dnssecSignaturesStale: Rule = {
  code: 'dnssec/signatures-stale',
  severity: 'error',
  source: 'RFC 4034 §3',
  title: 'a signed file that was edited after signing, or whose signatures have run out',
  why: 'Resolvers that validate take the data for forged, and answer with a failure: for them the names are gone.',
  remedy: 'Sign the zone anew, from the file without signatures.',
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
    (zone, { zones }) => zone.signed !== 'server' && zone.signed !== 'no' && zones.zoneWithApex(zone.apex) === zone && zones.has(zone.apex, TYPE.RRSIG),
    ({ signatureFits }, zone, cx) => {
      const { zones } = cx
      const keys = keysOf(cx, zone)
      const now = cx.around.now && Math.floor(cx.around.now.getTime() / 1000)
      const late: RecordId[] = []
      for (const { owner, type, records, signatures } of signedSets(cx, zone)) {
        const cut = zones.cut(owner)
        if (cut !== NONE && (cut !== owner || (type !== TYPE.DS && type !== TYPE.NSEC))) continue
        const say = (record: RecordId, message: string): void =>
          cx.report({ record, message, consequence: 'Resolvers that validate answer with a failure.', fix: ['sign the zone anew'] })
        const what = `${typeText(type)} at ${cx.name(owner)}`
        if (records.length === 0) say(signatures[0], `there is a signature for ${what}, and no such record any more`)
        else if (signatures.length === 0) say(records[0], `${what} has no signature, in a zone that is signed`)
        else {
          const judged = signatures.map((signature) => fits(signatureFits, cx, signature, owner, type, records, keys))
          if (judged.every((each) => each === false)) say(records[0], `${what} does not fit its signature: it was changed after signing`)
          else if (now !== undefined && signatures.every((each) => !current(zones, each, now))) late.push(records[0])
        }
      }
      if (late.length === 0) return
      const [first] = late
      const times = signaturesOf(zones, first).map((each) => signatureOf(zones.rdata(each)))
      const over = times.every(({ expiration }) => before(expiration, now!))
      cx.report({
        record: first,
        message: `${over ? 'the signature has run out' : 'the signature is not valid yet'} (${moment(over ? times[0].expiration : times[0].inception, cx.around.now!)}): ${typeText(zones.type(first))} at ${cx.name(zones.owner(first))}${late.length > 1 ? ` and ${late.length - 1} more sets` : ''}`,
        consequence: 'Resolvers that validate answer with a failure.',
        fix: ['sign the zone anew'],
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

export const dnssecUnknownKey: Rule = {
  code: 'dnssec/unknown-key',
  severity: 'error',
  source: 'RFC 4035 §2.2',
  title: 'sets whose only signatures are by a key that is not in the DNSKEY set',
  why: 'Resolvers that validate look for the key of a signature in the zone’s DNSKEY set. Without it they take the data for forged.',
  remedy: 'Sign the zone anew, or put the key back into the DNSKEY set until its signatures are gone.',
  silences: ['dnssec/ds-unmatched'],
  bad: [whole(SIGNED_ZONE.replace(/(?<=\sDNSKEY\s+257 3 13 )\S+/, 'AAAA'))],
  good: [whole(SIGNED_ZONE)],
  visit: {
    zone(zone, cx) {
      const { zones } = cx
      if (zone.signed === 'server' || zone.signed === 'no' || zones.zoneWithApex(zone.apex) !== zone || !cx.isAbout(zone.apex)) return
      const keys = keysOf(cx, zone)
      if (keys.length === 0) return
      const known = new Set(keys.map((key) => `${keyTag(key)} ${key[3]}`))
      const left: RecordId[] = []
      for (const { records, signatures } of signedSets(cx, zone)) {
        const isKnown = (each: RecordId): boolean => {
          const { tag, algorithm } = signatureOf(zones.rdata(each))
          return known.has(`${tag} ${algorithm}`)
        }
        if (records.length > 0 && signatures.length > 0 && !signatures.some(isKnown)) left.push(signatures[0])
      }
      if (left.length === 0) return
      const [first] = left
      const { tag, algorithm } = signatureOf(zones.rdata(first))
      cx.report({
        record: first,
        message: `${cx.name(zones.owner(first))} is signed by the key ${tag} (algorithm ${algorithm}), which is not in the DNSKEY set of ${zone.name}${left.length > 1 ? `; so are ${left.length - 1} more sets` : ''}`,
        consequence: 'Resolvers that validate answer with a failure.',
        fix: ['sign the zone anew'],
      })
    },
  },
}

export const dnssecDsWithoutNs: Rule = {
  code: 'dnssec/ds-without-ns',
  severity: 'error',
  source: 'RFC 4035 §2.4',
  title: 'DS where there is no delegation',
  why: 'DS vouches for the keys of a delegated zone. Without NS there is no such zone, and resolvers that validate treat everything below as forged.',
  remedy: 'Write the NS set of the delegation, or take DS out.',
  bad: [`isle DS 60485 8 2 ${'AB'.repeat(32)}`],
  good: [`isle DS 60485 8 2 ${'AB'.repeat(32)}\nisle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.`],
  visit: {
    set: {
      [TYPE.DS](set, cx) {
        if (set.owner !== set.zone.apex && cx.zones.records(set.owner, TYPE.NS, set.zone.index).length > 0) return
        cx.report({
          record: set.records[0],
          message: `${cx.name(set.owner)} has DS, and ${set.owner === set.zone.apex ? 'is this zone’s own top: DS belongs in the zone above' : 'is not delegated'}`,
          consequence: 'Resolvers that validate take what is below for forged.',
          fix: [set.owner === set.zone.apex ? 'hand it to whoever keeps the zone above' : `${cx.name(set.owner)} NS SERVER.`],
        })
      },
    },
  },
}

const parentAndChild = (ds: string) => ({
  whole: true,
  zones: {
    example: `$TTL 3600\n@ SOA ns1.upland-dns hostmaster.upland-dns 1 7200 900 1209600 3600\n@ NS ns1.upland-dns\n@ NS ns2.upland-dns\nhollowmere NS ns1.upland-dns\nhollowmere NS ns2.upland-dns\nupland-dns NS ns1.upland-dns\nupland-dns NS ns2.upland-dns\nns1.upland-dns A 192.0.2.53\nns2.upland-dns A 198.51.100.53\nlarkpost NS ns1.upland-dns\nlarkpost NS ns2.upland-dns\n${ds}`,
    'hollowmere.example': SIGNED_ZONE,
  },
})

export const dnssecDsUnmatched: Rule = {
  code: 'dnssec/ds-unmatched',
  severity: 'error',
  source: 'RFC 4035 §2.4',
  title: 'DS in the kept zone above that fits no key of the signed, kept zone',
  why: 'The chain from the root ends there: resolvers that validate take the whole zone for forged.',
  remedy: 'Write the DS that belongs to the key in use.',
  bad: [parentAndChild(`hollowmere DS 1 13 2 ${'AB'.repeat(32)}`)],
  good: [parentAndChild(SIGNED_ZONE_DS)],
  visit: eachSigned(
    (zone, cx) => parentZone(cx.zones, zone) !== undefined && cx.isAbout(zone.apex) && cx.zones.has(zone.apex, TYPE.DNSKEY),
    ({ dsFits }, zone, cx) => {
      const { zones } = cx
      const keys = keysOf(cx, zone)
      const records = zones.records(zone.apex, TYPE.DS, parentZone(zones, zone)!.index)
      const unmatched = records.filter((record) => keys.every((key) => dsFits(zones.rdata(record), key, zone.name) === false))
      for (const record of unmatched)
        cx.report({
          record,
          severity: unmatched.length === records.length ? 'error' : 'warning',
          message: `DS ${rdataFields(TYPE.DS, zones.rdata(record)).slice(0, 3).join(' ')} of ${zone.name} fits none of the zone’s keys (${keys.map((key) => `${keyTag(key)}, algorithm ${key[3]}`).join('; ')})`,
          consequence:
            unmatched.length === records.length
              ? 'Resolvers that validate take the whole zone for forged.'
              : 'It is of no use; another one holds the chain together.',
          fix: ['write the DS of the key that signs DNSKEY'],
        })
    },
  ),
}

export const dnssecNsec3Cost: Rule = {
  code: 'dnssec/nsec3-cost',
  severity: 'advice',
  source: 'RFC 9276 §3.1',
  title: 'NSEC3 with iterations or a salt',
  why: 'Neither makes names harder to guess in practice; both cost every server and resolver time. Some resolvers treat zones with many iterations as unsigned.',
  remedy: 'Sign with no iterations and no salt: NSEC3PARAM 1 0 0 -',
  bad: ['@ NSEC3PARAM 1 0 10 AABB'],
  good: ['@ NSEC3PARAM 1 0 0 -'],
  visit: {
    set: {
      [TYPE.NSEC3PARAM](set, cx) {
        for (const record of set.records) {
          const { iterations, salt } = nsec3(cx.zones.rdata(record))
          if (iterations === 0 && salt === 0) continue
          cx.report({
            record,
            part: 2,
            message: `NSEC3 of ${cx.name(set.owner)} has ${iterations} iterations and ${salt === 0 ? 'no salt' : `a salt of ${salt} octets`}`,
            consequence: 'It costs time at every denial, and protects nothing.',
            fix: [`${cx.name(set.owner)} NSEC3PARAM 1 0 0 -`],
          })
        }
      },
    },
  },
}

const RETIRED = new Map([
  [1, 'RSA/MD5'],
  [3, 'DSA'],
  [5, 'RSA/SHA-1'],
  [6, 'DSA'],
  [7, 'RSA/SHA-1'],
  [12, 'GOST'],
])

export const dnssecAlgorithm: Rule = {
  code: 'dnssec/algorithm',
  severity: 'warning',
  source: 'RFC 9904, RFC 9905, RFC 9906',
  title: 'a retired algorithm in DNSKEY or DS',
  why: 'Resolvers stop checking such signatures, or refuse them: the zone counts as unsigned, or fails.',
  remedy: 'Sign with ECDSA P-256 (13) or Ed25519 (15), and hand on a DS with SHA-256 (2).',
  bad: ['@ DNSKEY 256 3 5 AwEAAQ==', `isle DS 1 8 1 ${'AB'.repeat(20)}\nisle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.`],
  good: [`isle DS 1 13 2 ${'AB'.repeat(32)}\nisle NS ns1.upland-dns.example.\nisle NS ns2.upland-dns.example.`],
  visit: {
    set: {
      [TYPE.DNSKEY](set, cx) {
        for (const record of set.records)
          if (RETIRED.has(cx.zones.rdata(record)[3]))
            sayRetired(cx, record, 2, `the algorithm ${cx.zones.rdata(record)[3]} (${RETIRED.get(cx.zones.rdata(record)[3])})`)
      },
      [TYPE.DS](set, cx) {
        for (const record of set.records) {
          const data = cx.zones.rdata(record)
          if (RETIRED.has(data[2])) sayRetired(cx, record, 1, `the algorithm ${data[2]} (${RETIRED.get(data[2])})`)
          else if (data[3] === 1 || data[3] === 3) sayRetired(cx, record, 2, `the digest type ${data[3]} (${data[3] === 1 ? 'SHA-1' : 'GOST'})`)
        }
      },
    },
  },
}

function sayRetired(cx: Context, record: RecordId, part: number, what: string): void {
  cx.report({
    record,
    part,
    message: `${typeText(cx.zones.type(record))} at ${cx.name(cx.zones.owner(record))} uses ${what}, which is retired`,
    consequence: 'Resolvers count the zone as unsigned, or refuse it.',
    fix: ['sign with algorithm 13 or 15; DS with digest type 2'],
  })
}
