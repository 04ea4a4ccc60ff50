/** The kinds of records that are written, each in its file. */
import type { Command } from 'commander'
import { atHosts } from '../../../core/records/host-types.ts'
import { parseType, TYPE, typeText } from '../../../core/records/types.ts'
import { nearest } from '../../../workspace/nearest.ts'
import { Trouble } from '../../../workspace/trouble.ts'
import { type Listed, offer } from '../../listed.ts'

const sets = () => import('./sets.ts')

const KINDS: readonly Listed[] = [
  { name: 'mx', summary: 'mail exchangers (MX)', load: sets },
  { name: 'cname', summary: 'an alias (CNAME)', load: sets },
  { name: 'srv', summary: 'the hosts of a service (SRV)', load: sets },
  { name: 'address', summary: 'addresses (A, AAAA); the other family stays as it is', load: sets },
  { name: 'txt', summary: 'texts (TXT), added to the existing ones unless --replace', load: sets },
  { name: 'ptr', summary: 'the reverse name of an address (PTR)', load: sets },
  { name: 'ttl', summary: 'the TTL of all sets at names: lowers it, or puts it back', load: () => import('./ttl.ts') },
  { name: 'record', summary: 'a record set of any type', load: sets },
  {
    name: 'spf',
    summary: 'SPF: who may send, merged into the existing record',
    load: () => import('./spf.ts'),
  },
  {
    name: 'dkim',
    summary: 'DKIM: a new key, a given one, or a CNAME to a provider’s',
    load: () => import('./dkim.ts'),
  },
  { name: 'dmarc', summary: 'DMARC: the policy for mail that fails', load: () => import('./dmarc.ts') },
  {
    name: 'no-mail',
    summary: 'lock down a domain that does no mail: null MX, v=spf1 -all, p=reject',
    load: () => import('./no-mail.ts'),
  },
  {
    name: 'mta-sts',
    summary: 'MTA-STS: the record, and the policy from the MX set',
    load: () => import('./mta-sts.ts'),
  },
  { name: 'tls-rpt', summary: 'TLS-RPT: where reports about failed encryption go', load: () => import('./tls-rpt.ts') },
]

/** What is meant by a word that is no kind: the type of a record, or something near. */
function unknownKind(typed: string, word: string): string {
  const call = (kind: string): string => `“${typed}” is written with: bramblefront write ${kind}`
  const type = parseType(word)
  if (type === TYPE.A || type === TYPE.AAAA) return call('address NAME ADDRESS')
  if (type !== undefined) return call(`record NAME ${typeText(type)} VALUE`)
  return `there is no kind ${typed} of records to write; ${nearest(
    word,
    KINDS.map(({ name }) => name),
    'kinds',
  )}`
}

/** Completes the kind that is called; a kind of hosting companies only is told what it is. */
export async function define(command: Command, args: readonly string[]): Promise<void> {
  const feature = atHosts(args.find((each) => !each.startsWith('-')) ?? '')
  if (feature !== undefined) throw new Trouble(feature)
  const at = args.findIndex((each) => !each.startsWith('-'))
  const word = args[at]?.toLowerCase()
  if (word !== undefined && !KINDS.some(({ name }) => name === word)) throw new Trouble(unknownKind(args[at]!, word))
  await offer(command, KINDS, args)
}
