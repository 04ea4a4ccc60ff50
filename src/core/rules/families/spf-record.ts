/** What is wrong inside an SPF record, and with the records that it leads to. One reading serves all these rules. */
import { locateName, MISSING, UNKNOWN } from '../../knowledge/answer.ts'
import { findKept } from '../../mail/lookup.ts'
import { askingTerms, type BudgetNode, type KnownSpf, spfBudget, targetOf } from '../../mail/spf/budget.ts'
import { MAX_EXCHANGES, MAX_LOOKUPS, MAX_VOID_LOOKUPS } from '../../mail/spf/check-host.ts'
import { maskedRange, shareAllowed, withEnd, withoutRepeats } from '../../mail/spf/merge.ts'
import { rangesOf } from '../../mail/spf/ranges.ts'
import {
  coversRange,
  isMeantAsMechanism,
  isSpf,
  type Mechanism,
  type Modifier,
  parseSpf,
  readSpf,
  type SpfRecord,
  type SpfTerm,
  spfText,
  termText,
} from '../../mail/spf/record.ts'
import type { TextProblem } from '../../mail/tags.ts'
import { shortened } from '../../mail/tags.ts'
import { GENERATED, type RecordId, type Zones } from '../../model/zones.ts'
import { specialNetwork } from '../../names/address-kinds.ts'
import { foldName, labelsOf, type Name, nameToWire, wireNameLength } from '../../names/name.ts'
import { latin1Of } from '../../names/octets.ts'
import { NONE } from '../../names/tree.ts'
import { TYPE } from '../../records/types.ts'
import { joined } from '../../records/views.ts'
import { listed } from '../look.ts'
import type { Context, Rule, SetView, Severity } from '../rule.ts'
import { corrected, line, reportText, spfRecordAt, TextMemory, textLine } from '../text.ts'
import { SEVERAL, SEVERAL_STRINGS, SPF_TEXT } from '../traits.ts'

/** Something to say of a text alone, whatever the zones have. */
interface Fault extends TextProblem {
  code: string
  consequence: string
  fix: (cx: Context, record: RecordId, text: string) => string[]
  severity?: Severity
}

interface Read {
  text: string
  record?: SpfRecord
  faults: Fault[]
  /** Whether what it leads to must be looked at: an include, a redirect, three terms that ask. */
  leads: boolean
  /** One string, with an end, that leads nowhere: there is nothing to say of it in its zone. */
  plain: boolean
  /** Whether it lets the domain’s own exchanges send, whatever else there is in it. */
  letsExchanges: boolean
}

const GIVES_UP = 'Receivers give up on the whole record (permerror): by SPF, mail of every sender fails.'
const sound = (text: string): boolean => isSpf(text) && parseSpf(text).problems.length === 0

/** SPF records as they were read, and what there is to say of their texts. */
export const SPF_READ = new TextMemory<Read>((text) => {
  if (!isSpf(text)) return { text, faults: misspelt(text), leads: false, plain: false, letsExchanges: false }
  const { record, problems } = readSpf(text)
  const faults = problems.map(
    (problem): Fault => ({
      ...problem,
      code: problem.kind === 'modifier-twice' ? 'spf/modifier-twice' : 'spf/syntax',
      consequence: GIVES_UP,
      fix: (cx, at) => corrected(cx, at, text, problem, sound),
    }),
  )
  const asking = askingTerms(record)
  const leads = asking.length > 2 || asking.some(({ name, macros }) => name === 'include' || name === 'redirect' || (name === 'mx' && macros))
  const ends = record.all ? record.all.qualifier !== '?' : record.redirect !== undefined
  return {
    text,
    record,
    plain: !leads && ends && !record.exp && text.length < 200,
    faults: [...faults, ...faultsOf(text, record)],
    leads,
    letsExchanges: letsExchanges(record),
  }
})

/** An `mx` of the domain itself, with nothing in front that could take senders away. */
function letsExchanges({ mechanisms }: SpfRecord): boolean {
  const at = mechanisms.findIndex(({ name, qualifier, macros }) => name === 'mx' && qualifier === '+' && !macros)
  return at >= 0 && mechanisms.slice(0, at).every(({ qualifier }) => qualifier === '+')
}

/** Texts that were meant to be SPF records. It shows in their first few characters; blanks among these may be many. */
const MISSPELT = /^\s*(?:v\s*[=:]?\s*spf|spf\s*v?\s*1?[ =:]\s*(?:v=|[-+~?]?(?:all|mx|a|ip4|ip6|include)\b))/i
const VERSION = /^\s*(?:v\s*[=:]?\s*)?spf\s*\.?v?\s*(?:1(?:\.0)?)?[:=;,]*\s*(?:v=spf1\s*)?/i
const FEW = 64

function misspelt(text: string): Fault[] {
  if (/^spf2\.0\//i.test(text))
    return [
      {
        kind: 'version',
        start: 0,
        end: text.search(/ |$/),
        message: 'this is a record of Sender ID, which nobody looks at any more',
        wanted: 'v=spf1',
        code: 'spf/version',
        severity: 'advice',
        consequence: 'It says nothing to receivers.',
        fix: () => ['take it out; the v=spf1 record is the one that counts'],
      },
    ]
  const beginning = text.slice(0, FEW)
  if (!MISSPELT.test(beginning)) return []
  const version = VERSION.exec(beginning)?.[0].length ?? 0
  const rest = text.slice(version)
  const end = Math.max(1, version)
  return [
    {
      kind: 'version',
      start: 0,
      end,
      message: `“${shortened(text.slice(0, end).trim() || text)}” is not v=spf1 and a space`,
      wanted: 'v=spf1 ',
      code: 'spf/version',
      consequence: 'Receivers do not take it for an SPF record: the domain has none.',
      fix: (cx, record) => [line(cx, record, `v=spf1 ${rest}`.trim())],
    },
  ]
}

/** More of one text say nothing new. */
const MOST_FAULTS = 20

function faultsOf(text: string, record: SpfRecord): Fault[] {
  const found: Fault[] = []
  const say = (
    code: string,
    { start, end }: { start: number; end: number },
    message: string,
    consequence: string,
    fix: Fault['fix'],
    severity?: Severity,
  ): void => {
    if (found.length < MOST_FAULTS) found.push({ kind: '', wanted: '', code, start, end, message, consequence, fix, severity })
  }
  const written =
    (terms: readonly SpfTerm[]): Fault['fix'] =>
    (cx, at) => [line(cx, at, spfText(terms))]
  const { mechanisms, all, redirect, terms } = record
  const whole = { start: 0, end: text.length }
  if (all?.qualifier === '+')
    say('spf/allows-everyone', all, `${all.text} lets every host on earth send`, 'Anybody can send in the domain’s name, and passes.', (cx, at) => [
      line(cx, at, withEnd(text, '~')),
    ])
  else {
    const wide = mechanisms.find(
      ({ qualifier, name, bits4, bits6, network }) =>
        qualifier === '+' && (name === 'a' || name === 'mx' || network) && (network?.length === 16 ? bits6 <= 3 : bits4 <= 1 || (!network && bits6 <= 3)),
    )
    const family = wide ? 'a family' : shareAllowed(mechanisms, 4) >= 0.5 ? 'IPv4' : shareAllowed(mechanisms, 16) >= 0.125 ? 'IPv6' : undefined
    if (family)
      say(
        'spf/allows-everyone',
        wide ?? whole,
        `${wide ? wide.text : `the ranges together`} let${wide ? 's' : ''} (almost) every address of ${family} send`,
        'Anybody can send in the domain’s name, and passes.',
        () => ['list the hosts that send'],
      )
  }
  if (all) {
    const behind = mechanisms.slice(mechanisms.indexOf(all) + 1)
    if (behind.length > 0)
      say(
        'spf/after-all',
        { start: behind[0].start, end: behind[behind.length - 1].end },
        `${listed(behind.map((each) => each.text))} ${behind.length === 1 ? 'stands' : 'stand'} behind ${all.text}`,
        'Receivers stop at “all”: what is behind it lets nobody send.',
        written([...mechanisms.filter((each) => each.name !== 'all'), all, ...terms.filter((each) => each.kind === 'modifier')]),
      )
    if (redirect)
      say(
        'spf/redirect-ignored',
        redirect,
        `${redirect.text} stands beside ${all.text}`,
        'Receivers pass the redirect over.',
        written(terms.filter((each) => each !== redirect)),
      )
  }
  const counting = all ? mechanisms.slice(0, mechanisms.indexOf(all)) : mechanisms
  const { kept, left } = withoutRepeats(counting)
  for (const { term, outer } of left.slice(0, MOST_FAULTS))
    say(
      outer ? 'spf/covered-term' : 'spf/duplicate-term',
      term,
      outer ? `${termText(term)} lets nobody send that is not let already: ${termText(outer)} has it in it` : `${termText(term)} is there twice`,
      outer ? 'The record is longer than it need be.' : 'It costs a second question, and says nothing new.',
      written([...kept, ...(all ? [all] : []), ...terms.filter((each) => each.kind === 'modifier')]),
    )
  for (const term of terms)
    if (term.kind === 'modifier' && isMeantAsMechanism(term))
      say(
        'spf/mechanism-as-modifier',
        term,
        `${shortened(term.text)} has “=” where a colon belongs`,
        'Receivers take it for a modifier that they do not know, and pass it over: it lets nobody send.',
        (cx, at) => corrected(cx, at, text, { ...term, kind: '', message: '', wanted: `${term.name}:${term.value}` }, sound),
      )
  for (const mechanism of mechanisms) {
    if (found.length === MOST_FAULTS) break
    if (mechanism.name === 'ptr')
      say(
        'spf/ptr',
        mechanism,
        `${mechanism.text} lets whoever has a name below the domain send`,
        'It is slow, large receivers skip it, and it should not be used.',
        written(terms.filter((each) => each !== mechanism)),
      )
    const masked = maskedRange(mechanism)
    if (masked)
      say(
        'spf/host-bits',
        mechanism,
        `${mechanism.text} is the range ${masked.replace(/^ip[46]:/, '')}: the bits behind the prefix do not count`,
        'Somebody may have meant a single address, or another range.',
        (cx, at) => corrected(cx, at, text, { ...mechanism, kind: '', message: '', wanted: masked }, sound),
      )
    const special = mechanism.network && mechanism.qualifier === '+' ? specialNetwork(mechanism.network) : undefined
    if (special?.unreachable && (mechanism.network!.length === 4 ? mechanism.bits4 : mechanism.bits6) >= special.bits)
      say(
        'spf/private-address',
        mechanism,
        `${mechanism.text} is in ${special.text} (${special.kind})`,
        'No receiver outside ever sees mail from there: the term lets nobody send.',
        written(terms.filter((each) => each !== mechanism)),
      )
  }
  return found
}

const VISIT: Rule['visit'] = {
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
          if (read.record && !(read.plain && isQuiet(cx.zones, set, record))) inZones(cx, set, record, read, read.record)
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
        else if (!read!.leads) tooManyVoid(cx, text, cx.name(set.owner), read!.record!, { start: own.start, end: own.end })
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
  return set.records.length === 1 && !severalStrings(zones, record) && noteAbove(zones.source(record).octets, zones.start(record)) < 0
}

const severalStrings = (zones: Zones, record: RecordId): boolean => zones.dataOctets(record) > zones.data.octets[zones.dataStart(record)] + 1

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
    if (found && 'data' in found && found.data.length > MAX_EXCHANGES) tooManyExchanges(cx, record, domain, mechanism, found.data.length)
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

/** The SPF record of a kept name. */
export function keptSpf(zones: Zones, name: Name): KnownSpf {
  const found = findKept(zones, name, 'TXT')
  if (!found) return 'unknown'
  const texts = 'data' in found ? found.data.filter(isSpf) : []
  return texts.length === 0 ? 'none' : new Set(texts).size > 1 ? 'several' : { text: texts[0] }
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
      consequence: 'One more service, or one more include at a service that is there, and receivers give up on the record.',
      fix: ['take out what is no longer used, before the next sender comes'],
    })
  tooManyVoid(cx, record, domain, spf, whole)
}

function tooManyVoid(cx: Context, record: RecordId, domain: Name, spf: SpfRecord, place: { start: number; end: number }): void {
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
    const exchanges = 'data' in found ? found.data.map((each) => each.replace(/^\d+ /, '')).filter((each) => each !== '.') : []
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
    const left = copied.split(' ').filter((each) => each !== '' && !current.includes(each) && spf.mechanisms.some((own) => termText(own) === each))
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
        consequence: lacks.length > 0 ? 'What is sent from there fails.' : 'Whoever has these addresses now may send in the domain’s name.',
        fix: [line(cx, record, spfText(at < 0 ? [...terms, ...added] : [...terms.slice(0, at), ...added, ...terms.slice(at)]))],
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
      BARE.test(right) && parseSpf(`v=spf1 ${left}`).problems.length === 0 && parseSpf(`v=spf1 ${left}${/^[^ ]*/.exec(right)![0]}`).problems.length > 0
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

function endOf(cx: Context, set: SetView, record: RecordId, text: string, { all, redirect, mechanisms }: SpfRecord): void {
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
  const size = HEADER + wireNameLength(name, 0) + QUESTION + set.records.reduce((sum, each) => sum + RECORD + zones.dataOctets(each), 0)
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

const bare = (text: string): string => `@ TXT "v=spf1 ${text}"`

export const spfSyntax: Rule = {
  code: 'spf/syntax',
  severity: 'error',
  source: 'RFC 7208 §4.6.1, §7, §12',
  title: 'a term that is none, or one with a fault in it',
  why: 'One fault anywhere makes receivers give up on the whole record, also for senders that stand before it.',
  remedy: 'Write the term as it should be; the finding points at it.',
  bad: ['ip4:192.0.2.300 -all', 'mx moo -all', 'a:192.0.2.25 -all', 'ip4:192.0.2.0/33 -all', 'include: -all', 'exists:%{x}.hollowmere.example -all'].map(bare),
  good: ['mx a:out.larkpost.example ip4:192.0.2.0/24 ip6:2001:db8::/32 exists:%{ir}._list.larkpost.example -all'].map(bare),
  visit: VISIT,
}

export const spfVersion: Rule = {
  code: 'spf/version',
  severity: 'error',
  source: 'RFC 7208 §4.5',
  title: 'a text that was meant to be an SPF record, and is none by its first word',
  why: 'Receivers look for “v=spf1” and a space behind it. Anything else is another text: the domain has no SPF record.',
  remedy: 'Begin with v=spf1 and a space.',
  bad: [
    '@ TXT "v=spf1; mx -all"',
    '@ TXT "spf1 mx -all"',
    '@ TXT "v=spf2 mx -all"',
    '@ TXT "v=spf1:mx -all"',
    '@ TXT "spf2.0/pra mx -all"\n@ TXT "v=spf1 mx -all"',
  ],
  good: ['@ TXT "v=spf1 mx -all"', '@ TXT "V=SPF1 -all"', '@ TXT "spfx is a ferry"'],
  visit: VISIT,
}

export const spfTooManyLookups: Rule = {
  code: 'spf/too-many-lookups',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'a record that needs more than ten lookups, its includes counted',
  why: 'Each include, a, mx, ptr, exists and redirect costs one, in included records too. Receivers stop at the eleventh and give up on the record: mail fails although its sender is listed.',
  remedy: 'Take out senders that are not used any more; write addresses in the place of names; send newsletters from a name below the domain.',
  bad: [
    `@ TXT "v=spf1 ${Array.from({ length: 11 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`,
    `@ TXT "v=spf1 mx a include:_spf.hollowmere.example -all"\n@ MX 10 mx.larkpost.example.\n@ A 192.0.2.10\n_spf TXT "v=spf1 ${Array.from({ length: 8 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`,
  ],
  good: [`@ TXT "v=spf1 ${Array.from({ length: 10 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  visit: VISIT,
}

export const spfLookupsNearLimit: Rule = {
  code: 'spf/lookups-near-limit',
  severity: 'advice',
  source: 'RFC 7208 §4.6.4',
  title: 'a record that needs eight lookups or more of ten',
  why: 'A service that adds an include to its own record uses up yours, and nobody tells you.',
  remedy: 'Make room before it is needed.',
  bad: [`@ TXT "v=spf1 ${Array.from({ length: 8 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  good: [`@ TXT "v=spf1 ${Array.from({ length: 7 }, (_, i) => `a:h${i}.larkpost.example`).join(' ')} -all"`],
  visit: VISIT,
}

export const spfTooManyVoid: Rule = {
  code: 'spf/too-many-void',
  severity: 'warning',
  source: 'RFC 7208 §4.6.4',
  title: 'more than two terms that find nothing',
  why: 'Receivers give up at the third; some count terms, others each question, so that every exchange of an mx without an address counts. Hosts without IPv6 count as nothing for a sender with IPv6, and the other way round.',
  remedy: 'Write addresses in the place of such terms.',
  bad: [
    '@ TXT "v=spf1 a:one.hollowmere.example a:two.hollowmere.example a:three.hollowmere.example -all"\none A 192.0.2.1\ntwo A 192.0.2.2\nthree A 192.0.2.3',
    '@ TXT "v=spf1 mx -all"\n@ MX 1 one\n@ MX 2 two\n@ MX 3 three\none A 192.0.2.1\ntwo A 192.0.2.2\nthree A 192.0.2.3',
  ],
  good: ['@ TXT "v=spf1 a:one.hollowmere.example a:two.hollowmere.example a:x.larkpost.example -all"\none A 192.0.2.1\ntwo A 192.0.2.2'],
  visit: VISIT,
}

export const spfTooManyMx: Rule = {
  code: 'spf/too-many-mx',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'an mx term on a domain with more than ten exchanges',
  why: 'Receivers ask for the addresses of ten, and give up on the record at the eleventh.',
  remedy: 'List ranges in its place.',
  bad: [`@ TXT "v=spf1 mx -all"\n${Array.from({ length: 11 }, (_, i) => `@ MX ${i} m${i}.larkpost.example.`).join('\n')}`],
  good: [`@ TXT "v=spf1 mx -all"\n${Array.from({ length: 10 }, (_, i) => `@ MX ${i} m${i}.larkpost.example.`).join('\n')}`],
  visit: VISIT,
}

export const spfIncludeWithoutRecord: Rule = {
  code: 'spf/include-without-record',
  severity: 'error',
  source: 'RFC 7208 §5.2, §6.1',
  title: 'an include or redirect of a kept name that has no SPF record',
  why: 'Including nothing is no small matter: it makes the whole record a permanent error.',
  remedy: 'Write the record there, or take the term out.',
  bad: [
    '@ TXT "v=spf1 include:_spf.hollowmere.example -all"',
    '@ TXT "v=spf1 include:www.hollowmere.example -all"\nwww A 192.0.2.10',
    '@ TXT "v=spf1 include:_spf.%{d2} -all"',
    '@ TXT "v=spf1 include:_spf.%{o} -all"',
    { zones: { 'hollowmere.example': '@ TXT "v=spf1 redirect=_spf.lakepass.example"', 'lakepass.example': 'www A 192.0.2.10' } },
  ],
  good: [
    '@ TXT "v=spf1 include:_spf.hollowmere.example -all"\n_spf TXT "v=spf1 ip4:192.0.2.25"',
    '@ TXT "v=spf1 include:_spf.larkpost.example -all"',
    '@ TXT "v=spf1 include:%{i}._spf.hollowmere.example -all"',
  ],
  visit: VISIT,
}

export const spfLoop: Rule = {
  code: 'spf/loop',
  severity: 'error',
  source: 'RFC 7208 §4.6.4',
  title: 'a chain of includes or redirects that leads back',
  why: 'Receivers follow it until the tenth lookup, and give up on the record.',
  remedy: 'Take the term out that closes the circle.',
  silences: ['spf/too-many-lookups', 'spf/lookups-near-limit'],
  bad: ['@ TXT "v=spf1 include:hollowmere.example -all"'],
  good: [
    '@ TXT "v=spf1 include:_one.hollowmere.example include:_two.hollowmere.example -all"\n_one TXT "v=spf1 ip4:192.0.2.25"\n_two TXT "v=spf1 include:_one.hollowmere.example"',
  ],
  visit: VISIT,
}

export const spfAllowsEveryone: Rule = {
  code: 'spf/allows-everyone',
  severity: 'error',
  source: 'practice',
  title: 'a record that lets (almost) everybody send',
  why: 'Mail from anywhere passes. It is worse than no record: forged mail comes with a pass.',
  remedy: 'End with ~all or -all, and list the hosts that send.',
  bad: ['mx +all', 'mx all', 'ip4:0.0.0.0/0 -all', 'ip4:0.0.0.0/1 ip4:128.0.0.0/1 -all', 'a/0 -all', 'ip6:2000::/3 -all'].map(
    (each) => `${bare(each)}\n@ A 192.0.2.10\n@ AAAA 2001:db8::10`,
  ),
  good: ['-all', 'ip4:192.0.2.0/24 ~all', '-ip4:0.0.0.0/0 ip6:2001:db8::/32 -all'].map(bare),
  visit: VISIT,
}

export const spfNeutralEnd: Rule = {
  code: 'spf/neutral-end',
  severity: 'warning',
  source: 'RFC 7208 §4.7',
  title: 'a record that says nothing of everybody else',
  why: 'With ?all, or with neither “all” nor redirect, a sender that is not listed is neutral: as if there were no record.',
  remedy: 'End with ~all; or with -all where nothing else sends.',
  bad: ['mx ?all', 'mx', 'include:_spf.larkpost.example'].map(bare),
  good: [
    '@ TXT "v=spf1 mx ~all"',
    '_spf TXT "v=spf1 ip4:192.0.2.25 ?all"',
    '@ TXT "v=spf1 include:spf.hollowmere.example -all"\nspf TXT "v=spf1 ip4:192.0.2.25"',
    '@ TXT "v=spf1 redirect=_spf.larkpost.example"',
  ],
  visit: VISIT,
}

export const spfAfterAll: Rule = {
  code: 'spf/after-all',
  severity: 'warning',
  source: 'RFC 7208 §5.1',
  title: 'terms behind “all”',
  why: 'Receivers stop at “all”. Senders that were added behind it do not pass.',
  remedy: 'Put them in front of it.',
  bad: ['mx ~all include:_spf.larkpost.example', '-all ip4:192.0.2.25'].map(bare),
  good: ['mx -all exp=why.larkpost.example'].map(bare),
  visit: VISIT,
}

export const spfRedirectIgnored: Rule = {
  code: 'spf/redirect-ignored',
  severity: 'warning',
  source: 'RFC 7208 §6.1',
  title: 'a redirect beside “all”',
  why: 'A redirect counts only where nothing matches, and “all” always does.',
  remedy: 'Take “all” out, or the redirect.',
  bad: ['mx redirect=_spf.larkpost.example ~all'].map(bare),
  good: ['mx redirect=_spf.larkpost.example'].map(bare),
  visit: VISIT,
}

export const spfModifierTwice: Rule = {
  code: 'spf/modifier-twice',
  severity: 'error',
  source: 'RFC 7208 §6',
  title: 'redirect or exp twice',
  why: 'Each may be there once. Twice is a fault of the whole record.',
  remedy: 'Keep one.',
  bad: ['redirect=_spf.larkpost.example redirect=_spf.quillwing.example', 'exp=a.larkpost.example exp=b.larkpost.example -all'].map(bare),
  good: ['moo=1 moo=2 exp=a.larkpost.example -all'].map(bare),
  visit: VISIT,
}

export const spfMechanismAsModifier: Rule = {
  code: 'spf/mechanism-as-modifier',
  severity: 'warning',
  source: 'RFC 7208 §6',
  title: 'a term of SPF with “=” in place of the colon',
  why: 'With “=” it is a modifier. Receivers know redirect= and exp=, and pass over all others: the hosts that were meant do not pass.',
  remedy: 'Write a colon.',
  bad: ['include=_spf.larkpost.example ~all', 'mx ip4=192.0.2.0/24 -all'].map(bare),
  good: ['include:_spf.larkpost.example ~all', 'mx moo=ferry -all'].map(bare),
  visit: VISIT,
}

export const spfPtr: Rule = {
  code: 'spf/ptr',
  severity: 'warning',
  source: 'RFC 7208 §5.5',
  title: 'the term ptr',
  why: 'It loads the reverse tree with questions, is slow, and should not be published. Large receivers skip it.',
  remedy: 'List the hosts or ranges.',
  bad: ['ptr -all', 'ptr:hollowmere.example -all'].map(bare),
  good: ['a:out.larkpost.example -all'].map(bare),
  visit: VISIT,
}

export const spfDuplicateTerm: Rule = {
  code: 'spf/duplicate-term',
  severity: 'advice',
  source: 'practice',
  title: 'a term that is there twice',
  why: 'Each include or a costs a lookup, also the second time.',
  remedy: 'Keep the first.',
  bad: ['include:_spf.larkpost.example mx include:_SPF.larkpost.example -all'].map(bare),
  good: ['include:_spf.larkpost.example include:_spf.quillwing.example -all'].map(bare),
  visit: VISIT,
}

export const spfCoveredTerm: Rule = {
  code: 'spf/covered-term',
  severity: 'advice',
  source: 'practice',
  title: 'an address or a range inside a range of the record',
  why: 'It says nothing new, and makes the record long.',
  remedy: 'Take it out.',
  bad: ['ip4:192.0.2.0/24 ip4:192.0.2.25 -all', 'ip6:2001:db8::/48 ip6:2001:db8::/32 -all'].map(bare),
  good: ['ip4:192.0.2.0/25 ip4:192.0.2.200 -all', '-ip4:192.0.2.25 ip4:192.0.2.0/24 -all'].map(bare),
  visit: VISIT,
}

export const spfHostBits: Rule = {
  code: 'spf/host-bits',
  severity: 'advice',
  source: 'RFC 7208 §5.6',
  title: 'address bits beyond the prefix',
  why: 'They do not count. Perhaps one address was meant, and 255 others are let in.',
  remedy: 'Write the range as it is, or the one address.',
  bad: ['ip4:192.0.2.25/24 -all', 'ip6:2001:db8::1/32 -all'].map(bare),
  good: ['ip4:192.0.2.0/24 ip4:192.0.2.25/32 -all'].map(bare).map((each) => each.replace(' ip4:192.0.2.25/32', '')),
  visit: VISIT,
}

export const spfPrivateAddress: Rule = {
  code: 'spf/private-address',
  severity: 'warning',
  source: 'RFC 6890',
  title: 'an address in SPF that nobody outside ever sees',
  why: 'Receivers see the address that mail leaves your network with. A private one never reaches them.',
  remedy: 'Write the public address of the gateway that mail leaves by.',
  bad: ['ip4:10.1.2.0/24 -all', 'ip4:192.168.1.5 mx -all', 'ip6:fd00::1 -all'].map(bare),
  good: ['ip4:192.0.2.0/24 -all'].map(bare),
  visit: VISIT,
}

export const spfLostSpace: Rule = {
  code: 'spf/lost-space',
  severity: 'error',
  source: 'RFC 7208 §3.3',
  title: 'two strings that join two terms',
  why: 'Strings are joined without anything between them. A record that was cut between two terms needs its space at the end of the first string or the beginning of the second.',
  remedy: 'Put the space inside the quotes.',
  silences: ['spf/syntax', 'spf/neutral-end', 'spf/include-without-record'],
  bad: [
    '@ TXT "v=spf1 include:_spf.larkpost.example" "include:_spf.quillwing.example -all"',
    '@ TXT "v=spf1 include:_spf.larkpost.example" "-all"',
    '@ TXT "v=spf1 ip4:192.0.2.25" "mx -all"',
  ],
  good: [
    '@ TXT "v=spf1 include:_spf.larkpost.example" " include:_spf.quillwing.example -all"',
    '@ TXT "v=spf1 include:_spf.lark" "post.example -all"',
    '@ TXT "v=spf1 inc" "lude:_spf.larkpost.example -all"',
  ],
  visit: VISIT,
}

export const spfLong: Rule = {
  code: 'spf/long',
  severity: 'advice',
  source: 'RFC 7208 §3.4',
  title: 'an answer with the SPF record that passes 512 octets',
  why: 'All texts of a name come in one answer. Over 512 octets it needs EDNS or TCP, which not every path lets through.',
  remedy: 'Move proofs and other texts elsewhere, or ranges into a record of their own that is included.',
  bad: [`@ TXT "v=spf1 mx -all"\n@ TXT "${'ferry-proof='.padEnd(240, 'a')}"\n@ TXT "${'ferry-proof='.padEnd(240, 'b')}"`],
  good: [`@ TXT "v=spf1 mx -all"\n@ TXT "${'ferry-proof='.padEnd(240, 'a')}"`],
  visit: VISIT,
}

export const spfObsoleteType: Rule = {
  code: 'spf/obsolete-type',
  severity: 'warning',
  source: 'RFC 7208 §3.1',
  title: 'a record of the type SPF (99)',
  why: 'The type was given up: receivers ask for TXT alone. Two records that drift apart confuse whoever looks after them.',
  remedy: 'Keep the TXT record, and take the other out.',
  bad: ['@ SPF "v=spf1 mx -all"', '@ SPF "v=spf1 mx -all"\n@ TXT "v=spf1 mx -all"'],
  good: ['@ TXT "v=spf1 mx -all"'],
  visit: VISIT,
}

const SPELLED = '_spf TXT "v=spf1 ip4:192.0.2.0/26 ip4:192.0.2.128/27 ~all"'

export const spfCopiedRanges: Rule = {
  code: 'spf/copied-ranges-differ',
  severity: 'warning',
  source: 'practice',
  title: 'addresses that were copied from an include, which has others now',
  why: 'An include is read anew for each message; what was copied from it stays as it was. New servers of the service then fail, and old addresses may be somebody else’s.',
  remedy: 'Copy them anew, or go back to the include.',
  bad: [
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/26\n@ TXT "v=spf1 ip4:192.0.2.0/26 -all"\n${SPELLED}`,
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/25\n@ TXT "v=spf1 ip4:192.0.2.0/25 ip4:192.0.2.128/27 -all"\n${SPELLED}`,
  ],
  good: [
    `; copied from include:_spf.hollowmere.example on 2026-01-05: ip4:192.0.2.0/26 ip4:192.0.2.128/27\n@ TXT "v=spf1 ip4:192.0.2.0/26 ip4:192.0.2.128/27 mx -all"\n${SPELLED}`,
    '; copied from include:_spf.larkpost.example on 2026-01-05: ip4:192.0.2.0/26\n@ TXT "v=spf1 ip4:192.0.2.0/26 -all"',
  ],
  visit: VISIT,
}

export const spfExplanationMissing: Rule = {
  code: 'spf/explanation-missing',
  severity: 'advice',
  source: 'RFC 7208 §6.2',
  title: 'an explanation (exp=) that is not there',
  why: 'Receivers that would tell the sender why find nothing to tell.',
  remedy: 'Write the text at the name, or take exp= out.',
  bad: ['@ TXT "v=spf1 mx -all exp=why.hollowmere.example"'],
  good: ['@ TXT "v=spf1 mx -all exp=why.hollowmere.example"\nwhy TXT "See www.hollowmere.example"', '@ TXT "v=spf1 mx -all exp=why.larkpost.example"'],
  visit: VISIT,
}
