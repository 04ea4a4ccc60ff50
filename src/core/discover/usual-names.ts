/** Names that domains usually have, and what to ask for at them first. Nobody lists the names of a zone: they are guessed, or walked. */
import { isAtOrBelow, type Name, toName } from '../names/name.ts'
import { TYPE } from '../records/types.ts'
import type { Result } from '../result.ts'
import { serviceNames } from '../rules/services.ts'

/** A name to ask for, and types of which at least one is there if it exists. */
export interface Guess {
  name: Name
  types: readonly number[]
  /** It is known to exist: no wildcard answers for it. */
  exists?: boolean
}

const HOST = [TYPE.A, TYPE.AAAA, TYPE.MX, TYPE.TXT] as const
const TEXT = [TYPE.TXT] as const
const SERVICE = [TYPE.SRV] as const

const HOSTS =
  'www www1 www2 web mail mail1 mail2 smtp smtp1 smtp2 imap pop pop3 webmail mx mx1 mx2 mx3 relay mailout lists newsletter news bounce email ' +
  'autoconfig autodiscover mta-sts openpgpkey ns ns1 ns2 ns3 ns4 dns dns1 dns2 ftp sftp files vpn remote gateway gw router proxy api app apps m mobile ' +
  'blog shop store cdn static assets img images media video dev test testing staging stage demo beta admin portal intranet extranet internal office home ' +
  'support help docs wiki status monitor git ci cloud chat meet talk sip voip pbx phone db ldap auth login sso id accounts calendar contacts tickets crm erp'

const SELECTORS =
  'default selector selector1 selector2 s1 s2 s3 k1 k2 k3 key1 key2 dkim dkim1 dkim2 mail mail1 mail2 smtp mx email key sig1 a b 1 2 main primary rsa ed25519 ' +
  'rsa1 ed1 r1 e1 news newsletter transactional bulk'

const TEXTS =
  '_dmarc _mta-sts _smtp._tls _acme-challenge _acme-challenge.www _domainkey _report._dmarc _adsp._domainkey _validation-contactemail'

const words = (list: string): string[] => list.split(' ')

/** The usual names below a zone. */
export function usualNames(zone: Name): Guess[] {
  const below = (label: string): Name => (zone === '.' ? `${label}.` : `${label}.${zone}`)
  return [
    ...words(HOSTS).map((label) => ({ name: below(label), types: HOST })),
    ...words(TEXTS).map((label) => ({ name: below(label), types: TEXT })),
    ...words(SELECTORS).map((label) => ({ name: below(`${label}._domainkey`), types: TEXT })),
    ...serviceNames().flatMap((service) =>
      ['tcp', 'udp'].map((protocol) => ({ name: below(`_${service}._${protocol}`), types: SERVICE })),
    ),
    { name: below('_sip._tls'), types: SERVICE },
  ]
}

/** The names of a list, one a line, relative to the zone or absolute; what stands behind `#` is a comment. */
export function statedNames(text: string, zone: Name): Result<Guess[]> {
  const guesses: Guess[] = []
  for (const [i, line] of text.split('\n').entries()) {
    const word = line.replace(/#.*/, '').trim()
    if (word === '') continue
    const name = word === '@' ? zone : toName(word.endsWith('.') ? word : `${word}.${zone === '.' ? '' : zone}`)
    if (name === undefined) return { refused: `line ${i + 1}: “${word}” is not a valid domain name` }
    if (!isAtOrBelow(name, zone)) return { refused: `line ${i + 1}: ${word} is not in the zone ${zone}` }
    guesses.push({ name, types: HOST })
  }
  return guesses
}
