/** What is wrong inside an SPF record, and with the records that it leads to. One reading serves all these rules. */

import { locateName, MISSING, UNKNOWN } from '../../knowledge/answer.ts'
import { findKept } from '../../mail/lookup.ts'
import { askingTerms, type BudgetNode, type KnownSpf, spfBudget, targetOf } from '../../mail/spf/budget.ts'
import { MAX_EXCHANGES, MAX_LOOKUPS, MAX_VOID_LOOKUPS } from '../../mail/spf/check-host.ts'
import { withEnd } from '../../mail/spf/merge.ts'
import { rangesOf } from '../../mail/spf/ranges.ts'
import {
  coversRange,
  isSpf,
  type Mechanism,
  type Modifier,
  parseSpf,
  readSpf,
  type SpfRecord,
  spfText,
  termText,
} from '../../mail/spf/record.ts'
import { shortened } from '../../mail/tags.ts'
import { GENERATED, type RecordId, type Zones } from '../../model/zones.ts'
import { foldName, labelsOf, type Name, nameToWire, wireNameLength } from '../../names/name.ts'
import { latin1Of } from '../../names/octets.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { listed } from '../look.ts'
import type { Context, Rule, SetView } from '../rule.ts'
import { GIVES_UP, keptSpf, MOST_FAULTS, type Read, SPF_READ } from '../shared/spf-text.ts'
import { line, reportText, spfRecordAt, textLine } from '../text.ts'
import { SEVERAL, SEVERAL_STRINGS, SPF_TEXT } from '../traits.ts'

export const VISIT: Rule['visit'] = {
  set: {
    [TYPE.TXT]: {
      when: SPF_TEXT | SEVERAL_STRINGS,
      visit(set, cx) {
        for (const record of set.records) {
          const read = SPF_READ.of(cx.zones, record)
          for (const fault of read.faults) {
            reportText(cx, record, fault, {
              code: fault.code,
              severity: fault.severity,
              message: `SPF at ${cx.name(set.owner)}: ${fault.message}`,
              consequence: fault.consequence,
              fix: fault.fix(cx, record, read.text),
            })
          }
          if (read.record && !(read.plain && isQuiet(cx.zones, set, record)))
            inZones(cx, set, record, read, read.record)
        }
      },
    },
    [TYPE.MX]: {
      when: SEVERAL,
      visit(set, cx) {
        const text = set.records.length > MAX_VOID_LOOKUPS ? spfRecordAt(cx.zones, set.owner) : NONE
        const read = text === NONE ? undefined : SPF_READ.of(cx.zones, text)
        const own = read?.record?.mechanisms.find(({ name, macros }) => name === 'mx' && !macros)
        if (!own) return
        if (set.records.length > MAX_EXCHANGES) tooManyExchanges(cx, text, cx.name(set.owner), own, set.records.length)
        // What leads elsewhere is counted with that.
        else if (!read!.leads)
          tooManyVoid(cx, text, cx.name(set.owner), read!.record!, { start: own.start, end: own.end })
      },
    },
    [TYPE.SPF](set, cx) {
      cx.report({
        code: 'spf/obsolete-type',
        record: set.records[0],
        part: 'type',
        message: `${cx.name(set.owner)} has a record of the type SPF`,
        consequence: 'Nobody asks for that type any more: only the TXT record counts.',
        fix: cx.zones.records(set.owner, TYPE.TXT, set.zone.index).some((each) => isSpf(joined(cx.zones.rdata(each))))
          ? [`take it out: ${cx.name(set.owner)} has an SPF record as TXT`]
          : [line(cx, set.records[0], joined(cx.zones.rdata(set.records[0])))],
      })
    },
  },
}

/** Whether a plain record has nothing about it in its zone either: of most records, nothing more need be looked at. */
function isQuiet(zones: Zones, set: SetView, record: RecordId): boolean {
  return (
    set.records.length === 1 &&
    !severalStrings(zones, record) &&
    noteAbove(zones.source(record).octets, zones.start(record)) < 0
  )
}

const severalStrings = (zones: Zones, record: RecordId): boolean =>
  zones.dataOctets(record) > zones.data.octets[zones.dataStart(record)] + 1

function inZones(cx: Context, set: SetView, record: RecordId, { text, leads }: Read, spf: SpfRecord): void {
  const { zones } = cx
  if (severalStrings(zones, record)) lostSpace(cx, record, text)
  endOf(cx, set, record, text, spf)
  const notes = notesAbove(zones, record)
  if (notes !== '') copiedRanges(cx, record, cx.name(set.owner), text, spf, notes)
  sizeOf(cx, set, record, text)
  if (spf.exp) explanation(cx, set, record, spf.exp)
  // Most records end here, without a name made for them.
  if (!leads) return
  const domain = cx.name(set.owner)
  for (const mechanism of spf.mechanisms) {
    const target = mechanism.name === 'mx' && mechanism.macros ? targetOf(mechanism, domain) : undefined
    const found = target && findKept(zones, target, 'MX')
    if (found && 'data' in found && found.data.length > MAX_EXCHANGES)
      tooManyExchanges(cx, record, domain, mechanism, found.data.length)
  }
  budgetOf(cx, record, domain, text, spf)
}

function explanation(cx: Context, set: SetView, record: RecordId, exp: Modifier): void {
  const { zones } = cx
  const target = targetOf(exp, cx.name(set.owner))
  const node = target === undefined ? UNKNOWN : locateName(zones, target)
  if (node === UNKNOWN || (node >= 0 && (zones.has(node, TYPE.TXT) || zones.hasCname(node)))) return
  reportText(cx, record, exp, {
    code: 'spf/explanation-missing',
    message: `SPF at ${cx.name(set.owner)}: ${exp.text}, and ${target} has no text`,
    consequence: 'Senders that fail are not told why.',
    fix: [textLine(target!, 'Mail of this domain comes from other hosts.')],
  })
}

function tooManyExchanges(cx: Context, record: RecordId, domain: Name, mechanism: Mechanism, count: number): void {
  reportText(cx, record, mechanism, {
    code: 'spf/too-many-mx',
    message: `SPF at ${domain}: ${mechanism.text} stands for ${count} exchanges`,
    consequence: `Receivers ask for ${MAX_EXCHANGES} at most, and then give up on the whole record (permerror).`,
    fix: ['list the ranges that the exchanges are in, as ip4: and ip6:'],
  })
}

/** The SPF records of kept names, each looked up once: what one record includes, others do. */
function recordsAt(cx: Context): (name: Name) => KnownSpf {
  const { records } = cx.memory(emptyMemory)
  return (name) => {
    let known = records.get(name)
    if (known === undefined) records.set(name, (known = keptSpf(cx.zones, name)))
    return known
  }
}

function budgetOf(cx: Context, record: RecordId, domain: Name, text: string, spf: SpfRecord): void {
  const { zones } = cx
  const budget = spfBudget(domain, text, recordsAt(cx))
  const whole = { start: 0, end: text.length }
  for (const [i, term] of askingTerms(spf).slice(0, MOST_FAULTS).entries()) {
    const part = budget.parts[i]
    const below = troubleIn(part)
    if (!below) continue
    if (below.trouble === 'none' && below === part)
      reportText(cx, record, term, {
        code: 'spf/include-without-record',
        message: `SPF at ${domain}: ${term.text} leads to ${below.name}, which ${locateName(zones, below.name!) === MISSING ? 'does not exist' : 'has no SPF record'}`,
        consequence: GIVES_UP,
        fix: [`write an SPF record at ${below.name}, or take ${term.text} out`],
      })
    else if (below.trouble === 'loop')
      reportText(cx, record, term, {
        code: 'spf/loop',
        message: `SPF at ${domain}: ${term.text} leads back to ${below.name === domain ? 'itself' : below.name}`,
        consequence: GIVES_UP,
        fix: [`take ${below.term} out of the record where it closes the circle`],
      })
  }
  const { total } = budget
  const least = budget.whole ? '' : 'at least '
  const costs = budget.parts.map(({ term, total: cost }) => `${term} ${cost}`)
  if (total > MAX_LOOKUPS)
    reportText(cx, record, whole, {
      code: 'spf/too-many-lookups',
      message: `SPF at ${domain} needs ${least}${total} lookups of ${MAX_LOOKUPS}: ${listed(costs, 12)}`,
      consequence: `Receivers that come to the eleventh give up on the whole record (permerror).`,
      fix: [
        'take out senders that are no longer used; put addresses (ip4:, ip6:) in the place of a: and mx: terms; give a service a name of its own below the domain to send from',
      ],
    })
  else if (total >= 8)
    reportText(cx, record, whole, {
      code: 'spf/lookups-near-limit',
      message: `SPF at ${domain} needs ${least}${total} lookups of ${MAX_LOOKUPS}: ${listed(costs, 12)}`,
      consequence:
        'One more service, or one more include at a service that is there, and receivers give up on the record.',
      fix: ['take out what is no longer used, before the next sender comes'],
    })
  tooManyVoid(cx, record, domain, spf, whole)
}

function tooManyVoid(
  cx: Context,
  record: RecordId,
  domain: Name,
  spf: SpfRecord,
  place: { start: number; end: number },
): void {
  for (const family of ['IPv4', 'IPv6'] as const) {
    const looked: Looked = { seen: new Set(), terms: 0, questions: 0, recordAt: recordsAt(cx) }
    const empty = voids(cx.zones, spf, domain, family === 'IPv4' ? 'A' : 'AAAA', looked)
    if (Math.max(empty.length, looked.questions) <= MAX_VOID_LOOKUPS) continue
    const byTerm = empty.length > MAX_VOID_LOOKUPS
    reportText(cx, record, place, {
      code: 'spf/too-many-void',
      severity: byTerm ? undefined : 'advice',
      message: byTerm
        ? `SPF at ${domain}: for ${family} senders, ${empty.length} terms find nothing (${listed(empty)})`
        : `SPF at ${domain}: for ${family} senders, ${looked.questions} questions find nothing, counted one by one (${empty.length} counted by term)`,
      consequence: byTerm
        ? `Receivers that come to the third give up on the record (permerror), for ${family} senders.`
        : `Receivers that count each exchange of an mx give up on the record (permerror), for ${family} senders; those that count terms do not.`,
      fix: [`put addresses (ip4:, ip6:) in the place of these terms, or take them out`],
    })
    break
  }
}

/** The first trouble in a tree whose parts may be shared. */
function troubleIn(node: BudgetNode, seen = new Set<BudgetNode[]>()): BudgetNode | undefined {
  if (node.trouble === 'none' || node.trouble === 'loop') return node
  if (seen.has(node.parts)) return undefined
  seen.add(node.parts)
  for (const part of node.parts) {
    const found = troubleIn(part, seen)
    if (found) return found
  }
  return undefined
}

/** Receivers have long given up. */
const MOST_TERMS = 100

const MOST_INCLUDES = 20

/** What the visits of this file share during a walk: the names that kept records include, and the records of names. */
const emptyMemory = (): { names?: Set<string>; records: Map<string, KnownSpf> } => ({ records: new Map() })

interface Looked {
  seen: Set<string>
  terms: number
  /** Questions that find nothing, each exchange of an mx counted. */
  questions: number
  recordAt: (name: Name) => KnownSpf
}

/** The terms that find nothing at known names, those of known includes with them. */
function voids(zones: Zones, spf: SpfRecord, domain: Name, family: 'A' | 'AAAA', looked: Looked): string[] {
  return askingTerms(spf).flatMap((term): string[] => {
    if (term.name === 'ptr' || ++looked.terms > MOST_TERMS) return []
    const target = targetOf(term, domain)
    if (target === undefined) return []
    if (term.name === 'include' || term.name === 'redirect') {
      const key = foldName(target)
      if (looked.seen.has(key) || looked.seen.size === MOST_INCLUDES) return []
      looked.seen.add(key)
      const known = looked.recordAt(target)
      return typeof known === 'string' ? [] : voids(zones, readSpf(known.text).record, target, family, looked)
    }
    const isEmpty = (name: Name, type: 'A' | 'AAAA' | 'MX'): boolean | undefined => {
      const found = findKept(zones, name, type)
      return found && 'trouble' in found
    }
    if (term.name !== 'mx') {
      if (!isEmpty(target, term.name === 'exists' ? 'A' : family)) return []
      looked.questions++
      return [term.text]
    }
    const found = findKept(zones, target, 'MX')
    if (!found) return []
    const exchanges =
      'data' in found ? found.data.map((each) => each.replace(/^\d+ /, '')).filter((each) => each !== '.') : []
    const empty = exchanges.slice(0, MAX_EXCHANGES).filter((each) => isEmpty(each, family) === true)
    looked.questions += exchanges.length === 0 ? 1 : empty.length
    return empty.length === exchanges.length ? [term.text] : []
  })
}

/** The note that is written above a record when an include is spelled out (see core/mail/changes.ts). */
const COPIED = /copied from include:(\S+) on (\d{4}-\d\d-\d\d): ([^;\r\n]*)/g

/** Where the comment line right above the entry at `at` begins, or -1 where there is none. */
function noteAbove(octets: Uint8Array, at: number): number {
  if (at < 2) return -1
  let start = at - 1
  while (start > 0 && octets[start - 1] !== 0x0a) start--
  return octets[start] === 0x3b ? start : -1
}

/** The comment lines right above a record’s entry. */
function notesAbove(zones: Zones, record: RecordId): string {
  if (zones.flags(record) & GENERATED) return ''
  const { octets } = zones.source(record)
  let notes = ''
  let end = zones.start(record)
  for (let start = noteAbove(octets, end); start >= 0; start = noteAbove(octets, end)) {
    notes += latin1Of(octets, start, end)
    end = start
  }
  return notes
}

/** Ranges that were copied from a record which has others now. */
function copiedRanges(cx: Context, record: RecordId, domain: Name, text: string, spf: SpfRecord, notes: string): void {
  for (const [, name, date, copied] of notes.matchAll(COPIED)) {
    const now = rangesOf(`${name.replace(/\.$/, '')}.`, (each) => keptSpf(cx.zones, each))
    if ('mistyped' in now) continue
    const current = now.terms.map(termText)
    const lacks = now.terms.filter((each) => !spf.mechanisms.some((own) => coversRange(own, each))).map(termText)
    const left = copied
      .split(' ')
      .filter((each) => each !== '' && !current.includes(each) && spf.mechanisms.some((own) => termText(own) === each))
    if (lacks.length === 0 && left.length === 0) continue
    const terms = spf.terms.filter((term) => !left.includes(termText(term)))
    const at = terms.findIndex(({ name: each }) => each === 'all')
    const added = parseSpf(`v=spf1 ${lacks.join(' ')}`).record.terms
    reportText(
      cx,
      record,
      { start: 0, end: text.length },
      {
        code: 'spf/copied-ranges-differ',
        message: `SPF at ${domain} has the ranges that ${name} had on ${date}${lacks.length > 0 ? `; it lacks ${listed(lacks)}` : ''}${left.length > 0 ? `; ${name} no longer has ${listed(left)}` : ''}`,
        consequence:
          lacks.length > 0
            ? 'What is sent from there fails.'
            : 'Whoever has these addresses now may send in the domain’s name.',
        fix: [
          line(
            cx,
            record,
            spfText(at < 0 ? [...terms, ...added] : [...terms.slice(0, at), ...added, ...terms.slice(at)]),
          ),
        ],
      },
    )
  }
}

const BEGINS = /^(?:[-+~?]?(?:(?:include|exists|ip4|ip6|a|mx|ptr):|all(?= |$))|(?:redirect|exp)=)/i

const BARE = /^[-+~?]?(?:mx|ptr|a)(?=[ /]|$)/i

/** Borders between strings at which a space was forgotten. */
function lostSpace(cx: Context, record: RecordId, text: string): void {
  const data = cx.zones.rdata(record)
  let border = 0
  for (let at = 0; at < data.length; at += data[at] + 1) {
    border += data[at]
    const left = text.slice(text.lastIndexOf(' ', border - 1) + 1, border)
    const right = text.slice(border)
    const isWhole = /^[-+~?]?(?:all|mx|a|ptr)$/i.test(left) || !/^[-+~?]?[a-z0-9]*$/i.test(left)
    if (border >= text.length || !isWhole) continue
    const bare =
      BARE.test(right) &&
      parseSpf(`v=spf1 ${left}`).problems.length === 0 &&
      parseSpf(`v=spf1 ${left}${/^[^ ]*/.exec(right)![0]}`).problems.length > 0
    if (!BEGINS.test(right) && !bare) continue
    const joined = `${left}${/^[^ ]*/.exec(right)![0]}`
    reportText(
      cx,
      record,
      { start: border, end: border + 1 },
      {
        code: 'spf/lost-space',
        message: `SPF at ${cx.name(cx.zones.owner(record))}: two strings join to “${shortened(joined)}”, without a space between the terms`,
        consequence: GIVES_UP,
        fix: [line(cx, record, `${text.slice(0, border)} ${right}`)],
      },
    )
    return
  }
}

function endOf(
  cx: Context,
  set: SetView,
  record: RecordId,
  text: string,
  { all, redirect, mechanisms }: SpfRecord,
): void {
  if (all ? all.qualifier !== '?' : redirect) return
  // Records that exist to be included need no end of their own.
  const included = cx.memory(emptyMemory)
  if (labelsOf(cx.name(set.owner))[0]?.startsWith('_')) return
  included.names ??= includedNames(cx.zones)
  if (included.names.has(cx.name(set.owner).toLowerCase())) return
  const last = all ?? mechanisms[mechanisms.length - 1] ?? { start: 0, end: text.length }
  reportText(cx, record, last, {
    code: 'spf/neutral-end',
    message: `SPF at ${cx.name(set.owner)} ${all ? `ends with ${all.text}` : 'ends with neither “all” nor redirect='}`,
    consequence: 'Of everybody else it says nothing: forged mail is neither refused nor suspected.',
    fix: [line(cx, record, withEnd(text, '~'))],
  })
}

/** The names that a kept record includes or redirects to, in lower case. */
function includedNames(zones: Zones): Set<string> {
  const found = new Set<string>()
  for (let record = 0; record < zones.count; record++) {
    if (zones.type(record) !== TYPE.TXT) continue
    const { record: spf } = SPF_READ.of(zones, record)
    for (const term of spf?.terms ?? [])
      if (term.name === 'include' || term.name === 'redirect') {
        const target = targetOf(term, zones.tree.text(zones.owner(record)))
        if (target) found.add(target.toLowerCase())
      }
  }
  return found
}

/** Octets of an answer before its records (RFC 1035 §4.1.1), beside the question’s name. */
const HEADER = 12

const QUESTION = 4

/** Of a record whose owner is a pointer: that, type, class, TTL and length. */
const RECORD = 12

const PLAIN_UDP = 512

function sizeOf(cx: Context, set: SetView, record: RecordId, text: string): void {
  const { zones } = cx
  if (text.length < 200 && set.records.length === 1) return
  const name = nameToWire(cx.name(set.owner)) as Uint8Array
  const size =
    HEADER +
    wireNameLength(name, 0) +
    QUESTION +
    set.records.reduce((sum, each) => sum + RECORD + zones.dataOctets(each), 0)
  if (size <= PLAIN_UDP) return
  reportText(
    cx,
    record,
    { start: 0, end: text.length },
    {
      code: 'spf/long',
      message: `the answer with the texts of ${cx.name(set.owner)} has ${size} octets, of which its SPF record ${zones.dataOctets(record)}`,
      consequence: `Over ${PLAIN_UDP} octets, resolvers without EDNS have to ask again by TCP, and some firewalls let neither through.`,
      fix: ['move other texts to names of their own, or senders to a record that is included'],
    },
  )
}

export const bare = (text: string): string => `@ TXT "v=spf1 ${text}"`
