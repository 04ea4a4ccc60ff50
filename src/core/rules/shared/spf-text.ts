/** What is wrong inside an SPF record, and with the records that it leads to. One reading serves all these rules. */

import { findKept } from '../../mail/lookup.ts'
import { askingTerms, type KnownSpf } from '../../mail/spf/budget.ts'
import { maskedRange, shareAllowed, withEnd, withoutRepeats } from '../../mail/spf/merge.ts'
import {
  isMeantAsMechanism,
  isSpf,
  parseSpf,
  readSpf,
  type SpfRecord,
  type SpfTerm,
  spfText,
  termText,
} from '../../mail/spf/record.ts'
import { shortened, type TextProblem } from '../../mail/tags.ts'
import type { RecordId, Zones } from '../../model/zones.ts'
import { specialNetwork } from '../../names/address-kinds.ts'
import type { Name } from '../../names/name.ts'
import { listed } from '../look.ts'
import type { Context, Severity } from '../rule.ts'
import { corrected, line, TextMemory } from '../text.ts'

/** Something to say of a text alone, whatever the zones have. */
interface Fault extends TextProblem {
  code: string
  consequence: string
  fix: (cx: Context, record: RecordId, text: string) => string[]
  severity?: Severity
}

export interface Read {
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

export const GIVES_UP = 'Receivers give up on the whole record (permerror): by SPF, mail of every sender fails.'

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
  const leads =
    asking.length > 2 ||
    asking.some(({ name, macros }) => name === 'include' || name === 'redirect' || (name === 'mx' && macros))
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
export const MOST_FAULTS = 20

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
    if (found.length < MOST_FAULTS)
      found.push({ kind: '', wanted: '', code, start, end, message, consequence, fix, severity })
  }
  const written =
    (terms: readonly SpfTerm[]): Fault['fix'] =>
    (cx, at) => [line(cx, at, spfText(terms))]
  const { mechanisms, all, redirect, terms } = record
  const whole = { start: 0, end: text.length }
  if (all?.qualifier === '+')
    say(
      'spf/allows-everyone',
      all,
      `${all.text} lets every host on earth send`,
      'Anybody can send in the domain’s name, and passes.',
      (cx, at) => [line(cx, at, withEnd(text, '~'))],
    )
  else {
    const wide = mechanisms.find(
      ({ qualifier, name, bits4, bits6, network }) =>
        qualifier === '+' &&
        (name === 'a' || name === 'mx' || network) &&
        (network?.length === 16 ? bits6 <= 3 : bits4 <= 1 || (!network && bits6 <= 3)),
    )
    const family = wide
      ? 'a family'
      : shareAllowed(mechanisms, 4) >= 0.5
        ? 'IPv4'
        : shareAllowed(mechanisms, 16) >= 0.125
          ? 'IPv6'
          : undefined
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
        written([
          ...mechanisms.filter((each) => each.name !== 'all'),
          all,
          ...terms.filter((each) => each.kind === 'modifier'),
        ]),
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
      outer
        ? `${termText(term)} lets nobody send that is not let already: ${termText(outer)} has it in it`
        : `${termText(term)} is there twice`,
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
        (cx, at) =>
          corrected(cx, at, text, { ...term, kind: '', message: '', wanted: `${term.name}:${term.value}` }, sound),
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

/** The SPF record of a kept name. */
export function keptSpf(zones: Zones, name: Name): KnownSpf {
  const found = findKept(zones, name, 'TXT')
  if (!found) return 'unknown'
  const texts = 'data' in found ? found.data.filter(isSpf) : []
  return texts.length === 0 ? 'none' : new Set(texts).size > 1 ? 'several' : { text: texts[0] }
}
