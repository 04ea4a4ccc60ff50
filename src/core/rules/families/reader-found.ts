/** Faults that the reader meets, because they keep it from reading a record, or others read it differently: each is one of its problems, spoken of by one rule. */

import type { Source } from '../../model/zones.ts'
import type { Problem, ProblemKind } from '../../records/tokens.ts'
import { MAX_TTL } from '../../records/ttl.ts'
import { TYPE } from '../../records/types.ts'
import { EXAMPLE_HEAD } from '../example-head.ts'
import type { Context, Repair, Rule, Visitor } from '../rule.ts'
import { ODD_TTL } from '../traits.ts'

/** A visitor for problems of one kind; `say` returns undefined where the rule does not speak of it after all. */
function onProblem(
  kind: ProblemKind,
  say: (problem: Problem, source: Source) => { message: string; consequence: string; fix: string[]; repair?: Repair } | undefined,
): Visitor {
  return {
    problem(problem: Problem, source: Source, cx: Context) {
      const said = problem.kind === kind ? say(problem, source) : undefined
      if (!said) return false
      cx.report({
        ...said,
        owner: problem.owner,
        type: problem.type,
        zone: cx.zones.zones[source.zone],
        at: { source, start: problem.start, end: problem.end },
      })
      return true
    },
  }
}

const written = (problem: Problem, source: Source): string => new TextDecoder().decode(source.octets.subarray(problem.start, problem.end))

export const nameLabelTooLong: Rule = {
  code: 'name/label-too-long',
  severity: 'error',
  source: 'RFC 1035 §2.3.4',
  title: 'a label of over 63 octets',
  why: 'A label’s length is written in six bits. Servers refuse the file.',
  remedy: 'Shorten the label, or divide it by a dot.',
  bad: [`${'a'.repeat(64)} A 192.0.2.10`, `www CNAME ${'a'.repeat(64)}.northlight.example.`],
  good: [`${'a'.repeat(63)} A 192.0.2.10`],
  visit: onProblem('label-too-long', (problem, source) => {
    const labels = written(problem, source).split('.')
    const long = labels.find((label) => label.length > 63) ?? labels[0]
    return {
      message: `a label of the name has ${long.length} octets: ${problem.value}`,
      consequence: 'At most 63 fit. Servers refuse the file.',
      fix: ['shorten the label to 63 octets or fewer'],
    }
  }),
}

export const nameTooLong: Rule = {
  code: 'name/too-long',
  severity: 'error',
  source: 'RFC 1035 §2.3.4',
  title: 'a name of over 255 octets, the zone’s own included',
  why: 'A name has at most 255 octets in a message. Servers refuse the file.',
  remedy: 'Shorten the name. If it was written out in full, put the final dot: without it the zone’s name is added once more.',
  bad: [`${`${'a'.repeat(60)}.`.repeat(4)}a A 192.0.2.10`, `www CNAME ${`${'a'.repeat(60)}.`.repeat(4)}a`],
  good: [`${`${'a'.repeat(55)}.`.repeat(4)}a A 192.0.2.10`],
  visit: onProblem('name-too-long', (problem) => ({
    message: problem.message,
    consequence: 'At most 255 octets fit. Servers refuse the file.',
    fix: ['shorten the name, or end it with a dot if it is written out in full'],
  })),
}

export const nameEmptyLabel: Rule = {
  code: 'name/empty-label',
  severity: 'error',
  source: 'RFC 1035 §3.1',
  title: 'two dots in a row, or a dot at the beginning of a name',
  why: 'Between two dots stands a label, and the empty one is the root’s alone. Servers refuse the file.',
  remedy: 'Take the spare dot out.',
  bad: ['www..lake A 192.0.2.10', 'www CNAME .site.northlight.example.', '@ MX 10 mail..larkpost.example.'],
  good: ['www.lake A 192.0.2.10', '@ MX 0 .\n@ TXT "v=spf1 -all"'],
  visit: onProblem('empty-label', (problem, source) => ({
    message: `an empty label in a name: ${problem.value}`,
    consequence: 'Servers refuse the file.',
    fix: [
      `write ${written(problem, source)
        .replace(/^\.+/, '')
        .replace(/\.{2,}/g, '.')}`,
    ],
  })),
}

export const setTtlOutOfRange: Rule = {
  code: 'set/ttl-out-of-range',
  severity: 'error',
  source: 'RFC 2181 §8',
  title: 'a TTL of over 2147483647 seconds',
  why: 'A TTL has 31 bits. Resolvers take a larger one as zero, and ask again for every question; some servers refuse the file.',
  remedy: 'State a TTL in seconds. An hour to a day suits most sets.',
  bad: ['www 2147483648 A 192.0.2.10'],
  good: ['www 604800 A 192.0.2.10'],
  visit: {
    record: {
      when: ODD_TTL,
      visit(record, cx) {
        const ttl = cx.zones.ttl(record)
        if (ttl <= MAX_TTL) return
        cx.report({
          record,
          part: 'ttl',
          message: `${cx.name(cx.zones.owner(record))} has a TTL of ${ttl} seconds; at most ${MAX_TTL} are allowed`,
          consequence: 'Resolvers take it as zero, or servers refuse the file.',
          fix: [`${cx.name(cx.zones.owner(record))} 3600 ${cx.record(record)}`],
        })
      },
    },
  },
}

export const nameOutOfZone: Rule = {
  code: 'name/out-of-zone',
  severity: 'error',
  source: 'RFC 1035 §5.2',
  title: 'an owner outside the zone that the file is for',
  why: 'A server is asked for names of its zone only: it ignores the record, or refuses the file.',
  remedy: 'Move the record to the file of the zone that the name is in. If the name was meant to be in this zone, take its final dot away.',
  bad: ['www.lakepass.example. A 192.0.2.10', 'hollowmere.example.hollowmere-freight.example. A 192.0.2.10'],
  good: ['www.hollowmere.example. A 192.0.2.10\nlakepass.example A 192.0.2.11'],
  visit: onProblem('out-of-zone', (problem, source) => ({
    message: problem.message,
    consequence: 'Servers ignore the record, or refuse the file.',
    fix: [
      `write it in the file of the zone that it is in, or, if ${written(problem, source).replace(/\.$/, '')} was meant to be in this zone, without its final dot`,
    ],
  })),
}

/** The text in quoted strings of at most 255 characters. */
function split(text: string): string {
  return (text.match(/(?:\\\d{3}|\\.|[^\\]){1,255}/gs) ?? []).map((part) => `"${part}"`).join(' ')
}

/** The string in parentheses, divided, in place of the one; not where that stands in parentheses or without quotes. */
function splitting(problem: Problem, source: Source): Repair | undefined {
  const [start, end] = [problem.start - 1, problem.end + 1]
  const line = source.octets.subarray(source.octets.lastIndexOf(0x0a, start) + 1, end)
  if (source.octets[start] !== 0x22 || source.octets[end - 1] !== 0x22 || line.includes(0x28)) return undefined
  return { at: { source, start, end }, text: `( ${split(written(problem, source))} )` }
}

export const txtStringTooLong: Rule = {
  code: 'txt/string-too-long',
  severity: 'error',
  source: 'RFC 1035 §3.3.14',
  title: 'one string of over 255 octets in a TXT record',
  why: 'A string’s length is written in one octet. Servers refuse the file.',
  remedy: 'Divide it into several quoted strings. SPF, DKIM and DMARC join them again, without anything between them.',
  bad: [`proof TXT "ferry-proof=${'A'.repeat(300)}"`],
  good: [`proof TXT "ferry-proof=${'A'.repeat(200)}" "${'A'.repeat(200)}"`],
  visit: onProblem('string-too-long', (problem, source) => ({
    message: problem.message,
    consequence: 'Servers refuse the file.',
    fix: [`TXT ( ${split(written(problem, source))} )`],
    repair: splitting(problem, source),
  })),
}

export const addressWithPort: Rule = {
  code: 'address/with-port',
  severity: 'error',
  source: 'RFC 1035 §3.4.1',
  title: 'an address with a port',
  why: 'An address record holds an address and nothing else. Servers refuse the file.',
  remedy: 'Write the address alone. The port is published by an SRV record, or is part of what the client is told.',
  bad: ['kiosk A 192.0.2.1:8443', 'kiosk AAAA [2001:db8::1]:8443'],
  good: ['kiosk A 192.0.2.1\n_ferrykiosk._tcp SRV 0 0 8443 kiosk'],
  visit: onProblem('bad-address', (problem, source) => {
    const match = /^(?:(\d+\.\d+\.\d+\.\d+)|\[([0-9a-f:.]+)\]):(\d{1,5})$/i.exec(written(problem, source))
    if (!match) return undefined
    const address = match[1] ?? match[2]
    return {
      message: `an address with a port, ${problem.value}; only the address fits`,
      consequence: 'Servers refuse the file.',
      fix: [`${problem.type === TYPE.AAAA ? 'AAAA' : 'A'} ${address}`, `and publish port ${match[3]} as a service: _SERVICE._tcp SRV 0 0 ${match[3]} HOST`],
    }
  }),
}

export const addressWithPrefix: Rule = {
  code: 'address/with-prefix',
  severity: 'error',
  source: 'RFC 1035 §3.4.1',
  title: 'an address with a prefix length',
  why: 'An address record holds one address, not a network. Servers refuse the file.',
  remedy: 'Write the address alone.',
  bad: ['kiosk A 192.0.2.1/24'],
  good: ['kiosk A 192.0.2.1'],
  visit: onProblem('bad-address', (problem, source) => {
    const match = /^([0-9a-f:.]+)\/\d{1,3}$/i.exec(written(problem, source))
    if (!match) return undefined
    return {
      message: `an address with a prefix length, ${problem.value}; only the address fits`,
      consequence: 'Servers refuse the file.',
      fix: [`${problem.type === TYPE.AAAA ? 'AAAA' : 'A'} ${match[1]}`],
    }
  }),
}

/** What was written in quotes, without them; not where there are none, or where what is in them needs them. */
function unquoting(problem: Problem, source: Source): Repair | undefined {
  const { start, end } = problem
  const text = /^"([^\s;()"\\]+)"$/.exec(written(problem, source))?.[1]
  if (text === undefined) return undefined
  const touches = start > 0 && !/[\s(]/.test(String.fromCharCode(source.octets[start - 1]))
  return { at: { source, start, end }, text: touches ? ` ${text}` : text }
}

export const fileQuoted: Rule = {
  code: 'file/quoted',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'quotes around what is no text: a name, a number, an address, a type',
  why: 'Quotes are for texts, as in TXT. Around anything else some servers refuse the whole file; others take a quoted name for a single label with dots in it.',
  remedy: 'Take the quotes away.',
  bad: ['www A "192.0.2.10"', 'www CNAME "site.northlight.example."', '@ MX "10" mx.larkpost.example.', '"www" A 192.0.2.10', 'www "300" A 192.0.2.10'],
  good: ['www A 192.0.2.10', 'www 300 TXT "quotes are for texts"', '@ CAA 0 issue "ca.larkpost.example"', 'www HTTPS 1 . alpn="h2"\nwww A 192.0.2.10'],
  visit: onProblem('quoted', (problem, source) => ({
    message: problem.message,
    consequence: 'Some servers refuse the file; others take a quoted name for a single label.',
    fix: [`write ${problem.wanted}`],
    repair: unquoting(problem, source),
  })),
}

export const fileUnquoted: Rule = {
  code: 'file/unquoted',
  severity: 'error',
  source: 'RFC 7553 §4.4',
  title: 'the target of URI without quotes',
  why: 'The target of URI is written in quotes. Without them some servers refuse the whole file.',
  remedy: 'Put quotes around the target.',
  bad: ['_ferrykiosk._tcp URI 10 1 https://kiosk.hollowmere.example/'],
  good: ['_ferrykiosk._tcp URI 10 1 "https://kiosk.hollowmere.example/"'],
  visit: onProblem('unquoted', (problem, source) => ({
    message: `${problem.message}: ${problem.value}`,
    consequence: 'Some servers refuse the file.',
    fix: [`write ${problem.wanted}`],
    repair: /["\\]/.test(written(problem, source))
      ? undefined
      : { at: { source, start: problem.start, end: problem.end }, text: `"${written(problem, source)}"` },
  })),
}

export const fileTouching: Rule = {
  code: 'file/touching',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'a text in quotes with no blank between it and what is beside it',
  why: 'Values are parted by blanks. Without one some servers refuse the whole file; others see two values all the same.',
  remedy: 'Put a blank between them.',
  bad: ['@ TXT "one""two"', '@ TXT "one"two', 'www HTTPS 1 . alpn="h2"port=8443\nwww A 192.0.2.10'],
  good: ['@ TXT "one" "two"', '@ TXT ("one" "two")', 'www HTTPS 1 . alpn="h2" port=8443\nwww A 192.0.2.10'],
  visit: onProblem('touching', (problem, source) => ({
    message: problem.message,
    consequence: 'Some servers refuse the file.',
    fix: [`write ${problem.wanted}`],
    repair: { at: { source, start: problem.start, end: problem.start }, text: ' ' },
  })),
}

export const fileLineInText: Rule = {
  code: 'file/line-in-text',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'a line that ends inside a text in quotes',
  why: 'The standard lets a text go on over the end of a line, and most servers refuse the whole file. Those that read it have the line’s end as part of the text, where it is seldom meant.',
  remedy: 'Write the text on one line, or as several texts in quotes inside parentheses. A line’s end that is meant is written \\010.',
  bad: ['@ TXT "ferry-proof=\n41c2"'],
  good: ['@ TXT ( "ferry-proof="\n  "41c2" )', '@ HINFO "one" "two"'],
  visit: onProblem('line-in-text', (problem) => ({
    message: problem.message,
    consequence: 'Most servers refuse the file; the others publish the line’s end as part of the text.',
    fix: ['close the quotes on their line, and go on with new ones inside parentheses', 'or write \\010 where a line’s end is meant'],
  })),
}

export const fileByteOrderMark: Rule = {
  code: 'file/byte-order-mark',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'a byte-order mark at the beginning of a file',
  why: 'Some editors put these three octets in front of a text. They cannot be seen, and servers take them for a part of the first line: they refuse the whole file.',
  remedy: 'Save the file as UTF-8 without a byte-order mark.',
  bad: [{ whole: true, zones: { 'hollowmere.example': `\ufeff${EXAMPLE_HEAD}www A 192.0.2.10` } }],
  good: ['www A 192.0.2.10'],
  visit: onProblem('byte-order-mark', (problem, source) => ({
    message: problem.message,
    consequence: 'Servers refuse the file.',
    fix: ['save the file without it'],
    repair: { at: { source, start: problem.start, end: problem.end }, text: '' },
  })),
}

export const fileCarriageReturn: Rule = {
  code: 'file/carriage-return',
  severity: 'advice',
  source: 'practice',
  title: 'lines that end in a carriage return and a newline',
  why: 'So some editors write them. Most servers pass the carriage returns over; some refuse the whole file.',
  remedy: 'Have the editor end lines in newlines alone, if your server refuses the file.',
  bad: ['www A 192.0.2.10\r\nkiosk A 192.0.2.11\r'],
  good: ['www A 192.0.2.10\nkiosk A 192.0.2.11'],
  visit: onProblem('carriage-return', (problem) => ({
    message: problem.message,
    consequence: 'Some servers refuse the file.',
    fix: ['let lines end in newlines alone'],
  })),
}

export const fileParameterName: Rule = {
  code: 'file/parameter-name',
  severity: 'warning',
  source: 'RFC 9460 §2.1',
  title: 'a service parameter spelled as not all servers read it',
  why: 'Late names of parameters are not known to every server, which then refuses the file. By its number a parameter has its octets as value; some servers read it as they read it by name.',
  remedy: 'Write mandatory to ipv6hint by name, all others as key and the number.',
  bad: ['www HTTPS 1 . alpn=h2 ohttp\nwww A 192.0.2.10', 'www HTTPS 1 . key3="\\032\\251"\nwww A 192.0.2.10'],
  good: ['www HTTPS 1 . alpn=h2 key8\nwww A 192.0.2.10', 'www HTTPS 1 . port=8443\nwww A 192.0.2.10'],
  visit: onProblem('parameter-name', (problem, source) => ({
    message: problem.message,
    consequence: 'Some servers refuse the file, or take another value.',
    fix: [`write ${problem.wanted}`],
    repair: { at: { source, start: problem.start, end: problem.end }, text: problem.wanted },
  })),
}

export const fileTypeNotRead: Rule = {
  code: 'file/type-not-read',
  severity: 'warning',
  source: 'RFC 3597 §5',
  title: 'data of a type that is not read here but in the generic form',
  why: 'Few servers read such types by their own form, if any. The record is not checked, nor kept through a change of its set.',
  remedy: 'Write the data in the generic form: a backslash and a number sign, the length, hexadecimal digits.',
  bad: ['kiosk A6 0 2001:db8::10', 'kiosk TYPE65280 some data'],
  good: ['kiosk TYPE65280 \\# 2 0102'],
  visit: onProblem('type-not-read', (problem) => ({
    message: problem.message,
    consequence: 'Some servers read it, if it is a type that they know; others refuse the file.',
    fix: [problem.wanted],
  })),
}

export const fileRelativeOrigin: Rule = {
  code: 'file/relative-origin',
  severity: 'warning',
  source: 'RFC 1035 §5.1',
  title: 'an origin without its final dot, in $ORIGIN or $INCLUDE',
  why: 'Some servers complete it with the origin in force; others refuse the whole file.',
  remedy: 'Write the name out, with its final dot.',
  bad: ['$ORIGIN lake\nkiosk A 192.0.2.30'],
  good: ['$ORIGIN lake.hollowmere.example.\nkiosk A 192.0.2.30'],
  visit: onProblem('relative-origin', (problem, source) => ({
    message: `${problem.message}: it is read as ${problem.wanted}`,
    consequence: 'Some servers refuse the file.',
    fix: [`write ${problem.wanted}`],
    repair: { at: { source, start: problem.start, end: problem.end }, text: problem.wanted },
  })),
}

export const fileParenthesisFirst: Rule = {
  code: 'file/parenthesis-first',
  severity: 'error',
  source: 'RFC 1035 §5.1',
  title: 'a parenthesis in front of the owner',
  why: 'A parenthesis lets an entry go on over the end of a line; the entry begins with its owner. Most servers refuse the whole file.',
  remedy: 'Write the owner first, and the parenthesis behind it.',
  bad: ['( kiosk A 192.0.2.30 )'],
  good: ['kiosk ( A 192.0.2.30 )'],
  visit: onProblem('parenthesis-first', (problem) => ({
    message: problem.message,
    consequence: 'Most servers refuse the file.',
    fix: [`write ${problem.wanted}`],
  })),
}
