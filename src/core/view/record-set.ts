/** A record set in people’s form: its fields with the standards’ labels, what they mean, and where they lead. All that shows a set is made from this. */
import { locate, MISSING, UNKNOWN } from '../knowledge/answer.ts'
import { looksLikeKey, parseKey } from '../mail/dkim/key.ts'
import type { RecordSet, Seconds, Zones } from '../model/zones.ts'
import { labelsOf, type Name, relativeName } from '../names/name.ts'
import { type NameId, NONE, ROOT } from '../names/tree.ts'
import { type Rdata, rdataFields, rdataText } from '../records/rdata.ts'
import { rowOf, TYPE, typeText } from '../records/types.ts'
import { joined } from '../records/views.ts'

export interface FieldView {
  /** The standard’s noun: `preference`, `exchange`. */
  label: string
  /** In presentation form, names absolute. */
  value: string
}

/** One record of a set. */
export class RecordView {
  private readonly type: number
  readonly data: Rdata

  constructor(type: number, data: Rdata) {
    this.type = type
    this.data = data
  }

  /** Its whole data in presentation form, names absolute (RFC 1035 §5.1). */
  get value(): string {
    return rdataText(this.type, this.data)
  }

  /** Its data field by field; none where the type is known by its number alone. */
  get fields(): FieldView[] {
    const labels = rowOf(this.type)?.fields ?? []
    const values = rdataFields(this.type, this.data)
    return labels.map(({ label }, i) => ({ label, value: values[i] ?? '' }))
  }

  /** A field by its label; empty where there is none. */
  field(label: string): string {
    return this.fields.find((each) => each.label === label)?.value ?? ''
  }

  /** The name that it points to, absolute; undefined for types that point to none. */
  get target(): Name | undefined {
    const at = rowOf(this.type)?.target
    return at === undefined ? undefined : this.fields[at]!.value
  }

  /** What it says, where its data alone does not say it to people: a null MX, a key. */
  get meaning(): string | undefined {
    if (this.type === TYPE.MX && this.target === '.') return 'takes no mail (null MX)'
    if (this.type === TYPE.SRV && this.target === '.') return 'not offered'
    return this.type === TYPE.TXT ? keyMeaning(joined(this.data)) : undefined
  }
}

export class RecordSetView {
  readonly owner: Name
  readonly type: string
  readonly ttl: Seconds
  readonly records: readonly RecordView[]

  constructor({ owner, type, ttl, data }: RecordSet) {
    this.owner = owner
    this.type = typeText(type)
    this.ttl = ttl
    this.records = data.map((each) => new RecordView(type, each))
  }

  /** Owner and type: `www.hollowmere.example. A`, or within a zone `www A`. */
  name(zone?: Name): string {
    return setName(this.owner, this.type, zone)
  }

  get values(): string[] {
    return this.records.map(({ value }) => value)
  }

  /** As JSON has it. */
  get json(): { ttl: Seconds; records: string[] } {
    return { ttl: this.ttl, records: this.values }
  }
}

/** Owner and type of a set that may not be there. */
export const setName = (owner: Name, type: string | number, zone?: Name): string =>
  `${zone === undefined ? owner : relativeName(owner, zone)} ${typeof type === 'number' ? typeText(type) : type}`

/** What a DKIM key record is; its base64 says nothing to people. Undefined for a text that is none, or that cannot be read. */
function keyMeaning(text: string): string | undefined {
  if (!looksLikeKey(text)) return undefined
  const { record, problems } = parseKey(text)
  if (record.key?.length === 0) return 'revoked key (p= is empty)'
  if (!record.key || problems.some(({ kind }) => kind === 'syntax' || kind.startsWith('key-un'))) return undefined
  const kind = record.type === 'rsa' ? 'RSA' : record.type === 'ed25519' ? 'Ed25519' : record.type
  return `${kind} key${record.bits ? `, ${record.bits} bits` : ''}${record.testing ? '; in testing (t=y)' : ''}`
}

/** A service’s owner in words: `imaps over tcp`, and for a name below the zone’s apex `imaps over tcp for office`; the owner itself where it is of another form. */
export function serviceName(owner: string): string {
  const labels = labelsOf(owner)
  const at = labels.findIndex((label, i) => label.startsWith('_') && labels[i + 1]?.startsWith('_'))
  if (at < 0 || at > 1) return owner
  const instance = at === 1 ? `${labels[0]}, ` : ''
  const rest = labels.slice(at + 2).join('.')
  return `${instance}${labels[at]!.slice(1)} over ${labels[at + 1]!.slice(1)}${rest ? ` for ${rest}` : ''}`
}

/** Where a target leads, in words: its addresses, that it is an alias, that it is missing, or that it is outside your zones. */
export function whereItLeads(zones: Zones, target: NameId): string {
  if (target === ROOT) return 'nowhere'
  const node = locate(zones, target)
  if (node === UNKNOWN) return 'outside your zones'
  if (node === MISSING) return 'does not exist'
  const addresses: string[] = []
  for (let record = zones.first(node); record !== NONE; record = zones.next(record)) {
    if (zones.type(record) === TYPE.CNAME) return `an alias of ${zones.tree.text(zones.target(record))}`
    if (zones.type(record) === TYPE.A || zones.type(record) === TYPE.AAAA) addresses.push(zones.rdataText(record))
  }
  return addresses.join(', ') || 'has no address'
}
