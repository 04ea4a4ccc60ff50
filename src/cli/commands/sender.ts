import type { Command } from 'commander'
import { type Find, findIntendedThenAsked } from '../../core/knowledge/find.ts'
import { domainToName, lookupFrom } from '../../core/mail/lookup.ts'
import { judgeSender, type SenderVerdict, type Signature } from '../../core/mail/sender.ts'
import { MAX_VOID_LOOKUPS, type SpfStep } from '../../core/mail/spf/check-host.ts'
import { parseAddress } from '../../core/names/address.ts'
import { toAsciiMailbox } from '../../core/names/idna.ts'
import { bare, foldName, type Name } from '../../core/names/name.ts'
import { LIST, organizationalDomain } from '../../core/names/public-suffix.ts'
import { printable } from '../../core/printable.ts'
import { typeText } from '../../core/records/types.ts'
import { findAt } from '../../net/lookup.ts'
import { Trouble } from '../../workspace/trouble.ts'
import { bareFiles, loadZones } from '../../workspace/workspace.ts'
import { CLOCK } from '../clock.ts'
import type { SenderDocument } from '../documents/sender.ts'
import { collect, includeOption, jsonOption, liveOptions, viewOption, workspaceOption, zoneOption } from '../options.ts'
import { Page, printJson } from '../output/page.ts'
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
      .argument('<address>', 'the IP address that sends the mail')
      .requiredOption(
        '--envelope <address>',
        'the envelope sender (MAIL FROM), as in news@example.com; <> for a bounce',
      )
      .option('--from <address>', 'the address in From: (default: the envelope sender)')
      .option('--helo <name>', 'the EHLO name of the sender (default: the domain of the envelope sender)')
      .option(
        '--signed-by <domain:selector>',
        'who signs it; the signature is assumed to be valid (repeatable)',
        collect,
      )
      .option('--as-published', 'look up everything at the vantages, your own zones, too')
      .option('--offline', 'ask nobody: names outside your zones are unknown')
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
    throw new Trouble(`“${address}” is not a valid IP address (expected e.g. 192.0.2.25 or 2001:db8::25)`)
  if (options.offline && options.asPublished)
    throw new Trouble('--offline asks nobody and --as-published looks up everything: use one of them')
  const envelope = options.envelope === '<>' ? '' : inAscii(options.envelope, '--envelope')
  if (envelope !== '' && !/^[^@\s]*@[^@\s]+$/.test(envelope))
    throw new Trouble(
      `--envelope: “${envelope}” is not a valid email address (expected e.g. news@example.com, or <> for a bounce)`,
    )
  const helo =
    (options.helo && inAscii(options.helo, '--helo')) ??
    (envelope === '' ? undefined : envelope.slice(envelope.lastIndexOf('@') + 1))
  if (helo === undefined) throw new Trouble('for a bounce, SPF is checked with the EHLO name: give it with --helo')
  const fromText = options.from ?? envelope
  if (fromText === '') throw new Trouble('give the From: address with --from')
  const from = domainOf(fromText, '--from')
  const signedBy = (options.signedBy ?? []).map(signatureOf)
  const zones = options.file
    ? loadZones(bareFiles([options.file], options.zone), options.includeAnywhere)
    : loadZones((await needWorkspace(options)).files, options.includeAnywhere)
  const vantages = options.offline ? [] : await vantagesFor(options)
  if (options.asPublished && vantages.length === 0)
    throw new Trouble(
      'nobody to ask: name a resolver with --at ADDRESS[:PORT], or under vantages: in bramblefront.yaml',
    )
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
      ? 'published data'
      : vantages.length > 0
        ? 'intended data for your zones, published data for other names'
        : 'intended data of your zones'
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
    throw new Trouble(`${option} ${text} has no domain (expected an email address or a domain, e.g. example.com)`)
  return name
}

function signatureOf(text: string): { domain: Name; selector?: string } {
  const [domain = '', selector, ...more] = text.split(':')
  if (more.length > 0 || selector === '') throw new Trouble(`--signed-by ${text} must be DOMAIN or DOMAIN:SELECTOR`)
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

const signatureJson = ({ domain, selector, aligned, key, why }: Signature): SenderDocument['signatures'][number] => ({
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
  usable: 'the key is usable; the signature is assumed to be valid',
  taken: 'no selector given: key and signature are assumed to be valid',
  none: 'there is no key record',
  revoked: 'the key is revoked',
  unusable: 'the key cannot be used',
  several: 'there are several TXT records at the selector',
  'time-out': 'no answer when looking up the key',
  'server-failure': 'the key could not be looked up',
  unknown: 'the key was not looked up',
  circle: 'its name leads into a CNAME loop',
  'too-long': 'its name leads over too many CNAMEs',
  'long-name': 'a DNAME rewrites its name to one that is too long',
}

function report(page: Page, { address, envelope, helo, from, verdict, unknown, on }: Told): void {
  const { colour } = page
  const { spf, spfAligned, spfDomain, signatures, dmarc, walked, policy, policyBy, disposition } = verdict
  const domain = spfDomain ? bare(spfDomain) : helo
  page.text(
    `Mail from ${address}, envelope ${envelope === '' ? '<> (a bounce)' : envelope}, From: domain ${bare(from)}. Evaluated on ${on}.`,
  )
  page.line()
  const good = (ok: boolean, text: string): string => (ok ? colour.green(text) : colour.bold(colour.red(text)))
  const aligned = (ok: boolean, mode: string | undefined): string =>
    ok ? `aligned with ${bare(from)}` : `not aligned with ${bare(from)}${mode === undefined ? '' : ` (${mode})`}`
  page.line(
    `${colour.bold('SPF')}    ${good(spf.result === 'pass', spf.result === 'temperror' && unknown.length > 0 ? 'unknown' : spf.result)}  ${printable(`${domain}, ${aligned(spfAligned, dmarc.record?.spf)}`)}`,
  )
  table(page, spf.trace.map(stepRow), '  ', (cell, column) => (column === 0 ? colour.cyan(cell) : cell))
  page.text(`${spf.lookups} of 10 lookups, ${spf.voidLookups} of 2 void lookups, counted per term`, '  ')
  if (spf.voidQuestions > MAX_VOID_LOOKUPS && spf.voidLookups <= MAX_VOID_LOOKUPS)
    page.text(
      `Receivers that count each query instead of each term find ${spf.voidQuestions} void lookups and give up on the record (permerror).`,
      '  ',
    )
  if (spf.explanation !== undefined) page.text(`Explanation from the domain: ${spf.explanation}`, '  ')
  page.line()
  if (signatures.length === 0)
    page.line(`${colour.bold('DKIM')}   none  ${colour.dim('no signature given (--signed-by DOMAIN:SELECTOR)')}`)
  for (const each of signatures) {
    const usable = each.key === 'usable' || each.key === 'taken'
    page.line(
      `${colour.bold('DKIM')}   ${good(usable, usable ? 'pass' : 'fail')}  ${printable(`${bare(each.domain)}${each.selector ? `, selector ${each.selector}` : ''}, ${aligned(each.aligned, dmarc.record?.dkim)}`)}`,
    )
    page.text(`${KEYS[each.key]}${each.why ? `: ${each.why}` : ''}`, '  ')
  }
  page.line()
  page.line(
    `${colour.bold('DMARC')}  ${dmarc.text === undefined ? 'no policy' : printable(`${policyBy}=${policy ?? 'none that is valid'}${dmarc.record!.percent < 100 ? ` for ${dmarc.record!.percent} of 100 messages` : ''}, at _dmarc.${bare(dmarc.at!)}`)}`,
  )
  if (dmarc.text !== undefined) page.text(dmarc.text, '  ')
  page.text(`${bare(dmarc.organization)} is the organizational domain (public suffix list of ${LIST.date}).`, '  ')
  if (dmarc.record?.testing || walked?.record?.testing)
    page.text(
      'The record has t=y: receivers that follow RFC 9989 act one step more mildly (quarantine instead of reject, none instead of quarantine); others ignore it.',
      '  ',
    )
  if (walked)
    page.text(
      `Receivers that use the tree walk of RFC 9989 instead ${walked.at ? `apply the policy at _dmarc.${bare(walked.at)}` : 'find no policy'} and take ${bare(walked.organization)} as the organizational domain.`,
      '  ',
    )
  page.line()
  page.text(conclusion(verdict, unknown.length > 0))
  if (unknown.length > 0 && (disposition === 'later' || spf.result === 'temperror'))
    page.text(
      `Unknown: ${unknown.join(', ')}. ${disposition === 'later' ? 'They are needed for a verdict: look them up with --at ADDRESS.' : 'They do not change the verdict.'}`,
    )
}

function stepRow({ depth, domain, term, outcome, why }: SpfStep): string[] {
  return [`${'  '.repeat(depth)}${term === '' ? bare(domain) : term}`, `${outcome}: ${why}`]
}

function conclusion({ by, disposition, policy }: SenderVerdict, isUnknown: boolean): string {
  if (disposition === 'passes') return `DMARC passes, by ${by.join(' and by ')}.`
  if (disposition === 'later')
    return isUnknown
      ? 'No verdict is possible from what is known here.'
      : 'No verdict is possible: receivers with the same lookup failure defer the mail.'
  if (disposition === 'no policy')
    return 'DMARC does not pass, and the domain has no policy: each receiver decides by itself.'
  if (disposition === 'none')
    return 'DMARC does not pass. The policy is monitoring only (p=none): the mail is delivered as usual and reported.'
  return `DMARC does not pass. The policy asks receivers to ${policy === 'reject' ? 'reject it' : 'quarantine it'}.`
}
