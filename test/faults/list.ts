/** Faults for the code of verdicts and time: each is a small thing that somebody could get wrong, and the tests have to see it. */

export interface Fault {
  /** In src/core/confirm. */
  file: string
  /** What stands there once, and what is put in its place. */
  find: string
  put: string
  /** What is wrong then. */
  what: string
}

const of = (file: string, ...faults: [find: string, put: string, what: string][]): Fault[] =>
  faults.map(([find, put, what]) => ({ file, find, put, what }))

export const FAULTS: readonly Fault[] = [
  ...of(
    'history.ts',
    ['from + ttl + LAST_SECOND', 'from + ttl', 'the second in which a TTL comes to 0 is forgotten'],
    [
      'letGo(Math.max(Math.min(gone ?? now, now), delegation), held)',
      'letGo(Math.max(Math.min(gone ?? now, now), delegation), 0)',
      'a state is gone from caches when it is gone from the servers',
    ],
    [
      'letGo(Math.max(Math.min(gone ?? now, now), delegation), held)',
      'letGo(Math.min(gone ?? now, now), held)',
      'an earlier delegation is forgotten',
    ],
    [
      'letGo(Math.max(Math.min(gone ?? now, now), delegation), held)',
      'letGo(Math.max(gone ?? now, delegation), held)',
      'a state is given up in the future',
    ],
    [
      "state.digest !== now.digest || (state.digest !== 'none' && state.ttl > now.ttl)",
      'state.digest !== now.digest',
      'the same data with a longer TTL do not matter',
    ],
    [
      'each.all && each.at >= state.until && !isSame(each, state)',
      'each.at >= state.until && !isSame(each, state)',
      'one server that has something else is enough',
    ],
    [
      'each.all && each.at >= state.until && !isSame(each, state)',
      'each.all && !isSame(each, state)',
      'a state ends before it was there',
    ],
    [
      'each.all && isNow(each) && each.at >= lastOther',
      'each.all && isNow(each)',
      'what came back was published when it was there first',
    ],
    ['intended: all || written', 'intended: all', 'what a command wrote was never intended'],
    [
      'left.every(({ gone }) => gone !== undefined)',
      'left.some(({ gone }) => gone !== undefined)',
      'one known end makes all of them known',
    ],
  ),
  ...of(
    'status.ts',
    [
      'const rest = letGo(judged.at, judged.ttl)',
      'const rest = letGo(now, judged.ttl)',
      'what is left is counted from now, however old the answer is',
    ],
    [
      'Math.max(rest, end, waitFor(facts.past, now, facts.delegation).end)',
      'Math.max(end, waitFor(facts.past, now, facts.delegation).end)',
      'what the answer itself says does not count',
    ],
    [
      'Math.max(rest, end, waitFor(facts.past, now, facts.delegation).end)',
      'Math.max(rest, end)',
      'another cache behind the address is forgotten',
    ],
    [
      'if (late && promised !== undefined && now > promised) return overdue',
      'if (late && promised !== undefined && now > promised + 86_400) return overdue',
      'overdue a day late',
    ],
    ['const FAILURE_TTL = 300', 'const FAILURE_TTL = 3000', 'failures are cached for longer'],
    ['export const LONGEST = 604_800', 'export const LONGEST = 86_400', 'caches keep nothing for longer than a day'],
    [
      'knownSince !== undefined && until > letGo(knownSince, longest)',
      'knownSince !== undefined',
      'what is known now was always known',
    ],
    [
      'if (judged.ttl === null || judged.ownAnswer) return ownAnswer(judged, causes, facts)',
      'if (judged.ttl === null) return ownAnswer(judged, causes, facts)',
      'a TTL that does not fall is waited for',
    ],
    [
      'if (unseen && unseen.left.length > 0) problems.push(ofUnseenNames(unseen, servers.length > 0, facts))',
      '',
      'a wildcard is through at once',
    ],
    [
      'silent.length > 0 && !reached.some(({ vantage }) => facts.copies.get(vantage)?.isPrimary)',
      'silent.length > 99',
      'a primary that did not reply has not got it',
    ],
    ['if (serial === best.serial)', 'if (false)', 'other data under the same serial are behind'],
    ['if (copy.isPrimary)', 'if (false)', 'a primary fetches from its secondary'],
    ['if (facts.now > until)\n', 'if (false)\n', 'a secondary may be behind for ever'],
    [
      'if (right.length < servers.length) return amongServers',
      'if (right.length === 0) return amongServers',
      'one server that has it is enough',
    ],
    [
      'return rankB > rankA || (rankB === rankA && (b.until ?? 0) > (a.until ?? 0)) ? b : a',
      'return rankB > rankA ? b : a',
      'of two that settle the first one counts',
    ],
    [
      'if (others.length > 0)\n',
      'if (others.length === servers.length)\n',
      'one server that answers for the zone is enough',
    ],
  ),
  ...of(
    'verdict.ts',
    [
      "return role === 'resolver' ? soa.ttl : negativeTtl(soa.ttl, soa.data)",
      'return negativeTtl(soa.ttl, soa.data)',
      'a denial is kept for the minimum of the zone',
    ],
    ['at - before.at >= 1.5', 'at - before.at >= 0', 'a TTL that did not fall within no time does not fall'],
    ['const STALE_ERRORS = [3, 19]', 'const STALE_ERRORS = [3]', 'an expired denial is none'],
    ['if (ttl <= intended.ttl) return', 'if (ttl <= intended.ttl * 2) return', 'a TTL above the intended one is none'],
    ['each.ttl >= ttl && expiryOf(each, at) > at', 'each.ttl >= ttl', 'a TTL of long ago explains one of now'],
    [
      "role === 'authoritative' ? !message.authoritative : answers[0]!.ttl > intended.ttl",
      "role === 'authoritative' ? false : answers[0]!.ttl > intended.ttl",
      'authority does not count',
    ],
    [
      'below.length >= 3 ? lowest : undefined',
      'below.length >= 1 ? lowest : undefined',
      'one TTL that differs is a floor of the host',
    ],
    [
      'if (message.rcode === 3)\n    return { ...answered, verdict',
      'if (message.rcode === 33)\n    return { ...answered, verdict',
      'a zone that is denied is there',
    ],
    [
      "if (question.intended && judged.verdict === 'as-intended') return judged\n",
      '',
      'a set that follows is compared with its target alone',
    ],
  ),
  ...of(
    'memory.ts',
    ['{ at: run?.at ?? at, until: run?.until ?? promised }', '{ at, until: promised }', 'every run begins anew'],
    [
      '{ at: run?.at ?? at, until: run?.until ?? promised }',
      '{ at: run?.at ?? at, until: promised }',
      'what was promised first does not bind',
    ],
    [
      'if (times[i]! > now) times[i] = next',
      'if (times[i]! > now) next = now',
      'a log from the future counts as it says',
    ],
    [
      'known.written = [...(known.written ?? []), { at, set: before }, { at, set: after }]',
      '',
      'what commands wrote is forgotten',
    ],
    ['since: goesOn ? known.since : at', 'since: known?.since ?? at', 'an edit by hand leaves no gap'],
    ['known?.digest === digest ? known.since : undefined', 'known?.since', 'what is there now was seen before'],
    [
      'servers.length > 0 && servers.every(({ verdict, ofTarget })',
      'servers.length > 0 && servers.some(({ verdict, ofTarget })',
      'one server that has it is all of them',
    ],
  ),
  ...of(
    'timing.ts',
    [
      'Math.max(longestTtl(answer(zones, asked, type)), delegatedFor ?? 0)',
      'longestTtl(answer(zones, asked, type))',
      'the parent’s NS TTL does not count',
    ],
    [
      'Math.max(letGo(Math.max(now, delegation ?? 0), held), wait.end)',
      'letGo(Math.max(now, delegation ?? 0), held)',
      'what was before the last change is forgotten',
    ],
    [
      'Math.max(letGo(Math.max(now, delegation ?? 0), held), wait.end)',
      'Math.max(letGo(now, held), wait.end)',
      'an earlier delegation is forgotten',
    ],
    ['(wait.end > letGo(now, held) ? wait.end : now)', 'now', 'a TTL that was lowered is low at once'],
  ),
  ...of(
    'delegation.ts',
    ['Math.max(each.held, longest, intended.nsTtl)', 'each.held', 'only the TTL of the earlier NS set counts'],
    [
      "each.digest !== 'none' && matters(each, question)",
      'matters(each, question)',
      'a zone that had no servers had others',
    ],
  ),
  ...of(
    'zone-state.ts',
    ['(since ?? now) + refresh + retry', '(since ?? now) + refresh', 'the retry time of a secondary does not count'],
    ['copy.atMost = since === undefined', 'copy.atMost = false', 'an end that is not known is known'],
    [
      "verdict !== 'as-intended' || noName) continue",
      'noName) continue',
      'a server that has nothing there serves the name',
    ],
  ),
  ...of(
    'signatures.ts',
    ['signed.until >= now && signed.from <= now', 'signed.until >= now', 'signatures hold before they begin'],
    ['signed.until - now > ENDS_SOON) return []', 'true) return []', 'nobody is told that signatures end'],
    ['if (secured === false) return undefined', '', 'a zone that nobody validates is gone'],
  ),
  ...of(
    'due.ts',
    ['isOpen ? lookedAt + POLL', 'isOpen ? lookedAt', 'servers are asked all the time'],
    ['Math.max(at + LEAST, letGo(at, ttl ?? 0))', 'at + LEAST', 'a cache is asked before its answer is gone'],
  ),
  ...of('watch.ts', ['Math.max(due, asking.now() + LEAST)', 'due', 'rounds follow one another at once']),
  ...of(
    'round.ts',
    [
      'for (let i = 1; i < LOOKS; i++) {',
      'for (let i = 1; i < 1; i++) {',
      'answers are judged by serials of another look',
    ],
    [
      'atServers.length > 0 && atServers.every(isAsIntended)',
      'atServers.some(isAsIntended)',
      'resolvers are asked when one server has it',
    ],
    [
      'if (early || !reserve || !mayKeep || known.some',
      'if (true || early || !reserve || !mayKeep || known.some',
      'a resolver that is named alone is asked first',
    ],
  ),
  ...of(
    'looks.ts',
    [
      "new Set(['earlier-answer', 'different', 'aliased', 'absent', 'stale'])",
      "new Set(['earlier-answer', 'different', 'aliased', 'absent'])",
      'an expired answer is not looked at again',
    ],
    [
      "role === 'resolver' ? states : states.filter(({ intended }) => intended)",
      'states',
      'what a server had by mistake is an earlier answer of it',
    ],
    [
      'if (!isOne() || !came.every((one) => all.has(one))) return judged',
      'if (!came.every((one) => all.has(one))) return judged',
      'some of the data are all of them',
    ],
  ),
  ...of(
    'questions.ts',
    ['negativeTtl: longestTtl(now)', 'negativeTtl: 0', 'a denial is kept by nobody'],
    [
      'soa) ttls.push(negativeTtl(soa.ttl, soa.data[0]!))',
      'soa) ttls.push(soa.ttl)',
      'a denial is kept as long as the SOA record',
    ],
  ),
]
