/** Faults that the reader meets because they keep it from reading a record: each is one of its problems, spoken of by one rule. */

import type { Problem, ProblemKind } from '../../records/tokens.ts'
import { TYPE } from '../../records/types.ts'
import type { Source } from '../../zone/zones.ts'
import type { Context, Rule, Visitor } from '../rule.ts'

/** A visitor for problems of one kind; `say` returns undefined where the rule does not speak of it after all. */
function onProblem(kind: ProblemKind, say: (problem: Problem, source: Source) => { message: string; consequence: string; fix: string[] } | undefined): Visitor {
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

export const txtStringTooLong: Rule = {
  code: 'txt/string-too-long',
  severity: 'error',
  source: 'RFC 1035 §3.3.14',
  title: 'one string of over 255 octets in a TXT record',
  why: 'A string’s length is written in one octet. Servers refuse the file.',
  remedy: 'Divide it into several quoted strings. SPF, DKIM and DMARC join them again, without anything between them.',
  bad: [`s2026._domainkey TXT "v=DKIM1; p=${'A'.repeat(300)}"`],
  good: [`s2026._domainkey TXT "v=DKIM1; p=${'A'.repeat(200)}" "${'A'.repeat(200)}"`],
  visit: onProblem('string-too-long', (problem, source) => ({
    message: problem.message,
    consequence: 'Servers refuse the file.',
    fix: [`TXT ( ${split(written(problem, source))} )`],
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
