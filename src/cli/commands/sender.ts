import type { Command } from 'commander'
import { type Find, findIntendedThenAsked } from '../../core/knowledge/find.ts'
import { domainToName, lookupFrom } from '../../core/mail/lookup.ts'
import { judgeSender, type SenderVerdict, type Signature } from '../../core/mail/sender.ts'
import { MAX_VOID_LOOKUPS, type SpfStep } from '../../core/mail/spf/check-host.ts'
import { parseAddress } from '../../core/names/address.ts'
import { toAsciiMailbox } from '../../core/names/idna.ts'
import { bare, foldName, type Name } from '../../core/names/name.ts'
import { LIST, organizationalDomain } from '../../core/names/public-suffix.ts'
import { typeText } from '../../core/records/types.ts'
import { findAt } from '../../net/lookup.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, loadZones } from '../../workspace/workspace.ts'
import { CLOCK } from '../clock.ts'
import type { SenderDocument } from '../documents/sender.ts'
import { collect, includeOption, jsonOption, liveOptions, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { Page, printJson } from '../output/page.ts'
import { printable } from '../output/printable.ts'
import { table } from '../output/table.ts'
import { type LiveOptions, vantagesFor } from './live.ts'
import { needWorkspace } from './source.ts'
import { limitOf } from './whom.ts'

interface Options extends LiveOptions {
  envelope: string
  from?: string
  helo?: string
  signedBy?: string[]
  file?: string
  offline?: boolean
  asPublished?: boolean
  json?: boolean
}

export const define = (command: Command): Command =>
  liveOptions(
    command
      .argument('<address>', 'the address that the mail comes from')
      .requiredOption('--envelope <address>', 'the envelope sender, as in news@hollowmere.example; <> for a bounce')
      .option('--from <address>', 'the address in From: (default: the envelope’s)')
      .option('--helo <name>', 'the name that the sender says it has (default: the envelope’s domain)')
      .option(
        '--signed-by <domain:selector>',
        'who signs it; the signature is taken to be sound (may be given again)',
        collect,
      )
      .option('--as-published', 'ask the vantages for everything, kept zones too')
      .option('--offline', 'ask nobody: names outside the kept zones are unknown')
      .option('--file <file>', 'a bare zone file instead of the workspace’s')
      .addOption(zoneOption())
      .addOption(workspaceOption())
      .addOption(viewOption())
      .addOption(includeOption())
      .addOption(jsonOption()),
  ).action(sender)

/** Judges a sender by the intended data, or by what is published. Exit status 1 where its mail would not pass, 3 where that cannot be told. */
async function sender(address: string, options: Options, command: Command): Promise<void> {
  if (!parseAddress(address))
    throw new Trouble(`${address} is no address; right would be one as in 192.0.2.25 or 2001:db8::25`)
  if (options.offline && options.asPublished)
    throw new Trouble('--offline asks nobody, and --as-published asks for everything: state one')
  const envelope = options.envelope === '<>' ? '' : inAscii(options.envelope, '--envelope')
  if (envelope !== '' && !/^[^@\s]*@[^@\s]+$/.test(envelope))
    throw new Trouble(
      `--envelope ${envelope} is no mail address; right would be one as in news@hollowmere.example, or <> for a bounce`,
    )
  const helo =
    (options.helo && inAscii(options.helo, '--helo')) ??
    (envelope === '' ? undefined : envelope.slice(envelope.lastIndexOf('@') + 1))
  if (helo === undefined)
    throw new Trouble('a bounce is judged by the name that the sender says it has: state it with --helo')
  const fromText = options.from ?? envelope
  if (fromText === '') throw new Trouble('state the address in From: with --from')
  const from = domainOf(fromText, '--from')
  const signedBy = (options.signedBy ?? []).map(signatureOf)
  const zones = options.file
    ? loadZones(bareFiles([options.file], options.zone), options.includeAnywhere)
    : loadZones((await needWorkspace(options)).files, options.includeAnywhere)
  const vantages = options.offline ? [] : await vantagesFor(options)
  if (options.asPublished && vantages.length === 0)
    throw new Trouble('nobody to ask: state one with --at ADDRESS[:PORT], or name vantages in bramblefront.yaml')
  const live = vantages.length > 0 ? findAt(vantages, CLOCK, limitOf(options)) : undefined
  const unknown = new Map<string, string>()
  try {
    const find = live && options.asPublished ? live.find : findIntendedThenAsked(zones, live?.find)
    const lookup = lookupFrom(noting(find, unknown))
    const verdict = await judgeSender({
      ip: address,
      helo,
      envelope,
      from,
      signedBy,
      lookup,
      organizational: organizationalDomain,
    })
    const told = verdict.disposition !== 'later'
    process.exitCode = verdict.disposition === 'passes' ? 0 : told ? 1 : 3
    const on = options.asPublished
      ? 'what is published'
      : vantages.length > 0
        ? 'the intended data of the kept zones; other names as they are published'
        : 'the intended data of the kept zones'
    // The tree walk asks further up than the verdict needs.
    const needed = [from, verdict.dmarc.organization].map((name) => `_dmarc.${foldName(name)} TXT`)
    const missing = [...unknown]
      .filter(([key]) => !key.startsWith('_dmarc.') || needed.includes(key))
      .map(([, text]) => text)
    const result = { address, envelope, helo, from, verdict, unknown: missing, on }
    if (options.json) printJson(document(result))
    else {
      const page = new Page(command)
      report(page, result)
      page.print()
    }
  } finally {
    live?.close()
  }
}

interface Told {
  address: string
  envelope: string
  helo: string
  from: Name
  verdict: SenderVerdict
  unknown: string[]
  on: string
}

/** A mailbox or a domain as typed, its domain in A-labels. */
function inAscii(text: string, option: string): string {
  const ascii = toAsciiMailbox(text)
  if ('refused' in ascii) throw new Trouble(`${option} ${text}: ${ascii.refused}`)
  return ascii.name
}

function domainOf(text: string, option: string): Name {
  const ascii = inAscii(text, option)
  const name = domainToName(ascii.slice(ascii.lastIndexOf('@') + 1))
  if (name === undefined)
    throw new Trouble(`${option} ${text} has no domain; right would be an address or a domain as in hollowmere.example`)
  return name
}

function signatureOf(text: string): { domain: Name; selector?: string } {
  const [domain = '', selector, ...more] = text.split(':')
  if (more.length > 0 || selector === '')
    throw new Trouble(`--signed-by ${text} must be DOMAIN or DOMAIN:SELECTOR, as in hollowmere.example:ferry1`)
  return { domain: domainOf(domain, '--signed-by'), ...(selector === undefined ? {} : { selector }) }
}

/** The same source; what it does not know is noted. */
const noting =
  (find: Find, unknown: Map<string, string>): Find =>
  async (name, type) => {
    const found = await find(name, type)
    if (found.outcome === 'unknown')
      unknown.set(`${foldName(found.end)} ${typeText(type)}`, `${bare(found.end)} ${typeText(type)}`)
    return found
  }

const signatureJson = ({ domain, selector, aligned, key, why }: Signature): object => ({
  domain: foldName(domain),
  selector: selector ?? null,
  aligned,
  key,
  why: why ?? null,
})

function document({ address, envelope, helo, from, verdict, unknown, on }: Told): SenderDocument {
  const { spf, spfAligned, spfDomain, signatures, dmarc, walked, policy, policyBy, by, disposition } = verdict
  return {
    format: 1,
    address,
    envelope,
    helo,
    from: foldName(from),
    on,
    spf: {
      domain: spfDomain ? foldName(spfDomain) : null,
      result: spf.result,
      aligned: spfAligned,
      explanation: spf.explanation ?? null,
      lookups: spf.lookups,
      voidLookups: spf.voidLookups,
      voidQuestions: spf.voidQuestions,
      trace: spf.trace,
    },
    signatures: signatures.map(signatureJson),
    dmarc: {
      at: dmarc.at ? foldName(dmarc.at) : null,
      record: dmarc.text ?? null,
      organization: foldName(dmarc.organization),
      policy: policy ?? null,
      tag: dmarc.record ? policyBy : null,
      percent: dmarc.record?.percent ?? null,
      testing: dmarc.record?.testing ?? walked?.record?.testing ?? false,
      suffixList: LIST.date,
      treeWalk: walked
        ? { at: walked.at ? foldName(walked.at) : null, organization: foldName(walked.organization) }
        : null,
    },
    passesBy: by,
    disposition,
    passes: disposition === 'passes',
    unknown,
  }
}

const KEYS: Record<Signature['key'], string> = {
  usable: 'the key can be used, and the signature is taken to be sound',
  taken: 'no selector was stated: key and signature are taken to be sound',
  none: 'there is no key',
  revoked: 'the key is revoked',
  unusable: 'the key cannot be used',
  several: 'there are several texts where the key should be',
  'time-out': 'nobody answered for the key',
  'server-failure': 'the key could not be asked for',
  unknown: 'whether there is a key is not known here',
  circle: 'its name leads in a circle of aliases',
  'too-long': 'its name leads over too many aliases',
  'long-name': 'a DNAME makes a name of it that is too long',
}

function report(page: Page, { address, envelope, helo, from, verdict, unknown, on }: Told): void {
  const { colour } = page
  const { spf, spfAligned, spfDomain, signatures, dmarc, walked, policy, policyBy, disposition } = verdict
  const domain = spfDomain ? bare(spfDomain) : helo
  page.text(
    `Mail from ${address}, envelope ${envelope === '' ? '<> (a bounce)' : envelope}, From: a mailbox at ${bare(from)}, judged by ${on}.`,
  )
  page.line()
  const good = (ok: boolean, text: string): string => (ok ? colour.green(text) : colour.bold(colour.red(text)))
  const aligned = (ok: boolean, mode: string | undefined): string =>
    ok ? `aligned with ${bare(from)}` : `not aligned with ${bare(from)}${mode === undefined ? '' : ` (${mode})`}`
  page.line(
    `${colour.bold('SPF')}    ${good(spf.result === 'pass', spf.result === 'temperror' && unknown.length > 0 ? 'unknown' : spf.result)}  ${printable(`${domain}, ${aligned(spfAligned, dmarc.record?.spf)}`)}`,
  )
  table(page, spf.trace.map(stepRow), '  ', (cell, column) => (column === 0 ? colour.cyan(cell) : cell))
  page.text(`${spf.lookups} of 10 lookups, ${spf.voidLookups} of 2 void lookups, counted by term`, '  ')
  if (spf.voidQuestions > MAX_VOID_LOOKUPS && spf.voidLookups <= MAX_VOID_LOOKUPS)
    page.text(
      `Receivers that count each question instead of each term find ${spf.voidQuestions} void lookups, and give up on the record (permerror).`,
      '  ',
    )
  if (spf.explanation !== undefined) page.text(`The domain tells such senders: ${spf.explanation}`, '  ')
  page.line()
  if (signatures.length === 0)
    page.line(`${colour.bold('DKIM')}   none  ${colour.dim('no signature was stated (--signed-by DOMAIN:SELECTOR)')}`)
  for (const each of signatures) {
    const usable = each.key === 'usable' || each.key === 'taken'
    page.line(
      `${colour.bold('DKIM')}   ${good(usable, usable ? 'pass' : 'fail')}  ${printable(`${bare(each.domain)}${each.selector ? `, selector ${each.selector}` : ''}, ${aligned(each.aligned, dmarc.record?.dkim)}`)}`,
    )
    page.text(`${KEYS[each.key]}${each.why ? `: ${each.why}` : ''}`, '  ')
  }
  page.line()
  page.line(
    `${colour.bold('DMARC')}  ${dmarc.text === undefined ? 'no policy' : printable(`${policyBy}=${policy ?? 'none that counts'}${dmarc.record!.percent < 100 ? ` for ${dmarc.record!.percent} of 100 messages` : ''}, at _dmarc.${bare(dmarc.at!)}`)}`,
  )
  if (dmarc.text !== undefined) page.text(dmarc.text, '  ')
  page.text(
    `${bare(dmarc.organization)} is the organizational domain, by the public suffix list of ${LIST.date}.`,
    '  ',
  )
  if (dmarc.record?.testing || walked?.record?.testing)
    page.text(
      'The record has t=y: receivers that follow the successor of RFC 7489 act one step more mildly (quarantine for reject, none for quarantine); others pass it over.',
      '  ',
    )
  if (walked)
    page.text(
      `Receivers that walk the tree instead, as the successor of RFC 7489 has it, ${walked.at ? `take the policy at _dmarc.${bare(walked.at)}` : 'find no policy'}, and ${bare(walked.organization)} for the organizational domain.`,
      '  ',
    )
  page.line()
  page.text(conclusion(verdict, unknown.length > 0))
  if (unknown.length > 0 && (disposition === 'later' || spf.result === 'temperror'))
    page.text(
      `Not known here: ${unknown.join(', ')}. ${disposition === 'later' ? 'Without them the verdict cannot be told: ask with --at ADDRESS.' : 'The verdict stands without them.'}`,
    )
}

function stepRow({ depth, domain, term, outcome, why }: SpfStep): string[] {
  return [`${'  '.repeat(depth)}${term === '' ? bare(domain) : term}`, `${outcome}: ${why}`]
}

function conclusion({ by, disposition, policy }: SenderVerdict, isUnknown: boolean): string {
  if (disposition === 'passes') return `It passes, by ${by.join(' and by ')}.`
  if (disposition === 'later')
    return isUnknown
      ? 'It cannot be told from what is known here.'
      : 'It cannot be told: receivers that meet the same trouble put the mail off.'
  if (disposition === 'no policy')
    return 'It does not pass, and the domain says nothing of what to do with it: each receiver decides by itself.'
  if (disposition === 'none')
    return 'It does not pass. The policy asks for nothing but a report (p=none): the mail is delivered as it would be otherwise.'
  return `It does not pass. The policy asks receivers to ${policy === 'reject' ? 'refuse it' : 'put it aside as suspect'}.`
}
