/** Faults that the reader meets because they keep it from reading a record: each is one of its problems, spoken of by one rule. */

import type { Problem, ProblemKind } from '../../records/tokens.ts'
import { MAX_TTL } from '../../records/ttl.ts'
import { TYPE } from '../../records/types.ts'
import type { Source } from '../../zone/zones.ts'
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
