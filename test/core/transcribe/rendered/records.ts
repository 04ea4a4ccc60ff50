/** Random records of a zone, as somebody means them, and the chance that makes them. */

/** A number generator of its own: the same seed, the same text. */
export class Chance {
  private state: number

  constructor(seed: number) {
    this.state = seed | 0
  }

  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }

  below = (count: number): number => Math.floor(this.next() * count)
  one = <T>(list: readonly T[]): T => list[this.below(list.length)]!
  is = (share: number): boolean => this.next() < share
  letters = (signs: string, length: number): string => Array.from({ length }, () => this.one([...signs])).join('')
}

export const ZONE = 'saltmarsh.example'

/** What is meant: names in full and without their final dot, texts as one string. */
export interface Meant {
  /** Below the zone; `@` for its own name. */
  owner: string
  type: 'A' | 'AAAA' | 'CNAME' | 'MX' | 'TXT' | 'SRV' | 'CAA' | 'NS'
  /** Preference; priority, weight, port; flags. */
  numbers: string[]
  /** Of CAA. */
  tag?: string
  /** An address, the name of a host in full, or a text. */
  value: string
  ttl?: number
}

const WORDS =
  'shop blog news help portal status docs app files media events tickets harbour ferry pier quay beacon lagoon'.split(
    ' ',
  )
const HOSTS = [
  'edge.gullwire.example',
  'mx1.brinepost.example',
  'pages.kelp-sites.example',
  'u12.out.wrackmail.example',
]
const HEX = '0123456789abcdef'
const BASE64 = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
/** A key of RFC 6376’s own form, of 1024 bits: the modulus is random. */
const KEY =
  'MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDwIRP/UC3SBsEmGqZ9ZJW3/DkMoGeLnQg1fWn7/zYtIxN2SnFCjxOCKG9v3b4jYfcTNh5ijSsq631uBItLa7od+v/RtdC2UzJ1lWT947qR+Rcac2gbto/NMqJ0fzfVjH4OuKhitdY9tf6mcwGjaNBcWToIMmPSPDdQPNUYckcQ2QIDAQAB'

function text(chance: Chance): Pick<Meant, 'owner' | 'value'> {
  const sender = chance.one(HOSTS)
  return chance.one([
    () => ({ owner: '@', value: `v=spf1 include:_spf.${sender} ~all` }),
    () => ({ owner: 'send', value: `v=spf1 include:${sender} ip4:192.0.2.0/24 -all` }),
    () => ({ owner: '_dmarc', value: `v=DMARC1; p=none; rua=mailto:dmarc@${ZONE}` }),
    () => ({ owner: `s${chance.below(9)}._domainkey`, value: `v=DKIM1; k=rsa; p=${KEY}` }),
    () => ({ owner: '@', value: `gullwire-verification=${chance.letters(HEX, 16)}` }),
    () => ({ owner: `_kelp-challenge.${chance.one(WORDS)}`, value: chance.letters(BASE64.slice(0, 62), 43) }),
  ])()
}

function name(chance: Chance): string {
  const word = chance.one(WORDS)
  return chance.one([word, word, word, '@', `www.${word}`, `${word}.${chance.one(WORDS)}`, `${word}${chance.below(9)}`])
}

const notApex = (chance: Chance): string => {
  const made = name(chance)
  return made === '@' ? chance.one(WORDS) : made
}
const host = (chance: Chance): string =>
  chance.is(0.25) ? `${chance.one(WORDS)}.${chance.is(0.4) ? `${chance.one(WORDS)}.` : ''}${ZONE}` : chance.one(HOSTS)

/** One record. */
export function record(chance: Chance): Meant {
  const numbers: string[] = []
  const ttl = chance.one([300, 600, 3600, 14400, 86400])
  const made = (owner: string, type: Meant['type'], value: string, more: Partial<Meant> = {}): Meant => ({
    owner,
    type,
    value,
    numbers,
    ttl,
    ...more,
  })
  switch (chance.one(['A', 'AAAA', 'CNAME', 'CNAME', 'MX', 'TXT', 'TXT', 'TXT', 'SRV', 'CAA', 'NS'] as const)) {
    case 'A':
      return made(name(chance), 'A', `198.51.100.${1 + chance.below(250)}`)
    case 'AAAA':
      return made(name(chance), 'AAAA', `2001:db8:${chance.letters('123456789abcdef', 3)}::${1 + chance.below(99)}`)
    case 'MX':
      return made(chance.is(0.7) ? '@' : notApex(chance), 'MX', host(chance), {
        numbers: [`${chance.one([0, 1, 5, 10, 20, 50])}`],
      })
    case 'SRV':
      return made(`_${chance.one(['imaps', 'submission', 'sip'])}._tcp`, 'SRV', host(chance), {
        numbers: [`${chance.below(3)}`, `${chance.one([0, 1, 5])}`, `${chance.one([993, 587, 5060])}`],
      })
    case 'CAA':
      return made('@', 'CAA', 'ca.kelp-trust.example', { numbers: ['0'], tag: chance.one(['issue', 'issuewild']) })
    case 'NS':
      return made(chance.one(WORDS), 'NS', `ns${1 + chance.below(3)}.gullwire.example`)
    case 'CNAME':
      return made(chance.is(0.3) ? `k${chance.below(9)}._domainkey` : notApex(chance), 'CNAME', host(chance))
    case 'TXT':
      return { ...made('', 'TXT', ''), ...text(chance) }
  }
}

/** A few records, none of them twice, and no alias beside others. */
export function records(chance: Chance): Meant[] {
  const all: Meant[] = []
  const wanted = 1 + chance.below(5)
  for (let tries = 0; all.length < wanted && tries < 40; tries++) {
    const next = record(chance)
    const beside = all.filter(({ owner }) => owner === next.owner)
    const isAlias = next.type === 'CNAME' || beside.some(({ type }) => type === 'CNAME')
    if (beside.length > 0 && (isAlias || beside.some(({ type, value }) => type === next.type && value === next.value)))
      continue
    if (
      beside.some(
        ({ type, value }) => type === 'TXT' && next.type === 'TXT' && value.slice(0, 6) === next.value.slice(0, 6),
      )
    )
      continue
    all.push(next)
  }
  return all
}

/** One line for each record, to compare. */
export const keyOf = ({ owner, type, numbers, tag, value }: Meant): string =>
  `${owner === '@' ? ZONE : `${owner}.${ZONE}`} ${type} ${[...numbers, ...(tag ? [tag] : []), value].join(' ')}`.toLowerCase()
