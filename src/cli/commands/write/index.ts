/** The kinds of records that are written, each in its file. */
import type { Command } from 'commander'
import { type Listed, offer } from '../../listed.ts'

const sets = () => import('./sets.ts')

const KINDS: readonly Listed[] = [
  { name: 'mx', summary: 'mail exchanges', load: sets },
  { name: 'cname', summary: 'an alias', load: sets },
  { name: 'srv', summary: 'the hosts of a service', load: sets },
  { name: 'address', summary: 'addresses (A, AAAA); a family that is not named stays as it is', load: sets },
  { name: 'txt', summary: 'texts; added to those there are, unless --replace', load: sets },
  { name: 'record', summary: 'a record set of any type', load: sets },
  {
    name: 'spf',
    summary: 'who may send: joins senders and records with the one SPF record that there is',
    load: () => import('./spf.ts'),
  },
  {
    name: 'dkim',
    summary: 'the key that mail is signed with: a new one, one that is handed over, or an alias to a service’s',
    load: () => import('./dkim.ts'),
  },
  { name: 'dmarc', summary: 'the policy for mail that fails', load: () => import('./dmarc.ts') },
  {
    name: 'no-mail',
    summary: 'a domain that neither sends nor receives: null MX, v=spf1 -all, p=reject',
    load: () => import('./no-mail.ts'),
  },
  {
    name: 'mta-sts',
    summary: 'that mail must come encrypted: the record, and the policy’s text from the MX set',
    load: () => import('./mta-sts.ts'),
  },
  { name: 'tls-rpt', summary: 'where reports of failed encryption go', load: () => import('./tls-rpt.ts') },
]

export const define = (command: Command, args: readonly string[]): Promise<void> => offer(command, KINDS, args)
