/** How mail must be carried to a domain (MTA-STS), and where reports of it go (TLS-RPT). */
import { locateName, UNKNOWN } from '../../knowledge/answer.ts'
import { isSts, isTlsReports, listsExchange, parsePolicy, parseSts, parseTlsReports } from '../../mail/transport.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { bare, foldName } from '../../names/name.ts'
import { ROOT } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { hostAddresses, named } from '../look.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { corrected, reportText } from '../text.ts'
import { SCOPED } from '../traits.ts'

type Kind = 'mta-sts' | 'tls-rpt'

/** What a scoped name is for, by its labels. */
function kindOf({ tree }: Zones, owner: number): Kind | undefined {
  const label = tree.labelText(owner)
  return label === '_mta-sts' ? 'mta-sts' : label === '_smtp' && tree.labelText(tree.parent(owner)) === '_tls' ? 'tls-rpt' : undefined
}

const COUNTS: Record<Kind, (text: string) => boolean> = { 'mta-sts': isSts, 'tls-rpt': isTlsReports }
const parse = (kind: Kind, text: string) => (kind === 'mta-sts' ? parseSts(text) : parseTlsReports(text))
const VERSIONS: Record<Kind, RegExp> = { 'mta-sts': /sts/i, 'tls-rpt': /tls-?rpt/i }
const THEN: Record<Kind, string> = { 'mta-sts': 'Senders take it that there is no policy.', 'tls-rpt': 'No reports come.' }

const VISIT: Rule['visit'] = {
  set: {
    [TYPE.TXT]: {
      when: SCOPED,
      visit(set, cx) {
        const kind = kindOf(cx.zones, set.owner)
        if (kind === undefined) return
        const texts = new Map(set.records.map((record) => [joined(cx.zones.rdata(record)), record]))
        const counting = [...texts].filter(([text]) => COUNTS[kind](text))
        if (counting.length > 1)
          cx.report({
            code: kind === 'mta-sts' ? 'mta-sts/several' : 'tls-rpt/several',
            record: counting[1][1],
            message: `${cx.name(set.owner)} has ${counting.length} records; the first is at ${cx.where(counting[0][1], counting[1][1])}`,
            consequence: THEN[kind],
            fix: [`keep only one, for instance: ${cx.name(set.owner)} ${cx.record(counting[0][1])}`],
          })
        for (const [text, record] of texts) {
          const code = kind === 'mta-sts' ? 'mta-sts/syntax' : 'tls-rpt/syntax'
          if (COUNTS[kind](text)) {
            for (const problem of parse(kind, text).problems)
              reportText(cx, record, problem, {
                code,
                message: `${cx.name(set.owner)}: ${problem.message}`,
                consequence: THEN[kind],
                fix: corrected(cx, record, text, problem, (other) => parse(kind, other).problems.length === 0),
              })
          } else if (VERSIONS[kind].test(text.slice(0, 20)) && counting.length === 0) {
            const version = kind === 'mta-sts' ? 'v=STSv1' : 'v=TLSRPTv1'
            reportText(
              cx,
              record,
              { start: 0, end: Math.max(1, text.search(/[;\s]|$/)) },
              {
                code,
                message: `${cx.name(set.owner)} does not begin with ${version};`,
                consequence: THEN[kind],
                fix: [`begin with ${version};`],
              },
            )
          }
        }
        if (kind === 'mta-sts' && counting.length === 1) hostOf(cx, set, counting[0][1])
      },
    },
  },
}

/** The host that senders fetch the policy from. */
function hostOf(cx: Context, set: SetView, record: RecordId): void {
  const domain = cx.name(cx.zones.tree.parent(set.owner))
  const host = `mta-sts.${domain}`
  const node = locateName(cx.zones, host)
  if (node === UNKNOWN) return
  const found = node < 0 ? undefined : hostAddresses(cx.zones, node)
  if (node >= 0 && (!found || found.records.length > 0)) return
  cx.report({
    code: 'mta-sts/host-missing',
    record,
    part: 'owner',
    message: `${host} has no address, and ${cx.name(set.owner)} says that a policy is to be had there`,
    consequence: 'Senders cannot fetch the policy, and act as if there were none.',
    fix: [`write the address of the web server that has the policy at ${host}`],
  })
}

const HOST = 'mta-sts A 192.0.2.80'

export const mtaStsSyntax: Rule = {
  code: 'mta-sts/syntax',
  severity: 'error',
  source: 'RFC 8461 §3.1',
  title: 'a record at _mta-sts that senders cannot read',
  why: 'It says that there is a policy, and by its id when that has changed. Without it, the policy is not looked for.',
  remedy: 'Write v=STSv1; id= and letters and digits that are others at each change.',
  bad: [`_mta-sts TXT "v=STSv1;"\n${HOST}`, `_mta-sts TXT "v=STSv1; id=2026-11-23"\n${HOST}`, `_mta-sts TXT "v=STS1; id=1"\n${HOST}`],
  good: [`_mta-sts TXT "v=STSv1; id=20261123T1;"\n_mta-sts TXT "ferry-proof=41c2"\n${HOST}`],
  visit: VISIT,
}

export const mtaStsSeveral: Rule = {
  code: 'mta-sts/several',
  severity: 'error',
  source: 'RFC 8461 §3.1',
  title: 'more than one record at _mta-sts',
  why: 'Senders that find several take it that there is no policy.',
  remedy: 'Keep one.',
  bad: [`_mta-sts TXT "v=STSv1; id=1"\n_mta-sts TXT "v=STSv1; id=2"\n${HOST}`],
  good: [`_mta-sts TXT "v=STSv1; id=1"\n${HOST}`],
  visit: VISIT,
}

export const mtaStsHostMissing: Rule = {
  code: 'mta-sts/host-missing',
  severity: 'error',
  source: 'RFC 8461 §3.3',
  title: 'no address for the host that has the policy',
  why: 'Senders fetch the policy from https://mta-sts.DOMAIN/.well-known/mta-sts.txt. Without the host there is none.',
  remedy: 'Write the address, or an alias, of the web server.',
  bad: ['_mta-sts TXT "v=STSv1; id=1"', '_mta-sts TXT "v=STSv1; id=1"\nmta-sts TXT "hello"'],
  good: [`_mta-sts TXT "v=STSv1; id=1"\n${HOST}`, '_mta-sts TXT "v=STSv1; id=1"\nmta-sts CNAME policies.larkpost.example.'],
  visit: VISIT,
}

export const tlsRptSyntax: Rule = {
  code: 'tls-rpt/syntax',
  severity: 'error',
  source: 'RFC 8460 §3',
  title: 'a record at _smtp._tls that senders cannot read',
  why: 'It says where reports of failed encryption go. One that cannot be read gets none.',
  remedy: 'Write v=TLSRPTv1; rua=mailto: and an address.',
  bad: ['_smtp._tls TXT "v=TLSRPTv1;"', '_smtp._tls TXT "v=TLSRPTv1; rua=tls@larkpost.example"', '_smtp._tls TXT "v=TLSRPT1; rua=mailto:tls@larkpost.example"'],
  good: ['_smtp._tls TXT "v=TLSRPTv1; rua=mailto:tls@larkpost.example,https://larkpost.example/tls"'],
  visit: VISIT,
}

export const tlsRptSeveral: Rule = {
  code: 'tls-rpt/several',
  severity: 'error',
  source: 'RFC 8460 §3',
  title: 'more than one record at _smtp._tls',
  why: 'Senders that find several send no reports.',
  remedy: 'Keep one; several addresses stand in it with commas between them.',
  bad: ['_smtp._tls TXT "v=TLSRPTv1; rua=mailto:a@larkpost.example"\n_smtp._tls TXT "v=TLSRPTv1; rua=mailto:b@larkpost.example"'],
  good: ['_smtp._tls TXT "v=TLSRPTv1; rua=mailto:a@larkpost.example"'],
  visit: VISIT,
}

const kept = (text: string) => ({ policies: [{ domain: 'hollowmere.example.', file: 'policies/hollowmere.example.txt', text }] })
const MAIL = '@ MX 10 mx.larkpost.example.\n@ TXT "v=spf1 mx -all"\n_dmarc TXT "v=DMARC1; p=none; rua=mailto:d@larkpost.example"'

export const mtaStsExchangeNotListed: Rule = {
  code: 'mta-sts/exchange-not-listed',
  severity: 'error',
  source: 'RFC 8461 §4.1',
  title: 'an exchange that the kept policy does not list',
  why: 'Senders that follow the policy do not deliver to an exchange that it does not list; in mode testing they only report it.',
  remedy: 'Write the policy anew, with --also for an exchange that is not in the MX set yet; serve it; then write the MX set.',
  bad: [
    { zones: { 'hollowmere.example': MAIL }, around: kept('version: STSv1\nmode: enforce\nmx: mail.hollowmere.example\nmax_age: 604800\n') },
    { zones: { 'hollowmere.example': MAIL }, around: kept('version: STSv1\nmode: enforce\nmx: *.mx.larkpost.example\nmax_age: 604800\n') },
  ],
  good: [
    { zones: { 'hollowmere.example': MAIL }, around: kept('version: STSv1\nmode: enforce\nmx: *.larkpost.example\nmax_age: 604800\n') },
    { zones: { 'hollowmere.example': MAIL }, around: kept('version: STSv1\nmode: none\nmax_age: 604800\n') },
  ],
  visit: {
    applies: (cx) => (cx.around.policies?.length ?? 0) > 0,
    finish(cx) {
      const { zones } = cx
      for (const { domain, file, text } of cx.around.policies ?? []) {
        const { policy } = parsePolicy(text)
        const name = named(zones, domain)
        if (policy.mode === undefined || policy.mode === 'none' || name < 0 || !cx.isAbout(name)) continue
        for (const record of zones.records(name, TYPE.MX)) {
          const exchange = zones.target(record)
          if (exchange === ROOT || listsExchange(policy, cx.name(exchange))) continue
          cx.report({
            record,
            part: 1,
            severity: policy.mode === 'enforce' ? 'error' : 'warning',
            message: `${cx.name(exchange)} is an exchange of ${foldName(domain)}, and the policy in ${file} (mode ${policy.mode}) does not list it`,
            consequence:
              policy.mode === 'enforce'
                ? 'Senders that follow the policy do not deliver there.'
                : 'Senders report it as a fault; in mode enforce they would not deliver there.',
            fix: [
              `bramblefront write mta-sts ${bare(foldName(domain))} --also ${bare(foldName(cx.name(exchange)))}, and serve the new text, before the exchange is written`,
            ],
          })
        }
      }
    },
  },
}
